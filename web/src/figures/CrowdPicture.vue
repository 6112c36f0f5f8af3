<script setup lang="ts">
import { computed } from 'vue'

import type { NaturalFrequencies } from '@/shared/api/types'
import { whole } from '@/shared/format'
import { text } from '@/shared/text'
import { useWidth } from '@/shared/useWidth'
import { ref } from 'vue'

/**
 * 1 000 people as one field: its left part has the condition, its right part does not, and in each part the filled
 * band at the top was positive. Areas are in proportion; patterns tell the groups apart without colour.
 */
const props = defineProps<{
  frequencies: NaturalFrequencies
  /** Other words than positive and negative, for several results together. */
  words?: {
    groups: Record<keyof typeof text.answer.groups, string>
    positive: (all: number, ill: number) => string
    negative: (all: number, ill: number) => string
  }
}>()
const said = computed(
  () =>
    props.words ?? {
      groups: text.answer.groups,
      positive: text.answer.crowdPositive,
      negative: text.answer.crowdNegative,
    },
)

const HEIGHT = 92
const box = ref<HTMLElement | null>(null)
const width = useWidth(box, 360)

type Group = keyof typeof text.answer.groups
interface Block {
  group: Group
  count: number
  x: number
  y: number
  width: number
  height: number
}
const blocks = computed<Block[]>(() => {
  const f = props.frequencies
  const split = (width.value * f.with_condition) / f.population
  const column = (x: number, w: number, n: number, parts: [Group, number][]) => {
    let y = 0
    return parts.map(([group, count]) => {
      const height = n > 0 ? (HEIGHT * count) / n : 0
      const block = { group, count, x, y, width: w, height }
      y += height
      return block
    })
  }
  return [
    ...column(0, split, f.with_condition, [
      ['true_positive', f.true_positive],
      ['false_negative', f.false_negative],
    ]),
    ...column(split, width.value - split, f.without_condition, [
      ['false_positive', f.false_positive],
      ['true_negative', f.true_negative],
    ]),
  ]
})
const positives = computed(() => props.frequencies.true_positive + props.frequencies.false_positive)
const negatives = computed(() => props.frequencies.population - positives.value)
const fits = (block: Block) => block.width > 34 && block.height > 17
</script>

<template>
  <figure>
    <div ref="box">
      <svg :width="width" :height="HEIGHT" :viewBox="`0 0 ${width} ${HEIGHT}`" aria-hidden="true">
        <defs>
          <pattern
            id="crowd-alarm"
            width="6"
            height="6"
            patternUnits="userSpaceOnUse"
            patternTransform="rotate(45)"
          >
            <line x1="0" y1="0" x2="0" y2="6" class="hatch" />
          </pattern>
        </defs>
        <g v-for="block in blocks" :key="block.group" :class="block.group">
          <rect
            class="area"
            :x="block.x + 0.5"
            :y="block.y + 0.5"
            :width="Math.max(0, block.width - 1.5)"
            :height="Math.max(0, block.height - 1)"
          />
          <text v-if="fits(block)" :x="block.x + 7" :y="block.y + 14">{{ whole(block.count) }}</text>
        </g>
      </svg>
    </div>
    <ul class="legend small">
      <li v-for="block in blocks" :key="block.group">
        <svg width="14" height="14" aria-hidden="true" :class="block.group">
          <rect class="area" x="0.5" y="0.5" width="13" height="13" />
        </svg>
        <span
          ><b>{{ whole(block.count) }}</b> {{ said.groups[block.group] }}</span
        >
      </li>
    </ul>
    <figcaption class="small">
      {{ text.answer.crowd(frequencies.with_condition) }}.
      <b>{{ said.positive(positives, frequencies.true_positive) }}</b>;
      <b>{{ said.negative(negatives, frequencies.false_negative) }}</b>.
    </figcaption>
  </figure>
</template>

<style scoped>
figure {
  margin: 0;
}
svg {
  display: block;
}
.area {
  stroke: rgb(var(--v-theme-on-background));
  stroke-opacity: 0.45;
}
.true_positive .area {
  fill: var(--raises);
}
.false_negative .area {
  fill: var(--lowers);
  fill-opacity: 0.35;
  stroke: var(--lowers);
  stroke-width: 1.5;
}
.false_positive .area {
  fill: url(#crowd-alarm);
  stroke: var(--raises);
}
.true_negative .area {
  fill: none;
}
.hatch {
  stroke: var(--raises);
  stroke-width: 1.6;
}
text {
  font-size: 12px;
  font-weight: 600;
  fill: rgb(var(--v-theme-on-background));
  paint-order: stroke;
  stroke: rgb(var(--v-theme-background));
  stroke-width: 3px;
}
.true_positive text {
  fill: rgb(var(--v-theme-background));
  stroke: none;
}
.legend {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(150px, 1fr));
  gap: 2px 12px;
  list-style: none;
  padding: 6px 0 4px;
}
.legend li {
  display: flex;
  align-items: center;
  gap: 6px;
}
</style>
