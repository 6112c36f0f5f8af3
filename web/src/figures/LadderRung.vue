<script setup lang="ts">
import { computed } from 'vue'

import type { Evidence, RatioEstimate, Standing } from '@/shared/api/types'
import { finite, ratio, ratioPoint } from '@/shared/format'
import { text } from '@/shared/text'
import type { LadderScale } from './logScale'

/**
 * One row of the likelihood ladder. The negative result's interval hangs in the lower lane with square ends, the
 * positive one's in the upper lane with round ends, so that they are told apart without colour and never collide.
 */
const props = defineProps<{
  axis: LadderScale
  width: number
  name: string
  evidence: Evidence
  /** Its figures may still be on their way. */
  standing?: Standing
  positive?: RatioEstimate | null
  negative?: RatioEstimate | null
  /** Where the true ratios of the next study are expected. */
  aheadPositive?: RatioEstimate | null
  aheadNegative?: RatioEstimate | null
}>()

const HEIGHT = 54
const BAR = 13
/** Width of a digit of the labels, about. */
const DIGIT = 7
const lanes = { positive: 16, negative: 38 }

interface Bar {
  kind: 'positive' | 'negative'
  y: number
  x0: number
  x1: number
  point: number
  label: string
  labelX: number
  anchor: 'start' | 'end'
  cutLow: boolean
  cutHigh: boolean
}

function bar(kind: 'positive' | 'negative', lr: RatioEstimate): Bar {
  const { scale, low, high } = props.axis
  const [x0, x1, point] = [lr.lower, lr.upper, lr.estimate].map((value) =>
    scale(Math.max(finite(value), low)),
  )
  const label = ratioPoint(lr)
  const [before, after] = [x0! - (finite(lr.lower) < low ? 13 : 9), x1! + (finite(lr.upper) > high ? 13 : 9)]
  // Outwards, as long as all of its digits have room there: one that is cut off says another number. The lane is free on the other side.
  const length = label.length * DIGIT
  const onRight = kind === 'positive' ? after + length <= props.width || before < length : before < length
  return {
    kind,
    y: lanes[kind],
    x0: x0!,
    x1: Math.max(x1!, x0! + 2),
    point: point!,
    label,
    labelX: onRight ? after : before,
    anchor: onRight ? 'start' : 'end',
    cutLow: finite(lr.lower) < low,
    cutHigh: finite(lr.upper) > high,
  }
}
const bars = computed(() =>
  [
    props.positive && bar('positive', props.positive),
    props.negative && bar('negative', props.negative),
  ].filter((entry): entry is Bar => !!entry),
)
/** Why there is no bar. */
const none = computed(() => {
  if (props.standing === 'computing') return text.catalogue.beingComputed
  // The whole of it stands below the name; here is room for two words.
  if (props.evidence === 'nothing_usable') return text.catalogue.nothingUsable
  return props.evidence === 'not_studied' ? text.evidence.not_studied : text.catalogue.notEstimable
})
/** The next study's range: a thin line under its bar, with ends where they are on the axis. */
const ahead = computed(() => {
  const { scale, low, high } = props.axis
  const line = (kind: Bar['kind'], lr?: RatioEstimate | null) => {
    if (!lr) return []
    const [from, to] = [finite(lr.lower), finite(lr.upper)]
    const ends = [from, to].filter((end) => end >= low && end <= high).map((end) => scale(end))
    return [{ kind, y: lanes[kind] + BAR / 2 + 3, x0: scale(Math.max(from, low)), x1: scale(to), ends }]
  }
  return [...line('positive', props.aheadPositive), ...line('negative', props.aheadNegative)]
})
const thin = computed(() => props.evidence === 'one_study' || props.evidence === 'few_studies')
const words = computed(() => {
  if (!bars.value.length) return `${props.name}: ${none.value}`
  const say = (lr?: RatioEstimate | null) =>
    lr ? `${ratioPoint(lr)} (${ratio(lr.lower)}–${ratio(lr.upper)})` : text.unknown
  return text.catalogue.ladderRow(props.name, say(props.negative), say(props.positive))
})
</script>

<template>
  <svg :width="width" :height="HEIGHT" :viewBox="`0 0 ${width} ${HEIGHT}`" role="img" :aria-label="words">
    <line
      v-for="tick in axis.ticks"
      :key="tick"
      :x1="axis.scale(tick)"
      :x2="axis.scale(tick)"
      y1="0"
      :y2="HEIGHT"
      :class="tick === 1 ? 'one' : 'grid'"
    />
    <g v-for="entry in bars" :key="entry.kind" :class="[entry.kind, { thin }]">
      <rect
        class="interval"
        :x="entry.x0"
        :y="entry.y - BAR / 2"
        :width="entry.x1 - entry.x0"
        :height="BAR"
        :rx="entry.kind === 'positive' ? BAR / 2 : 1"
      />
      <path v-if="entry.cutHigh" class="cut" :d="`M${entry.x1 - 1},${entry.y - 8}l7,8l-7,8`" />
      <path v-if="entry.cutLow" class="cut" :d="`M${entry.x0 + 1},${entry.y - 8}l-7,8l7,8`" />
      <line class="point" :x1="entry.point" :x2="entry.point" :y1="entry.y - 10" :y2="entry.y + 10" />
      <text class="value" :x="entry.labelX" :y="entry.y + 4" :text-anchor="entry.anchor">
        {{ entry.label }}
      </text>
    </g>
    <g v-for="line in ahead" :key="`ahead-${line.kind}`" :class="line.kind" data-test="ahead">
      <line class="ahead" :x1="line.x0" :x2="line.x1" :y1="line.y" :y2="line.y" />
      <line
        v-for="end in line.ends"
        :key="end"
        class="ahead"
        :x1="end"
        :x2="end"
        :y1="line.y - 3"
        :y2="line.y + 3"
      />
    </g>
    <g v-if="!bars.length">
      <rect class="hollow" :x="axis.scale(1) - 62" y="15" width="124" height="24" rx="4" />
      <text class="hollow-word" :x="axis.scale(1)" y="31" text-anchor="middle">
        {{ none }}
      </text>
    </g>
  </svg>
</template>

<style scoped>
svg {
  display: block;
}
.grid {
  stroke: var(--line);
}
.one {
  stroke: rgb(var(--v-theme-on-background));
  stroke-width: 1.5;
}
.positive {
  color: var(--raises);
}
.negative {
  color: var(--lowers);
}
.interval {
  fill: currentColor;
  fill-opacity: 0.34;
}
.thin .interval {
  fill-opacity: 0.1;
  stroke: currentColor;
  stroke-opacity: 0.55;
  stroke-dasharray: 3 2;
}
.point {
  stroke: currentColor;
  stroke-width: 3;
}
.thin .point {
  stroke-width: 2;
  stroke-opacity: 0.75;
}
.ahead {
  stroke: currentColor;
  stroke-width: 1.5;
}
.cut {
  fill: none;
  stroke: currentColor;
  stroke-width: 2;
}
.value {
  fill: currentColor;
  font-size: 12.5px;
  font-weight: 700;
  paint-order: stroke;
  stroke: rgb(var(--v-theme-background));
  stroke-width: 3px;
}
.hollow {
  fill: rgb(var(--v-theme-background));
  stroke: var(--muted);
  stroke-dasharray: 4 3;
}
.hollow-word {
  fill: var(--muted);
  font-size: 12.5px;
}
</style>
