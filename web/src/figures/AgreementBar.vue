<script setup lang="ts">
import { computed } from 'vue'

import type { FigureEstimate } from '@/shared/api/types'

/** A coefficient of agreement on an axis from 0, where chance alone stands, to 1; what lies below 0 is cut with an arrow. */
const props = defineProps<{ width: number; estimate: FigureEstimate }>()

const HEIGHT = 26
const EDGE = 9
const MARKS = [0, 0.2, 0.4, 0.6, 0.8, 1]
const x = (value: number) => EDGE + Math.min(1, Math.max(0, value)) * (props.width - 2 * EDGE)
const cut = computed(() => props.estimate.lower < 0)
</script>

<template>
  <svg :width="width" :height="HEIGHT" :viewBox="`0 0 ${width} ${HEIGHT}`" aria-hidden="true">
    <line v-for="mark in MARKS" :key="mark" class="grid" :x1="x(mark)" :x2="x(mark)" y1="0" :y2="HEIGHT" />
    <rect
      class="interval"
      :x="x(estimate.lower)"
      :width="Math.max(2, x(estimate.upper) - x(estimate.lower))"
      :y="HEIGHT / 2 - 4"
      height="8"
      rx="4"
    />
    <path v-if="cut" class="arrow" :d="`M ${EDGE} ${HEIGHT / 2 - 6} l -6 6 l 6 6`" />
    <line
      class="point"
      :x1="x(estimate.estimate)"
      :x2="x(estimate.estimate)"
      :y1="HEIGHT / 2 - 9"
      :y2="HEIGHT / 2 + 9"
    />
  </svg>
</template>

<style scoped>
svg {
  display: block;
}
.grid {
  stroke: var(--line);
}
.interval {
  fill: rgb(var(--v-theme-secondary));
  fill-opacity: 0.35;
}
.point {
  stroke: rgb(var(--v-theme-secondary));
  stroke-width: 3;
}
.arrow {
  fill: none;
  stroke: rgb(var(--v-theme-secondary));
  stroke-width: 2;
}
</style>
