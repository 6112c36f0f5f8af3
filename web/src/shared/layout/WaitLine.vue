<script setup lang="ts">
import { onBeforeUnmount, ref, watch } from 'vue'

import { text } from '@/shared/text'

/**
 * Waiting, without measuring the page as the framework's bar does: pages open sooner. Its place stays while idle, and what is answered at
 * once shows no line: it would only flicker, and have the page painted once more.
 */
const props = withDefaults(defineProps<{ active?: boolean }>(), { active: true })

const AT_ONCE_MILLISECONDS = 150
const shown = ref(false)
let timer: ReturnType<typeof setTimeout> | undefined
watch(
  () => props.active,
  (active) => {
    clearTimeout(timer)
    if (active) timer = setTimeout(() => (shown.value = true), AT_ONCE_MILLISECONDS)
    else shown.value = false
  },
  { immediate: true },
)
onBeforeUnmount(() => clearTimeout(timer))
</script>

<template>
  <div class="wait-line">
    <progress v-if="shown" :aria-label="text.layout.wait" />
  </div>
</template>

<style scoped>
.wait-line {
  height: 2px;
  overflow: hidden;
}
progress {
  display: block;
  width: 40%;
  height: 2px;
  border: 0;
  appearance: none;
  background: linear-gradient(90deg, transparent, rgb(var(--v-theme-primary)), transparent);
  /* A movement that the page is not painted anew for: hundreds of rows below it would be, sixty times a second. */
  animation: pass 1.4s linear infinite;
  will-change: transform;
}
progress::-webkit-progress-bar {
  background: none;
}
@keyframes pass {
  from {
    transform: translateX(-100%);
  }
  to {
    transform: translateX(250%);
  }
}
@media (prefers-reduced-motion: reduce) {
  progress {
    width: 100%;
    animation: none;
    background: rgb(var(--v-theme-primary));
  }
}
</style>
