<script setup lang="ts">
import { text } from '@/shared/text'

/** Waiting, without measuring the page as the framework's bar does: pages open sooner. Its place stays while idle. */
withDefaults(defineProps<{ active?: boolean }>(), { active: true })
</script>

<template>
  <div class="wait-line">
    <progress v-if="active" :aria-label="text.layout.wait" />
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
