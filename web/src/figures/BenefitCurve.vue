<script setup lang="ts">
import { scaleLinear } from 'd3-scale'
import { computed } from 'vue'

import { typedPercent } from '@/shared/format'
import type { BenefitPoint } from '@/shared/api/types'
import { text } from '@/shared/text'

/** Net benefit by the threshold of action: of the test with its 95 % interval, of acting on everybody (dashed) and on nobody (the line at 0). */
const props = defineProps<{
  curve: BenefitPoint[]
  thresholds: { reassure: number; act: number } | null
  said: string
}>()

const words = text.likelihood.patient.benefit
const [WIDTH, HEIGHT] = [420, 230]
const [LEFT, TOP, RIGHT, BOTTOM] = [40, 8, 12, 40]
const x = scaleLinear()
  .domain([0, 1])
  .range([LEFT, WIDTH - RIGHT])
/** Acting on everybody falls without end: the picture ends a little below 0. */
const y = computed(() => {
  const top = Math.max(
    0.01,
    ...props.curve.flatMap((point) => [point.by_test, point.treat_all, point.interval?.[1] ?? 0]),
  )
  return scaleLinear()
    .domain([-0.25 * top, 1.05 * top])
    .range([HEIGHT - BOTTOM, TOP])
})
function path(of: (point: BenefitPoint) => number): string {
  const lowest = y.value.domain()[0]!
  const shown = props.curve.filter((point) => of(point) >= lowest)
  return shown
    .map((p, i) => `${i ? 'L' : 'M'}${x(p.threshold).toFixed(1)} ${y.value(of(p)).toFixed(1)}`)
    .join('')
}
/** Between both bounds, cut off where the picture ends. */
const band = computed(() => {
  const [lowest, highest] = y.value.domain() as [number, number]
  const inside = (value: number) => Math.min(highest, Math.max(lowest, value))
  const known = props.curve.filter((point) => (point.interval?.[1] ?? -1) >= lowest)
  const edge = (end: 0 | 1, points: BenefitPoint[]) =>
    points.map((p) => `${x(p.threshold).toFixed(1)} ${y.value(inside(p.interval?.[end] ?? 0)).toFixed(1)}`)
  return known.length ? `M${[...edge(1, known), ...edge(0, known.toReversed())].join('L')}Z` : ''
})
</script>

<template>
  <svg :viewBox="`0 0 ${WIDTH} ${HEIGHT}`" role="img" :aria-label="said" data-test="benefit-curve">
    <g v-for="tick in [0, 0.2, 0.4, 0.6, 0.8, 1]" :key="tick">
      <line class="grid" :x1="x(tick)" :x2="x(tick)" :y1="TOP" :y2="HEIGHT - BOTTOM" />
      <text :x="x(tick)" :y="HEIGHT - BOTTOM + 15" text-anchor="middle">{{ Math.round(100 * tick) }}</text>
    </g>
    <text v-for="tick in y.ticks(4)" :key="`y${tick}`" :x="LEFT - 6" :y="y(tick) + 4" text-anchor="end">
      {{ typedPercent(tick) }}
    </text>
    <line class="nobody" :x1="LEFT" :x2="WIDTH - RIGHT" :y1="y(0)" :y2="y(0)" />
    <template v-if="thresholds">
      <line
        v-for="threshold in [thresholds.reassure, thresholds.act]"
        :key="threshold"
        class="threshold"
        :x1="x(threshold)"
        :x2="x(threshold)"
        :y1="TOP"
        :y2="HEIGHT - BOTTOM"
      />
    </template>
    <path v-if="band" class="band" :d="band" />
    <path class="all" :d="path((point) => point.treat_all)" />
    <path class="test" :d="path((point) => point.by_test)" />
    <text class="title" :x="(LEFT + WIDTH - RIGHT) / 2" :y="HEIGHT - 6" text-anchor="middle">
      {{ words.x }}
    </text>
    <text
      class="title"
      :transform="`translate(10 ${(TOP + HEIGHT - BOTTOM) / 2}) rotate(-90)`"
      text-anchor="middle"
    >
      {{ words.y.split(',')[0] }}
    </text>
  </svg>
</template>

<style scoped>
svg {
  display: block;
  width: 100%;
  max-width: 460px;
}
.grid {
  stroke: var(--line);
}
.nobody {
  stroke: rgb(var(--v-theme-on-background));
}
.threshold {
  stroke: rgb(var(--v-theme-on-background));
  stroke-dasharray: 5 3;
}
.band {
  fill: rgb(var(--v-theme-primary));
  fill-opacity: 0.16;
}
.all,
.test {
  fill: none;
  stroke-width: 2;
}
.all {
  stroke: var(--muted);
  stroke-dasharray: 7 4;
}
.test {
  stroke: rgb(var(--v-theme-primary));
  stroke-width: 3;
}
text {
  font-size: 11px;
  fill: var(--muted);
}
.title {
  font-size: 11.5px;
  fill: rgb(var(--v-theme-on-background));
}
</style>
