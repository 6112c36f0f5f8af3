<script setup lang="ts">
import { computed } from 'vue'

import { text } from '@/shared/text'
import { undoBar } from '@/shared/undo'

/** A link with a secret, shown this once to whoever made it, to be passed on. */
const props = defineProps<{ path: string; about: string; test: string }>()
const link = computed(() => window.location.origin + props.path)

async function copy() {
  await navigator.clipboard.writeText(link.value)
  undoBar.offer(text.people.copied)
}
</script>

<template>
  <div class="link" role="status">
    <p>{{ about }}</p>
    <code class="wrap-anywhere" :data-test="test">{{ link }}</code>
    <v-btn @click="copy">{{ text.people.copy }}</v-btn>
  </div>
</template>

<style scoped>
.link {
  display: grid;
  gap: 8px;
  justify-items: start;
  max-width: 720px;
  margin: 6px 0 18px;
  padding: 14px 16px;
  border: 1px solid var(--line);
  border-radius: 8px;
}
</style>
