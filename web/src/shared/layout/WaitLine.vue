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
  width: 100%;
  height: 2px;
  border: 0;
  appearance: none;
  background: linear-gradient(90deg, transparent, rgb(var(--v-theme-primary)), transparent) 0 0 / 40% 100%
    no-repeat;
  animation: pass 1.4s linear infinite;
}
progress::-webkit-progress-bar {
  background: none;
}
@keyframes pass {
  from {
    background-position: -60% 0;
  }
  to {
    background-position: 160% 0;
  }
}
@media (prefers-reduced-motion: reduce) {
  progress {
    animation: none;
    background: rgb(var(--v-theme-primary));
  }
}
</style>
