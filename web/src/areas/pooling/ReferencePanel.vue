<script setup lang="ts">
import { refDebounced } from '@vueuse/core'
import { computed, toRef } from 'vue'

import ReferenceShift from '@/figures/ReferenceShift.vue'
import { usePoolReference } from '@/shared/api/queries'
import type { PoolInput, Pooled } from '@/shared/api/types'
import { percent, percentInterval, ratio } from '@/shared/format'
import FailureNotice from '@/shared/layout/FailureNotice.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { useAddress } from '@/shared/question/useAddress'
import { text } from '@/shared/text'
import { typedNumber } from '@/shared/typedNumber'

/** What the summary would be against the truth, if the reference standard errs as somebody states it; kept in the address. */
const props = defineProps<{ input: PoolInput; pooled: Pooled }>()

const words = text.pool.referenceErrors
const { one, change } = useAddress()
const NAMES = ['sensitivity', 'specificity'] as const
type Name = (typeof NAMES)[number]
const ENDS = ['lower', 'estimate', 'upper'] as const
const key = (name: Name) => `reference_${name}`
/** Three percentages of one figure: from, most likely, to. */
const typed = (name: Name) => one(key(name)).split('-')
const shown = (name: Name, end: number) => typed(name)[end] ?? ''
const share = (said: string | undefined) => {
  const value = typedNumber(said ?? '')
  return value != null && value >= 0 && value <= 100 ? value / 100 : null
}
function set(name: Name, end: number, value: string) {
  const three = [0, 1, 2].map((index) => (index === end ? value.trim() : shown(name, index)))
  void change({ [key(name)]: three.some(Boolean) ? three.join('-') : undefined })
}
/** Who gives no range means the one value. */
const range = (name: Name) => {
  const [lower, estimate, upper] = [0, 1, 2].map((end) => share(shown(name, end)))
  if (estimate == null) return null
  return { lower: lower ?? estimate, estimate, upper: upper ?? estimate }
}
const ordered = (name: Name) => {
  const of = range(name)
  return !of || (of.lower <= of.estimate && of.estimate <= of.upper)
}
const refused = (name: Name, end: number) => {
  const said = shown(name, end)
  if (said && share(said) == null) return words.noShare
  return end === 1 && !ordered(name) ? words.order : ''
}
const body = computed(() => {
  const [sensitivity, specificity] = [range('sensitivity'), range('specificity')]
  if (!sensitivity || !specificity || !NAMES.every(ordered)) return null
  return { pool: { ...props.input, by: null }, reference: { sensitivity, specificity } }
})
const asked = refDebounced(toRef(body), 250)
const found = usePoolReference(asked)
const corrected = computed(() => (asked.value && found.data.value?.corrected) || null)
const two = (bounds: readonly number[] | null | undefined) =>
  bounds ? percentInterval({ estimate: bounds[0]!, lower: bounds[0]!, upper: bounds[1]! }) : '–'
const any = (value: number | null | undefined) =>
  value == null ? text.unknown : value >= 0 && value <= 1 ? percent(value) : words.impossible
