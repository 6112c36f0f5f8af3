<script setup lang="ts">
import type { ShareEstimate } from '@/shared/api/types'

/** A share with its interval on an axis from 0 to 100 %. */
const props = defineProps<{ width: number; share: ShareEstimate; kind: 'round' | 'square' }>()

const HEIGHT = 24
const EDGE = 4
const MARKS = [0, 0.25, 0.5, 0.75, 1]
const x = (share: number) => EDGE + share * (props.width - 2 * EDGE)
</script>

<template>
  <svg :width="width" :height="HEIGHT" :viewBox="`0 0 ${width} ${HEIGHT}`" aria-hidden="true">
    <line v-for="mark in MARKS" :key="mark" class="grid" :x1="x(mark)" :x2="x(mark)" y1="0" :y2="HEIGHT" />
    <rect
      class="interval"
      :x="x(share.lower)"
      :width="Math.max(2, x(share.upper) - x(share.lower))"
      :y="HEIGHT / 2 - 5"
      height="10"
      :rx="kind === 'round' ? 5 : 1"
    />
    <line class="point" :x1="x(share.estimate)" :x2="x(share.estimate)" y1="3" :y2="HEIGHT - 3" />
  </svg>
</template>

<style scoped>
svg {
  display: block;
  max-width: 100%;
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
</style>
