<script setup lang="ts">
import type { Judgement } from '@/shared/api/types'

/** One domain: a post that is whole at low risk, half filled when unclear, broken at high risk; a dot where nobody judged. */
defineProps<{ risk: Judgement | null }>()

const WIDTH = 6
const HEIGHT = 16
</script>

<template>
  <rect v-if="risk === 'low'" class="full" :width="WIDTH" :height="HEIGHT" />
  <g v-else-if="risk === 'unclear'">
    <rect class="line" x="0.5" y="0.5" :width="WIDTH - 1" :height="HEIGHT - 1" />
    <rect class="full" :y="HEIGHT / 2" :width="WIDTH" :height="HEIGHT / 2" />
  </g>
  <g v-else-if="risk === 'high'">
    <rect class="line" x="0.5" y="0.5" :width="WIDTH - 1" height="4" />
    <rect class="line" x="0.5" :y="HEIGHT - 4.5" :width="WIDTH - 1" height="4" />
  </g>
  <circle v-else class="full none" :cx="WIDTH / 2" :cy="HEIGHT - 1.5" r="1.5" />
</template>

<style scoped>
.full {
  fill: currentColor;
}
.line {
  fill: none;
  stroke: currentColor;
}
.none {
  opacity: 0.6;
}
</style>
