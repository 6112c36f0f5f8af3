<script setup lang="ts">
import { computed, useId } from 'vue'

import type { RocPoint, RocSpace } from '@/shared/api/types'
import { text } from '@/shared/text'

/** Studies in ROC space with the summary, its region, that of the next study and the curve. A study's mark has the area of its people and
 *  is filled as far as they have the condition; values that are compared differ by shape and colour. */
export interface RocStudy {
  id: string
  label: string
  point: RocPoint
  diseased: number
  people: number
  /** Position of its value, if values are compared. */
  level: number | null
}
const props = defineProps<{
  studies: RocStudy[]
  roc: RocSpace | null
  /** Summary points of the values that are compared. */
  levels: ({ point: RocPoint; level: number } | null)[]
  marked: string
  said: string
}>()
const emit = defineEmits<{ mark: [id: string] }>()

const SIZE = 380
const [LEFT, TOP, RIGHT, BOTTOM] = [44, 8, 10, 40]
const x = (specificity: number) => LEFT + (1 - specificity) * (SIZE - LEFT - RIGHT)
const y = (sensitivity: number) => TOP + (1 - sensitivity) * (SIZE - TOP - BOTTOM)
const ticks = [0, 0.2, 0.4, 0.6, 0.8, 1]
const line = (points: RocPoint[]) =>
  points
    .map(
      (point, i) => `${i ? 'L' : 'M'}${x(point.specificity).toFixed(1)} ${y(point.sensitivity).toFixed(1)}`,
    )
    .join('')
const largest = computed(() => Math.max(1, ...props.studies.map((study) => study.people)))
const radius = (people: number) => 4 + 8 * Math.sqrt(people / largest.value)

/** Outlines of equal height around the middle: circle, square, diamond, triangle, drop, bar. */
function outline(level: number | null, r: number): string {
  switch ((level ?? 0) % 6) {
    case 1:
      return `M${-r} ${-r}H${r}V${r}H${-r}Z`
    case 2:
      return `M0 ${-r * 1.25}L${r * 1.25} 0L0 ${r * 1.25}L${-r * 1.25} 0Z`
    case 3:
      return `M0 ${-r * 1.15}L${r * 1.15} ${r}H${-r * 1.15}Z`
    case 4:
      return `M0 ${r * 1.2}L${-r * 1.15} ${-r}H${r * 1.15}Z`
    case 5:
      return `M${-r * 1.3} ${-r * 0.6}H${r * 1.3}V${r * 0.6}H${-r * 1.3}Z`
    default:
      return `M0 ${-r}A${r} ${r} 0 1 1 0 ${r}A${r} ${r} 0 1 1 0 ${-r}Z`
  }
}
const id = useId()
const marks = computed(() =>
  props.studies.map((study) => {
    const r = radius(study.people)
    const share = study.people ? study.diseased / study.people : 0
    return {
      ...study,
      clip: `${id}-${study.id}`,
      r,
      path: outline(study.level, r),
      fill: { y: r - 2 * r * share, h: 2 * r * share + r },
    }
  }),
)
</script>

