<script setup lang="ts">
import { computed } from 'vue'

import { typedPercent } from '@/shared/format'
import { text } from '@/shared/text'
import type { ProbabilityScale } from './probabilityScale'

/** The percentages above a walk, and what is done on either side of the thresholds. */
const props = defineProps<{
  scale: ProbabilityScale
  thresholds?: { reassure: number; act: number } | null
}>()

const zones = text.likelihood.patient.zones
const labels = computed(() => {
  if (!props.thresholds) return []
  const { at, width } = props.scale
  const [low, high] = [at(props.thresholds.reassure), at(props.thresholds.act)]
  const all = [
    { word: zones.reassure, x: low - 5, anchor: 'end', room: low },
    { word: zones.between, x: (low + high) / 2, anchor: 'middle', room: high - low },
    { word: zones.treat, x: high + 5, anchor: 'start', room: width - high },
  ]
  return all.filter(({ word, room }) => room > 8 * word.length)
})
</script>

<template>
  <svg :width="scale.width" height="36" :viewBox="`0 0 ${scale.width} 36`" aria-hidden="true">
    <text
      v-for="label in labels"
      :key="label.word"
      class="zone"
      :x="label.x"
      y="12"
      :text-anchor="label.anchor"
    >
      {{ label.word }}
    </text>
    <text v-for="tick in scale.ticks" :key="tick" :x="scale.at(tick)" y="31" text-anchor="middle">
      {{ typedPercent(tick) }}
    </text>
  </svg>
</template>

<style scoped>
svg {
  display: block;
  overflow: visible;
}
text {
  font-size: 11.5px;
  fill: var(--muted);
}
.zone {
  font-weight: 600;
  fill: rgb(var(--v-theme-on-background));
}
</style>
