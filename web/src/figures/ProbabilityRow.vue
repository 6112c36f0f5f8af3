<script setup lang="ts">
import { computed } from 'vue'

import type { ShareEstimate } from '@/shared/api/types'
import { supported } from '@/shared/format'
import type { ProbabilityScale } from './probabilityScale'

/**
 * One row of the walk from before testing to after the results: where it starts, where it leads, and how sure that is. A positive result
 * has round ends and a negative one square ends, as on the ladder; what is only thought of is drawn hollow.
 */
const props = defineProps<{
  scale: ProbabilityScale
  kind: 'before' | 'positive' | 'negative'
  from?: number | null
  to?: ShareEstimate | null
  thresholds?: { reassure: number; act: number } | null
  thought?: boolean
}>()

const HEIGHT = 56
const MIDDLE = 30
const BAR = 14
const x = computed(() => {
  const { from, to, scale } = props
  return to
    ? {
        from: from == null ? null : scale.at(from),
        to: scale.at(supported(to)),
        low: scale.at(to.lower),
        high: scale.at(to.upper),
      }
    : null
})
/** The head of the arrow, unless it goes nowhere. */
const head = computed(() => {
  const { from, to } = x.value ?? {}
  if (from == null || to == null || Math.abs(to - from) < 9) return ''
  const back = to > from ? -7 : 7
  return `M${to + back} ${MIDDLE - 5}L${to} ${MIDDLE}L${to + back} ${MIDDLE + 5}`
})
</script>

<template>
  <svg :width="scale.width" :height="HEIGHT" :viewBox="`0 0 ${scale.width} ${HEIGHT}`" aria-hidden="true">
    <template v-if="thresholds">
      <rect class="zone" x="0" y="0" :width="scale.at(thresholds.reassure)" :height="HEIGHT" />
      <rect
        class="zone"
        :x="scale.at(thresholds.act)"
        y="0"
        :width="scale.width - scale.at(thresholds.act)"
        :height="HEIGHT"
      />
    </template>
    <line
      v-for="tick in scale.ticks"
      :key="tick"
      class="grid"
      :x1="scale.at(tick)"
      :x2="scale.at(tick)"
      y1="0"
      :y2="HEIGHT"
    />
    <template v-if="thresholds">
      <line
        v-for="threshold in [thresholds.reassure, thresholds.act]"
        :key="threshold"
        class="threshold"
        :x1="scale.at(threshold)"
        :x2="scale.at(threshold)"
        y1="0"
        :y2="HEIGHT"
      />
    </template>
    <g v-if="x" :class="[kind, { thought }]">
      <rect
        class="interval"
        :x="x.low"
        :y="MIDDLE - BAR / 2"
        :width="Math.max(x.high - x.low, 1)"
        :height="BAR"
        :rx="kind === 'positive' ? BAR / 2 : 1"
      />
      <line v-if="x.from != null" class="way" :x1="x.from" :x2="x.to" :y1="MIDDLE" :y2="MIDDLE" />
      <path v-if="head" class="head" :d="head" />
      <line class="point" :x1="x.to" :x2="x.to" :y1="MIDDLE - 11" :y2="MIDDLE + 11" />
    </g>
    <slot />
  </svg>
</template>

<style scoped>
svg {
  display: block;
  overflow: visible;
}
.zone {
  fill: rgb(var(--v-theme-on-background));
  fill-opacity: 0.05;
}
.grid {
  stroke: var(--line);
}
.threshold {
  stroke: rgb(var(--v-theme-on-background));
  stroke-dasharray: 5 3;
}
.before {
  color: rgb(var(--v-theme-on-background));
}
.positive {
  color: var(--raises);
}
.negative {
  color: var(--lowers);
}
.interval {
  fill: currentColor;
  fill-opacity: 0.3;
}
.thought .interval {
  fill: none;
  stroke: currentColor;
  stroke-dasharray: 3 2;
}
.way,
.head,
.point {
  fill: none;
  stroke: currentColor;
  stroke-width: 2;
}
.point {
  stroke-width: 3;
}
.thought .way {
  stroke-dasharray: 2 3;
}
.thought .point {
  stroke-width: 2;
}
@media print {
  .zone {
    print-color-adjust: exact;
  }
}
</style>
