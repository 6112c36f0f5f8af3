<script setup lang="ts">
import { computed } from 'vue'

import { text } from '@/shared/text'

/** In ROC space, from what was seen to what it would be against the truth: an arrow, and about its head what holds whatever the dependence. */
const props = defineProps<{
  from: { sensitivity: number; specificity: number }
  to: { sensitivity: number; specificity: number } | null
  /** Bounds whatever the dependence: of sensitivity and of specificity. */
  bounds: { sensitivity: number[]; specificity: number[] } | null
  said: string
}>()

const SIZE = 260
const [LEFT, TOP, RIGHT, BOTTOM] = [40, 8, 10, 38]
/** A square of the plane, in tenths, as large as what is shown: a shift of a few hundredths would be a dot in the whole. */
const view = computed(() => {
  const { from, to, bounds } = props
  const across = [from.specificity, to?.specificity ?? from.specificity, ...(bounds?.specificity ?? [])]
  const up = [from.sensitivity, to?.sensitivity ?? from.sensitivity, ...(bounds?.sensitivity ?? [])]
  const tenths = (values: number[]) => [
    Math.max(0, Math.floor(10 * Math.min(...values) - 0.3)),
    Math.min(10, Math.ceil(10 * Math.max(...values) + 0.3)),
  ]
  const [[left, right], [low, high]] = [tenths(across), tenths(up)] as [[number, number], [number, number]]
  const size = Math.max(2, right - left, high - low)
  const start = (first: number) => Math.min(first, 10 - size) / 10
  return { specificity: start(left), sensitivity: start(low), size: size / 10 }
})
const ticks = (from: number) =>
  Array.from({ length: Math.round(view.value.size * 10) + 1 }, (_, nth) => from + nth / 10)
const x = (specificity: number) => {
  const { specificity: least, size } = view.value
  return LEFT + ((least + size - specificity) / size) * (SIZE - LEFT - RIGHT)
}
const y = (sensitivity: number) => {
  const { sensitivity: least, size } = view.value
  return TOP + ((least + size - sensitivity) / size) * (SIZE - TOP - BOTTOM)
}
const at = ({ sensitivity, specificity }: { sensitivity: number; specificity: number }) => ({
  x: x(specificity),
  y: y(sensitivity),
})
const ends = computed(() => props.to && { a: at(props.from), b: at(props.to) })
const box = computed(() => {
  if (!props.bounds) return null
  const [low, high] = props.bounds.sensitivity as [number, number]
  const [least, most] = props.bounds.specificity as [number, number]
  return { x: x(most), y: y(high), width: x(least) - x(most), height: y(low) - y(high) }
})
</script>

<template>
  <svg :viewBox="`0 0 ${SIZE} ${SIZE}`" role="img" :aria-label="said" data-test="reference-shift">
    <g v-for="tick in ticks(view.specificity)" :key="`x${tick}`">
      <line class="grid" :x1="x(tick)" :x2="x(tick)" :y1="TOP" :y2="SIZE - BOTTOM" />
      <text :x="x(tick)" :y="SIZE - BOTTOM + 14" text-anchor="middle">
        {{ Math.round(100 - tick * 100) }}
      </text>
    </g>
    <g v-for="tick in ticks(view.sensitivity)" :key="`y${tick}`">
      <line class="grid" :x1="LEFT" :x2="SIZE - RIGHT" :y1="y(tick)" :y2="y(tick)" />
      <text :x="LEFT - 6" :y="y(tick) + 4" text-anchor="end">{{ Math.round(tick * 100) }}</text>
    </g>
    <text class="title" :x="(LEFT + SIZE - RIGHT) / 2" :y="SIZE - 6" text-anchor="middle">
      {{ text.pool.roc.x }}
    </text>
    <text
      class="title"
      :transform="`translate(11 ${(TOP + SIZE - BOTTOM) / 2}) rotate(-90)`"
      text-anchor="middle"
    >
      {{ text.pool.roc.y }}
    </text>
    <rect v-if="box" class="bounds" v-bind="box" />
    <template v-if="ends">
      <defs>
        <marker
          id="shift"
          markerUnits="userSpaceOnUse"
          markerWidth="9"
          markerHeight="9"
          refX="8"
          refY="4.5"
          orient="auto"
        >
          <path d="M0 0L9 4.5L0 9Z" class="head" />
        </marker>
      </defs>
      <line
        class="shift"
        :x1="ends.a.x"
        :y1="ends.a.y"
        :x2="ends.b.x"
        :y2="ends.b.y"
        marker-end="url(#shift)"
      />
    </template>
    <circle class="seen" :cx="at(from).x" :cy="at(from).y" r="4" />
  </svg>
</template>

<style scoped>
svg {
  display: block;
  width: 100%;
  max-width: 300px;
}
.grid {
  stroke: var(--line);
}
text {
  font-size: 10px;
  fill: var(--muted);
}
.title {
  font-size: 10.5px;
  fill: rgb(var(--v-theme-on-background));
}
.bounds {
  fill: rgb(var(--v-theme-primary));
  fill-opacity: 0.12;
  stroke: rgb(var(--v-theme-primary));
  stroke-dasharray: 5 3;
}
.seen {
  fill: rgb(var(--v-theme-background));
  stroke: rgb(var(--v-theme-on-background));
  stroke-width: 2;
}
.shift {
  stroke: rgb(var(--v-theme-primary));
  stroke-width: 2.5;
}
.head {
  fill: rgb(var(--v-theme-primary));
}
</style>
