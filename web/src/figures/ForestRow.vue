<script setup lang="ts">
import type { ShareEstimate } from '@/shared/api/types'

/** One proportion of the paired forest, as wide as its place: an interval from 0 to 100 %; the summary is a solid bar with ends. */
const props = defineProps<{
  share?: ShareEstimate | null
  n?: number
  summary?: boolean
  /** Where the next study is expected: a bracket around the summary. */
  ahead?: boolean
}>()

const MIDDLE = 15
const x = (p: number) => `${100 * p}%`
/** The mark grows with the square root of the people behind it, so that its area is in proportion. */
const radius = () => Math.min(8, 2 + Math.sqrt(props.n ?? 0) * 0.42)
</script>

<template>
  <svg aria-hidden="true">
    <svg viewBox="0 0 4 1" preserveAspectRatio="none">
      <path class="grid" d="M0 0V1M1 0V1M2 0V1M3 0V1M4 0V1" />
    </svg>
    <g v-if="share && ahead" class="ahead">
      <line :x1="x(share.lower)" :x2="x(share.upper)" :y1="MIDDLE" :y2="MIDDLE" />
      <line
        v-for="(end, index) in [share.lower, share.upper]"
        :key="index"
        :x1="x(end)"
        :x2="x(end)"
        :y1="MIDDLE - 5"
        :y2="MIDDLE + 5"
      />
    </g>
    <template v-else-if="share && summary">
      <rect
        class="band"
        :x="x(share.lower)"
        :y="MIDDLE - 6"
        :style="{ width: `max(2px, ${x(share.upper - share.lower)})` }"
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
/* Marks at the ends are whole: `ForestAxis` leaves the same room. */
svg {
  display: block;
  width: calc(100% - 12px);
  height: 30px;
  margin: 0 6px;
  /* Nothing lies outside; a clip for each of hundreds would double the time of painting. */
  overflow: visible;
  color: rgb(var(--v-theme-on-background));
}
svg svg {
  width: 100%;
  margin: 0;
}
.grid {
  fill: none;
  stroke: var(--line);
  vector-effect: non-scaling-stroke;
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
  stroke: rgb(var(--v-theme-primary));
  stroke-width: 1.6;
}
.ahead line:first-child {
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