const rows = computed(() => {
  const of = corrected.value
  if (!of) return []
  const { likely } = of
  const line = (name: Name) => ({
    name: text.pooled.measures[name],
    seen: props.pooled[name] ? percent(props.pooled[name].estimate) : text.unknown,
    likely: any(likely[name]),
    range: two(of[name]),
    bounds: two(likely.any_dependence[name]),
  })
  const lr = (name: 'lr_positive' | 'lr_negative') => ({
    name: text.pooled.measures[name],
    seen: props.pooled[name] ? ratio(props.pooled[name].estimate) : text.unknown,
    likely: likely[name] == null ? '–' : ratio(likely[name]),
    range: of[name] ? `${ratio(of[name][0]!)}–${ratio(of[name][1]!)}` : '–',
    bounds: '',
  })
  return [line('sensitivity'), line('specificity'), lr('lr_positive'), lr('lr_negative')]
})
const flags = computed(() => {
  const of = corrected.value
  if (!of) return []
  const sure = of.likely.flags.map((flag) => words.flags[flag])
  return sure.length ? sure : of.flags.map((flag) => `${words.atAnEnd} ${words.flags[flag]}`)
})
const picture = computed(() => {
  const of = corrected.value
  const [sensitivity, specificity] = [props.pooled.sensitivity, props.pooled.specificity]
  if (!of || !sensitivity || !specificity) return null
  const { likely } = of
  const inside = (value: number | null | undefined): value is number =>
    value != null && value >= 0 && value <= 1
  const { sensitivity: high, specificity: wide } = likely.any_dependence
  return {
    from: { sensitivity: sensitivity.estimate, specificity: specificity.estimate },
    to:
      inside(likely.sensitivity) && inside(likely.specificity)
        ? { sensitivity: likely.sensitivity, specificity: likely.specificity }
        : null,
    bounds: high && wide ? { sensitivity: high, specificity: wide } : null,
  }
})
</script>

<template>
  <details class="reference" :open="!!body" data-test="reference-errors">
    <summary>
      <h2>{{ words.title }}</h2>
    </summary>
    <p class="small about">{{ words.about }}</p>
    <div class="fields no-print">
      <fieldset v-for="name in NAMES" :key="name">
        <legend class="small">{{ words.of[name] }}</legend>
        <v-text-field
          v-for="(end, index) in ENDS"
          :key="end"
          :model-value="shown(name, index)"
          :label="words.ends[end]"
          suffix="%"
          inputmode="decimal"
          maxlength="6"
          :error-messages="refused(name, index)"
          :data-test="`reference-${name}-${end}`"
          @change="set(name, index, ($event.target as HTMLInputElement).value)"
        />
      </fieldset>
    </div>
    <WaitLine :active="!!body && found.isFetching.value" />
    <FailureNotice v-if="body && found.isError.value" :query="found" :title="text.pool.failed" />
    <div v-else-if="corrected" class="answer">
      <div>
        <div class="scroller">
          <table class="plain-table" data-test="reference-table">
            <thead>
              <tr class="small">
                <th v-for="(column, index) in words.columns" :key="index" scope="col">{{ column }}</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="row in rows" :key="row.name">
                <th scope="row">{{ row.name }}</th>
                <td>{{ row.seen }}</td>
                <td>
                  <b>{{ row.likely }}</b>
                </td>
                <td>{{ row.range }}</td>
                <td>{{ row.bounds }}</td>
              </tr>
            </tbody>
          </table>
        </div>
        <ul v-if="flags.length" class="small" data-test="reference-flags">
          <li v-for="flag in flags" :key="flag">{{ flag }}</li>
        </ul>
        <p class="small muted">{{ words.source }}</p>
      </div>
      <ReferenceShift v-if="picture" v-bind="picture" :said="words.picture" />
    </div>
    <p v-else-if="body && found.isSuccess.value" class="small">{{ words.oneGroup }}</p>
  </details>
</template>

<style scoped>
summary {
  cursor: pointer;
}
summary h2 {
  display: inline;
}
.about {
  max-width: 80ch;
  margin: 8px 0 12px;
}
.fields {
  display: flex;
  flex-wrap: wrap;
  gap: 10px 28px;
}
legend {
  margin-bottom: 10px;
}
fieldset {
  display: grid;
  grid-template-columns: repeat(3, 112px);
  gap: 4px 8px;
  margin: 0;
  padding: 0;
  border: 0;
}
.answer {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 300px;
  gap: 16px 36px;
  align-items: start;
  margin-top: 12px;
}
ul {
  margin: 8px 0;
  padding-left: 1.2em;
}
@media (max-width: 900px) {
  .answer {
    grid-template-columns: minmax(0, 1fr);
  }
}
@media (max-width: 420px) {
  fieldset {
    width: 100%;
    grid-template-columns: repeat(3, minmax(0, 1fr));
  }
}
.scroller {
  overflow-x: auto;
}
</style>
