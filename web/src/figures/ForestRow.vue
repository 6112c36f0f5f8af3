<script setup lang="ts">
import type { ShareEstimate } from '@/shared/api/types'

/** One proportion of the paired forest: an interval on a 0-100 % axis; the summary is a solid bar with ends. */
const props = defineProps<{
  width: number
  share?: ShareEstimate | null
  n?: number
  summary?: boolean
  /** Where the next study is expected: a bracket around the summary. */
  ahead?: boolean
}>()

const HEIGHT = 30
const MIDDLE = HEIGHT / 2
const EDGE = 6
const x = (p: number) => EDGE + p * (props.width - 2 * EDGE)
/** The mark grows with the square root of the people behind it, so that its area is in proportion. */
const radius = () => Math.min(8, 2 + Math.sqrt(props.n ?? 0) * 0.42)
const grid = () => [0, 0.25, 0.5, 0.75, 1].map((mark) => `M${x(mark)} 0V${HEIGHT}`).join('')
</script>

<template>
  <svg :width="width" :height="HEIGHT" :viewBox="`0 0 ${width} ${HEIGHT}`" aria-hidden="true">
    <path class="grid" :d="grid()" />
    <path
      v-if="share && ahead"
      class="ahead"
      :d="`M${x(share.lower)} ${MIDDLE - 5}v10m0 -5H${x(share.upper)}m0 -5v10`"
    />
    <template v-else-if="share && summary">
      <rect
        class="band"
        :x="x(share.lower)"
        :y="MIDDLE - 6"
        :width="Math.max(2, x(share.upper) - x(share.lower))"
        height="12"
      />
      <line
        class="middle"
        :x1="x(share.estimate)"
        :x2="x(share.estimate)"
        :y1="MIDDLE - 11"
        :y2="MIDDLE + 11"
      />
    </template>
    <template v-else-if="share">
      <line class="interval" :x1="x(share.lower)" :x2="x(share.upper)" :y1="MIDDLE" :y2="MIDDLE" />
      <circle class="mark" :cx="x(share.estimate)" :cy="MIDDLE" :r="radius()" />
    </template>
  </svg>
</template>

<style scoped>
svg {
  display: block;
  /* Nothing lies outside; a clip for each of hundreds would double the time of painting. */
  overflow: visible;
  color: rgb(var(--v-theme-on-background));
}
.grid {
  stroke: var(--line);
}
.interval {
  stroke: currentColor;
  stroke-width: 1.6;
}
.mark {
  fill: rgb(var(--v-theme-background));
  stroke: currentColor;
  stroke-width: 2.2;
}
.ahead {
  fill: none;
  stroke: rgb(var(--v-theme-primary));
  stroke-width: 1.6;
  stroke-dasharray: 5 3;
}
.band {
  fill: rgb(var(--v-theme-primary));
  fill-opacity: 0.4;
}
.middle {
  stroke: rgb(var(--v-theme-primary));
  stroke-width: 3;
}
</style>
