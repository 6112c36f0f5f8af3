<script setup lang="ts">
import { scaleLinear } from 'd3-scale'
import { computed, ref } from 'vue'

import type { ShareEstimate } from '@/shared/api/types'
import { percentPoint, supported } from '@/shared/format'
import { text } from '@/shared/text'
import { useWidth } from '@/shared/useWidth'

/** Stairs of probability: one tread for each number of positive tests, from the probability before testing up or down. */
const props = defineProps<{
  /** With the dependence that is assumed; `null` for a number that happens to nobody. */
  steps: (ShareEstimate | null)[]
  /** As if the tests were independent. */
  independent: (ShareEstimate | null)[]
  preTest: number
  /** From how many positive tests on the rule is positive. */
  atLeast: number
  thresholds: { reassure: number; act: number } | null
  said: string
}>()

const words = text.combine.stairs
const cell = ref<HTMLElement | null>(null)
const width = useWidth(cell, 560)
const HEIGHT = 268
const [LEFT, TOP, RIGHT, BOTTOM] = [38, 20, 8, 44]
const y = scaleLinear()
  .domain([0, 1])
  .range([HEIGHT - BOTTOM, TOP])
const tread = computed(() => (width.value - LEFT - RIGHT) / props.steps.length)
const left = (count: number) => LEFT + count * tread.value
/** The outline of the treads, broken where a number happens to nobody. */
function outline(steps: (ShareEstimate | null)[]): string {
  let open = false
  return steps
    .map((step, count) => {
      if (!step) {
        open = false
        return ''
      }
      const at = y(supported(step)).toFixed(1)
      const way = `${open ? 'L' : 'M'}${left(count).toFixed(1)} ${at}H${left(count + 1).toFixed(1)}`
      open = true
      return way
    })
    .join('')
}
/** A label stands above its tread, or below where there is no room. */
const labels = computed(() =>
  props.steps.map((step, count) => {
    if (!step) return null
    const above = y(step.upper) - 6
    const below = y(step.lower) + 14
    return {
      x: left(count) + tread.value / 2,
      y: above > TOP - 8 ? above : Math.min(below, HEIGHT - BOTTOM - 4),
      words: percentPoint(step),
    }
  }),
)
</script>

<template>
  <div ref="cell" class="stairs">
    <svg :width="width" :height="HEIGHT" role="img" :aria-label="said" data-test="staircase">
      <rect
        class="rule"
        :x="left(atLeast)"
        :y="TOP"
        :width="Math.max(0, width - RIGHT - left(atLeast))"
        :height="HEIGHT - BOTTOM - TOP"
      />
      <g v-for="tick in [0, 0.2, 0.4, 0.6, 0.8, 1]" :key="tick">
        <line class="grid" :x1="LEFT" :x2="width - RIGHT" :y1="y(tick)" :y2="y(tick)" />
        <text :x="LEFT - 6" :y="y(tick) + 4" text-anchor="end">{{ Math.round(100 * tick) }}</text>
      </g>
      <template v-if="thresholds">
        <line
          v-for="threshold in [thresholds.reassure, thresholds.act]"
          :key="threshold"
          class="threshold"
          :x1="LEFT"
          :x2="width - RIGHT"
          :y1="y(threshold)"
          :y2="y(threshold)"
        />
      </template>
      <line class="before" :x1="LEFT" :x2="width - RIGHT" :y1="y(preTest)" :y2="y(preTest)" />
      <template v-for="(step, count) in steps" :key="count">
        <rect
          v-if="step"
          class="band"
          :class="{ up: supported(step) >= preTest }"
          :x="left(count) + 1"
          :y="y(step.upper)"
          :width="tread - 2"
          :height="Math.max(1, y(step.lower) - y(step.upper))"
        />
        <text class="count" :x="left(count) + tread / 2" :y="HEIGHT - BOTTOM + 16" text-anchor="middle">
          {{ count }}
        </text>
      </template>
      <path class="independent" :d="outline(independent)" />
      <path class="steps" :d="outline(steps)" />
      <template v-for="(label, count) in labels" :key="`label${count}`">
        <text v-if="label" class="label" :x="label.x" :y="label.y" text-anchor="middle">
          {{ label.words }}
        </text>
      </template>
      <text class="title" :x="(LEFT + width - RIGHT) / 2" :y="HEIGHT - 8" text-anchor="middle">
        {{ words.counts }}
      </text>
      <text
        class="title"
        :transform="`translate(11 ${(TOP + HEIGHT - BOTTOM) / 2}) rotate(-90)`"
        text-anchor="middle"
      >
        {{ words.probability }}
      </text>
    </svg>
  </div>
</template>

<style scoped>
.stairs {
  width: 100%;
}
svg {
  display: block;
  max-width: 100%;
}
.rule {
  fill: rgb(var(--v-theme-primary));
  fill-opacity: 0.07;
}
.grid {
  stroke: var(--line);
}
.threshold {
  stroke: rgb(var(--v-theme-on-background));
  stroke-dasharray: 5 3;
}
.before {
  stroke: var(--muted);
  stroke-width: 2;
  stroke-dasharray: 1 4;
  stroke-linecap: round;
}
.band {
  fill: var(--lowers);
  fill-opacity: 0.28;
}
.band.up {
  fill: var(--raises);
}
.steps,
.independent {
  fill: none;
}
.steps {
  stroke: rgb(var(--v-theme-on-background));
  stroke-width: 3;
}
.independent {
  stroke: var(--muted);
  stroke-width: 2;
  stroke-dasharray: 6 4;
}
text {
  fill: var(--muted);
  font-size: 12px;
}
text.label,
text.count {
  fill: rgb(var(--v-theme-on-background));
  font-weight: 650;
  paint-order: stroke;
  stroke: rgb(var(--v-theme-background));
  stroke-width: 3px;
  stroke-linejoin: round;
}
</style>
