<script setup lang="ts">
import { useResizeObserver } from '@vueuse/core'
import { ref } from 'vue'

/** What may be wider than the page and then scrolls by itself; the keyboard reaches it where it does. */
defineProps<{ label: string }>()

const block = ref<HTMLElement | null>(null)
const content = ref<HTMLElement | null>(null)
const scrolls = ref(false)
useResizeObserver([block, content], () => {
  const of = block.value
  if (of) scrolls.value = of.scrollWidth > of.clientWidth + 1
})
</script>

<template>
  <div
    ref="block"
    class="wide-block"
    :tabindex="scrolls ? 0 : undefined"
    :role="scrolls ? 'group' : undefined"
    :aria-label="scrolls ? label : undefined"
  >
    <div ref="content" class="content"><slot /></div>
  </div>
</template>

<style scoped>
.wide-block {
  overflow-x: auto;
  /* Words for screen readers only are laid out in it, and widen nothing outside. */
  position: relative;
}
.content {
  min-width: min-content;
}
@media print {
  .wide-block {
    overflow: visible;
  }
}
</style>
