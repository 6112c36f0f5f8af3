<script setup lang="ts">
import { computed } from 'vue'

import { text } from '@/shared/text'

/** How far reading has come: a stroke for each reader, joined below when it is settled; said in words beside it. */
const props = defineProps<{ progress: string }>()

const STEPS = ['unread', 'once', 'twice', 'settled']
const step = computed(() => STEPS.indexOf(props.progress))
</script>

<template>
  <span class="progress" data-test="progress">
    <svg width="18" height="16" viewBox="0 0 18 16" aria-hidden="true">
      <line x1="5" y1="2" x2="5" y2="11" :class="{ done: step >= 1 }" />
      <line x1="13" y1="2" x2="13" y2="11" :class="{ done: step >= 2 }" />
      <line x1="3" y1="14" x2="15" y2="14" :class="{ done: step >= 3 }" />
    </svg>
    {{ text.extraction.progress[progress] }}
  </span>
</template>

<style scoped>
.progress {
  display: inline-flex;
  align-items: flex-start;
  gap: 7px;
}
svg {
  flex: none;
  margin-top: 2px;
}
line {
  stroke: var(--line);
  stroke-width: 2;
}
.done {
  stroke: rgb(var(--v-theme-primary));
  stroke-width: 3.5;
}
</style>