<template>
  <svg class="roc" :viewBox="`0 0 ${SIZE} ${SIZE}`" role="img" :aria-label="said" data-test="roc">
    <g class="grid">
      <template v-for="tick in ticks" :key="tick">
        <line :x1="x(tick)" :x2="x(tick)" :y1="y(0)" :y2="y(1)" />
        <line :x1="x(0)" :x2="x(1)" :y1="y(tick)" :y2="y(tick)" />
        <text :x="x(1 - tick)" :y="y(0) + 16" text-anchor="middle">{{ Math.round(tick * 100) }}</text>
        <text :x="LEFT - 6" :y="y(tick) + 4" text-anchor="end">{{ Math.round(tick * 100) }}</text>
      </template>
      <line class="chance" :x1="x(1)" :y1="y(0)" :x2="x(0)" :y2="y(1)" />
      <text class="title" :x="(x(0) + x(1)) / 2" :y="SIZE - 6" text-anchor="middle">
        {{ text.pool.roc.x }}
      </text>
      <text class="title" :transform="`translate(12 ${(y(0) + y(1)) / 2}) rotate(-90)`" text-anchor="middle">
        {{ text.pool.roc.y }}
      </text>
    </g>
    <template v-if="roc">
      <path class="prediction" :d="`${line(roc.prediction.outline)}Z`" />
      <path class="confidence" :d="`${line(roc.confidence.outline)}Z`" />
      <path v-if="roc.curve.length" class="curve" :d="line(roc.curve)" />
    </template>
    <g
      v-for="mark in marks"
      :key="mark.id"
      v-memo="[mark.r, mark.fill.y, mark.level, mark.point, mark.label, mark.id === marked]"
      class="study"
      :class="[`level-${(mark.level ?? 0) % 6}`, { marked: mark.id === marked }]"
      :transform="`translate(${x(mark.point.specificity)} ${y(mark.point.sensitivity)})`"
      @mouseenter="emit('mark', mark.id)"
      @mouseleave="emit('mark', '')"
    >
      <title>{{ mark.label }}</title>
      <clipPath :id="mark.clip"><path :d="mark.path" /></clipPath>
      <path class="body" :d="mark.path" />
      <rect
        class="share"
        :x="-1.4 * mark.r"
        :y="mark.fill.y"
        :width="2.8 * mark.r"
        :height="mark.fill.h"
        :clip-path="`url(#${mark.clip})`"
      />
      <path class="edge" :d="mark.path" />
    </g>
    <template v-for="(level, index) in levels" :key="index">
      <g
        v-if="level"
        :class="`level-${level.level % 6}`"
        :transform="`translate(${x(level.point.specificity)} ${y(level.point.sensitivity)})`"
      >
        <path class="summary halo" d="M-9 0H9M0 -9V9" />
        <path class="summary" d="M-9 0H9M0 -9V9" />
      </g>
    </template>
    <g
      v-if="roc && !levels.length"
      :transform="`translate(${x(roc.summary.specificity)} ${y(roc.summary.sensitivity)})`"
    >
      <path class="summary halo" d="M-9 0H9M0 -9V9" />
      <path class="summary" d="M-9 0H9M0 -9V9" />
    </g>
  </svg>
</template>

<style scoped>
.roc {
  display: block;
  width: 100%;
  max-width: 420px;
  color: rgb(var(--v-theme-on-background));
}
text {
  fill: var(--muted);
  font-size: 11px;
}
.title {
  font-size: 12px;
}
.grid line {
  stroke: var(--line);
}
.grid .chance {
  stroke: var(--muted);
  stroke-dasharray: 1 4;
}
.prediction {
  fill: none;
  stroke: rgb(var(--v-theme-primary));
  stroke-width: 1.4;
  stroke-dasharray: 6 4;
}
.confidence {
  fill: rgb(var(--v-theme-primary));
  fill-opacity: 0.16;
  stroke: rgb(var(--v-theme-primary));
  stroke-width: 1.4;
}
.curve {
  fill: none;
  stroke: currentColor;
  stroke-width: 1.6;
}
.study,
[class^='level-'] {
  color: var(--level, rgb(var(--v-theme-on-background)));
}
.body {
  fill: rgb(var(--v-theme-background));
}
.share {
  fill: currentColor;
  fill-opacity: 0.45;
}
.edge {
  fill: none;
  stroke: currentColor;
  stroke-width: 1.5;
}
.marked .edge {
  stroke-width: 3.5;
}
.summary {
  stroke: currentColor;
  stroke-width: 3;
  stroke-linecap: round;
}
.summary.halo {
  stroke: rgb(var(--v-theme-background));
  stroke-width: 7;
}
.level-1 {
  --level: rgb(var(--v-theme-raises));
}
.level-2 {
  --level: rgb(var(--v-theme-lowers));
}
.level-3 {
  --level: rgb(var(--v-theme-primary));
}
.level-4 {
  --level: var(--muted);
}
</style>
