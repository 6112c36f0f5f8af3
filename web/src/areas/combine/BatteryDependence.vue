<script setup lang="ts">
import { computed, ref } from 'vue'

import type { BatteryAnswer } from '@/shared/api/types'
import { withDecimals } from '@/shared/format'
import DegreeSlider from '@/shared/question/DegreeSlider.vue'
import { options } from '@/shared/question/useListPage'
import { text } from '@/shared/text'
import type { Dependence } from './useBatteryState'

/** How far the tests are taken to depend on each other, and why they may. */
const props = defineProps<{ answer: BatteryAnswer; dependence: Dependence }>()
const emit = defineEmits<{ change: [to: Dependence] }>()

const words = text.combine.dependence
const degree = text.likelihood.patient.dependence.degree
const wanted = ref(false)
const apart = computed(() => wanted.value || props.dependence.without !== props.dependence.with)
const name = (nth: number) => props.answer.tests[nth]?.name ?? ''
const reasons = computed(() =>
  props.answer.shared.map(({ tests: [one, other], structures, purpose }) => {
    const all = structures.join(', ')
    return purpose
      ? words.sharedFinding(name(one!), name(other!), all, text.purposes[purpose].toLowerCase())
      : words.shared(name(one!), name(other!), all)
  }),
)
const covariance = computed(() => props.dependence.kind === 'covariance')
/** From where to where a slider goes, in people with the condition and without it. */
const ends = computed<Record<'with' | 'without', [number, number]>>(() => {
  const { covariances } = props.answer
  return covariance.value && covariances
    ? {
        with: covariances.diseased as [number, number],
        without: covariances.non_diseased as [number, number],
      }
    : { with: [0, 0.9], without: [0, 0.9] }
})
const step = computed(() => (covariance.value ? 0.005 : 0.1))
const said = (value: number) =>
  covariance.value ? withDecimals(value, 3) : words.degree(degree(value), withDecimals(value, 1))
const both = computed(() => !covariance.value && !apart.value)
function set(which: 'with' | 'without', value: number) {
  // Rounding of a slider may lie a little beyond what two tests allow.
  const [low, high] = ends.value[which]
  const to = Math.min(high, Math.max(low, value))
  emit('change', { ...props.dependence, [which]: to, ...(both.value ? { without: to } : {}) })
}
const setKind = (kind: Dependence['kind']) =>
  emit('change', kind === 'covariance' ? { kind, with: 0, without: 0 } : { kind, with: 0.5, without: 0.5 })
function setApart(to: boolean) {
  wanted.value = to
  if (!to) emit('change', { ...props.dependence, without: props.dependence.with })
}
const sliders = computed(() => (both.value ? (['with'] as const) : (['with', 'without'] as const)))
</script>

<template>
  <section data-test="battery-dependence">
    <h2>{{ words.title }}</h2>
    <p class="small">{{ words.about }}</p>
    <ul class="small">
      <li v-for="line in reasons" :key="line">{{ line }}</li>
      <li v-if="!reasons.length">{{ words.noShared }}</li>
    </ul>
    <div class="no-print">
      <v-select
        v-if="answer.covariances"
        class="kind"
        :model-value="dependence.kind"
        :items="options(words.kinds)"
        :label="words.kind"
        density="compact"
        hide-details
        data-test="dependence-kind"
        @update:model-value="setKind"
      />
      <template v-for="which in sliders" :key="which">
        <DegreeSlider
          :label="both ? words.slider : words[which]"
          :said="said(dependence[which])"
          :model-value="dependence[which]"
          :ends="ends[which]"
          :step="step"
          :test="`dependence-${which}`"
          @update:model-value="set(which, $event)"
        />
        <p v-if="covariance" class="small muted">
          {{ words.range(withDecimals(ends[which][0], 3), withDecimals(ends[which][1], 3)) }}
        </p>
      </template>
      <label v-if="!covariance" class="small apart">
        <input
          type="checkbox"
          :checked="apart"
          @change="setApart(($event.target as HTMLInputElement).checked)"
        />
        {{ words.apart }}
      </label>
    </div>
  </section>
</template>

<style scoped>
ul {
  margin: 4px 0 8px;
  padding-left: 1.2em;
}
.kind {
  max-width: 260px;
  margin: 8px 0;
}
.apart {
  display: flex;
  gap: 8px;
  align-items: center;
}
p {
  margin-bottom: 6px;
}
</style>
