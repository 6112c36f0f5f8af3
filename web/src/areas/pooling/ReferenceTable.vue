<script setup lang="ts">
import { computed } from 'vue'

import ReferenceShift from '@/figures/ReferenceShift.vue'
import type { CorrectedOverRange, RatioEstimate, ShareEstimate } from '@/shared/api/types'
import { percent, percentInterval, ratio } from '@/shared/format'
import { text } from '@/shared/text'
import WideBlock from '@/shared/layout/WideBlock.vue'
import { NAMES, type Name } from './useReferenceErrors'

/** Figures as found, and as they would be against the truth: a table and an arrow. */
const props = defineProps<{
  found: Partial<Record<Name, ShareEstimate | null>> &
    Partial<Record<'lr_positive' | 'lr_negative', RatioEstimate | null>>
  corrected: CorrectedOverRange
  /** Of what: the first column's head. */
  of: string
}>()

const words = text.pool.referenceErrors
const two = (bounds: readonly number[] | null | undefined) =>
  bounds ? percentInterval({ estimate: bounds[0]!, lower: bounds[0]!, upper: bounds[1]! }) : '–'
const any = (value: number | null | undefined) =>
  value == null ? text.unknown : value >= 0 && value <= 1 ? percent(value) : words.impossible
const rows = computed(() => {
  const { likely, ...over } = props.corrected
  const line = (name: Name) => ({
    name: text.pooled.measures[name],
    seen: props.found[name] ? percent(props.found[name].estimate) : text.unknown,
    likely: any(likely[name]),
    range: two(over[name]),
    bounds: two(likely.any_dependence[name]),
  })
  const lr = (name: 'lr_positive' | 'lr_negative') => ({
    name: text.pooled.measures[name],
    seen: props.found[name] ? ratio(props.found[name].estimate) : text.unknown,
    likely: likely[name] == null ? '–' : ratio(likely[name]),
    range: over[name] ? `${ratio(over[name][0]!)}–${ratio(over[name][1]!)}` : '–',
    bounds: '',
  })
  return [...NAMES.map(line), lr('lr_positive'), lr('lr_negative')]
})
const flags = computed(() => {
  const { likely, flags } = props.corrected
  const sure = likely.flags.map((flag) => words.flags[flag])
  return sure.length ? sure : flags.map((flag) => `${words.atAnEnd} ${words.flags[flag]}`)
})
const picture = computed(() => {
  const { likely } = props.corrected
  const [sensitivity, specificity] = [props.found.sensitivity, props.found.specificity]
  if (!sensitivity || !specificity) return null
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
  <div class="answer">
    <div>
      <WideBlock :label="words.title">
        <table class="plain-table" data-test="reference-table">
          <thead>
            <tr class="small">
              <td></td>
              <th v-for="column in [of, ...words.columns]" :key="column" scope="col">{{ column }}</th>
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
      </WideBlock>
      <ul v-if="flags.length" class="small" data-test="reference-flags">
        <li v-for="flag in flags" :key="flag">{{ flag }}</li>
      </ul>
      <p class="small muted">{{ words.source }}</p>
    </div>
    <ReferenceShift v-if="picture" v-bind="picture" :said="words.picture" />
  </div>
</template>

<style scoped>
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
td {
  white-space: nowrap;
}
@media (max-width: 900px) {
  .answer {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
