<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'

import { askThreshold } from '@/shared/api/queries'
import type { Stakes } from '@/shared/api/types'
import { percent, typedPercent } from '@/shared/format'
import { useAddress } from '@/shared/question/useAddress'
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'
import { typedNumber } from '@/shared/typedNumber'
import { useLiveAnswer } from '@/shared/useLiveAnswer'

/** From which probability on something is done, directly or from gain and harm, and how sure the pre-test probability is. */
const words = text.likelihood.patient.thresholds
const address = useAddress()
const { preTest, range, thresholds, setRange, setThresholds } = useQuestion()

const shown = (p: number | undefined) => (p === undefined ? '' : typedPercent(p))
const typed = reactive({ reassure: '', act: '', low: '', high: '' })
watch(
  [thresholds, range],
  () => {
    // What is half typed stays until it is whole.
    if (thresholds.value) {
      const { reassure, act } = thresholds.value
      Object.assign(typed, { reassure: shown(reassure), act: shown(act) })
    }
    if (range.value) Object.assign(typed, { low: shown(range.value[0]), high: shown(range.value[1]) })
  },
  { immediate: true },
)
// They were meant for the condition that was asked about.
watch(
  () => [address.one('region'), address.one('condition')].join('/'),
  () => Object.assign(typed, { reassure: '', act: '', low: '', high: '' }),
)
const number = (typed: string) => typedNumber(typed) ?? 0
/** Two shares in their order; what is wrong with them in words. */
function pair(a: string, b: string): { values: [number, number] | null; fault: string } {
  if (!a && !b) return { values: null, fault: '' }
  const [low, high] = [number(a) / 100, number(b) / 100]
  const sound = (text: string, p: number) => !text || (p >= 0.001 && p <= 0.999)
  if (!sound(a, low) || !sound(b, high)) return { values: null, fault: words.between }
  if (!a || !b) return { values: null, fault: words.both }
  return { values: [low, high], fault: '' }
}
const fault = computed(() => {
  const { values, fault } = pair(typed.reassure, typed.act)
  return fault || (values && values[0] > values[1] ? words.order : '')
})
const rangeFault = computed(() => {
  const { values, fault } = pair(typed.low, typed.high)
  const outside = values && (values[0] > preTest.value || values[1] < preTest.value)
  return fault || (outside ? words.rangeOrder : '')
})
function change(name: keyof typeof typed, value: string) {
  typed[name] = value.trim()
  if (name === 'reassure' || name === 'act') {
    const { values } = pair(typed.reassure, typed.act)
    if (!fault.value) void setThresholds(values && { reassure: values[0], act: values[1] })
  } else if (!rangeFault.value) void setRange(pair(typed.low, typed.high).values)
}
function clear() {
  Object.assign(typed, { reassure: '', act: '' })
  void setThresholds(null)
}
function clearRange() {
  Object.assign(typed, { low: '', high: '' })
  void setRange(null)
}

const stakes = ref<{ benefit: string; harm: string }>({ benefit: '', harm: '' })
const asked = computed<Stakes>(() => ({
  benefit: number(stakes.value.benefit),
  harm: number(stakes.value.harm),
}))
const weighable = computed(() => Number.isFinite(asked.value.benefit) && Number.isFinite(asked.value.harm))
const { answer, faults } = useLiveAnswer(
  asked,
  () => stakes.value.benefit !== '' && stakes.value.harm !== '' && weighable.value,
  askThreshold,
)
function use(which: 'reassure' | 'act') {
  if (answer.value) change(which, shown(answer.value.threshold))
}
const fields = [
  { name: 'reassure', label: words.reassure },
  { name: 'act', label: words.act },
] as const
</script>

<template>
  <section class="thresholds no-print" data-test="thresholds">
    <h2 class="visually-hidden">{{ words.title }}</h2>
    <div class="line small">
      <label v-for="field in fields" :key="field.name">
        {{ field.label }}
        <input
          :value="typed[field.name]"
          inputmode="decimal"
          :aria-invalid="!!fault"
          :data-test="`threshold-${field.name}`"
          @input="change(field.name, ($event.target as HTMLInputElement).value)"
        />
        {{ words.perCent }}
      </label>
      <button
        v-if="typed.reassure || typed.act"
        type="button"
        class="plain"
        data-test="clear-thresholds"
        @click="clear"
      >
        {{ words.clear }}
      </button>
      <label>
        {{ words.range }}
        <input
          :value="typed.low"
          inputmode="decimal"
          :aria-invalid="!!rangeFault"
          data-test="range-low"
          @input="change('low', ($event.target as HTMLInputElement).value)"
        />
      </label>
      <label>
        {{ words.to }}
        <input
          :value="typed.high"
          inputmode="decimal"
          :aria-invalid="!!rangeFault"
          data-test="range-high"
          @input="change('high', ($event.target as HTMLInputElement).value)"
        />
        {{ words.perCent }}
      </label>
      <button v-if="typed.low || typed.high" type="button" class="plain" @click="clearRange">
        {{ words.clearRange }}
      </button>
      <details>
        <summary>{{ words.stakes }}</summary>
        <div class="stakes">
          <label>
            {{ words.gain }}
            <input v-model="stakes.benefit" inputmode="decimal" data-test="stakes-benefit" />
          </label>
          <label>
            {{ words.harm }}
            <input v-model="stakes.harm" inputmode="decimal" data-test="stakes-harm" />
          </label>
          <p v-if="answer" aria-live="polite" data-test="stakes-answer">
            <b>{{ words.stakesAnswer(percent(answer.threshold)) }}</b>
            <v-btn v-for="field in fields" :key="field.name" size="small" @click="use(field.name)">
              {{ words.use(field.label) }}
            </v-btn>
          </p>
          <p v-if="!weighable" class="failure">{{ words.noNumber }}</p>
          <p v-for="one in faults" :key="one.field" class="failure">{{ one.message }} {{ one.remedy }}</p>
          <p class="muted">{{ words.sameUnit }}</p>
        </div>
      </details>
    </div>
    <p v-if="fault || rangeFault" class="failure small" role="alert">{{ fault }} {{ rangeFault }}</p>
    <p v-else-if="!thresholds" class="small muted">{{ words.unset }}</p>
  </section>
</template>

<style scoped>
.thresholds {
  margin: 12px 0 20px;
}
.line {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 6px 16px;
}
input {
  width: 4.2em;
  margin: 0 2px;
  padding: 3px 5px;
  border: 1px solid var(--muted);
  border-radius: 4px;
  background: rgb(var(--v-theme-background));
  color: inherit;
  font: inherit;
  text-align: right;
}
input[aria-invalid='true'] {
  border-color: rgb(var(--v-theme-error));
}
.plain {
  padding: 0;
  border: 0;
  background: none;
  color: rgb(var(--v-theme-primary));
  font: inherit;
  text-decoration: underline;
  cursor: pointer;
}
@media screen and (max-width: 600px) {
  input,
  .plain,
  summary {
    min-height: 44px;
  }
  summary {
    align-content: center;
  }
}
details[open] {
  flex-basis: 100%;
}
.stakes {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 6px 16px;
  margin-top: 6px;
}
.stakes p {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
}
</style>
