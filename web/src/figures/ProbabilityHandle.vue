<script setup lang="ts">
import { ref } from 'vue'

import { percent, typedPercent } from '@/shared/format'
import { text } from '@/shared/text'
import { type ProbabilityScale, settled } from './probabilityScale'

/** The mark by which the pre-test probability is moved: with the hand, or with the keys of a slider. */
const model = defineModel<number>({ required: true })
const props = defineProps<{ scale: ProbabilityScale }>()

const held = ref(false)
function follow(event: PointerEvent) {
  const { left, width } = (event.currentTarget as Element).closest('svg')!.getBoundingClientRect()
  if (width > 0) model.value = props.scale.probability(((event.clientX - left) * props.scale.width) / width)
}
function take(event: PointerEvent) {
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  held.value = true
  follow(event)
}
const KEYS: Record<string, number> = {
  ArrowRight: 0.01,
  ArrowUp: 0.01,
  ArrowLeft: -0.01,
  ArrowDown: -0.01,
  PageUp: 0.1,
  PageDown: -0.1,
}
function press(event: KeyboardEvent) {
  const by = KEYS[event.key]
  let to = by === undefined ? null : model.value + (event.shiftKey ? by / 10 : by)
  if (event.key === 'Home') to = 0.01
  if (event.key === 'End') to = 0.99
  if (to === null) return
  event.preventDefault()
  event.stopPropagation()
  const fine = Math.round(to * 1000) / 1000
  model.value = event.shiftKey ? Math.min(0.999, Math.max(0.001, fine)) : settled(to)
}
</script>

<template>
  <g
    class="handle"
    :class="{ held }"
    role="slider"
    tabindex="0"
    :aria-label="text.likelihood.patient.handle"
    aria-valuemin="0.1"
    aria-valuemax="99.9"
    :aria-valuenow="typedPercent(model)"
    :aria-valuetext="percent(model)"
    data-test="walk-handle"
    @pointerdown.prevent="take"
    @pointermove="held && follow($event)"
    @pointerup="held = false"
    @pointercancel="held = false"
    @keydown="press"
  >
    <title>{{ text.likelihood.patient.drag }}</title>
    <!-- As wide as the axis, so that it can be taken anywhere in its row. -->
    <rect class="reach" x="0" y="0" :width="scale.width" height="56" />
    <path class="mark" :d="`M${scale.at(model)} 14l10 -9v-5h-20v5z`" transform="translate(0 11)" />
  </g>
</template>

<style scoped>
.handle {
  cursor: ew-resize;
  touch-action: pan-y;
}
.reach {
  fill: transparent;
}
.mark {
  fill: rgb(var(--v-theme-primary));
  stroke: rgb(var(--v-theme-background));
  stroke-width: 1.5;
}
.handle:focus-visible {
  outline: none;
}
.handle:focus-visible .mark,
.held .mark {
  stroke: rgb(var(--v-theme-on-background));
  stroke-width: 3;
}
</style>
