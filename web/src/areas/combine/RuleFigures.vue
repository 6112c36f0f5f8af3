<script setup lang="ts">
import { computed } from 'vue'

import { lr, share } from '@/areas/evidence/resultWords'
import type { BatteryAnswer, Ratio, RuleBounds, SimilarResult } from '@/shared/api/types'
import { percent, ratio } from '@/shared/format'
import SampleMark from '@/shared/layout/SampleMark.vue'
import WideBlock from '@/shared/layout/WideBlock.vue'
import { text } from '@/shared/text'

/** What the rule is worth, from every source there is: studies of the very rule first, then calculated, then what is possible at all. */
const props = defineProps<{ answer: BatteryAnswer; degree: string }>()

const words = text.combine.figures
const rules = text.combine.rule
const columns = Object.values(text.combine.columns)
const n = computed(() => props.answer.tests.length)
const k = computed(() => props.answer.at_least)
const of = (view: BatteryAnswer['dependent']) => view.rules[k.value - 1]!
const bounds = computed<RuleBounds>(() => props.answer.bounds[k.value - 1]!)
const range = ([low, high]: [number, number]) => `${percent(low)} – ${percent(high)}`
const ratios = ([low, high]: [Ratio | null, Ratio | null]) =>
  `${low == null ? text.unknown : ratio(low)} – ${high == null ? text.unknown : ratio(high)}`
const rows = computed(() => {
  const { published, dependent, independent } = props.answer
  const figures = (it: {
    sensitivity?: Parameters<typeof share>[0]
    specificity?: Parameters<typeof share>[0]
    lr_positive?: Parameters<typeof lr>[0]
    lr_negative?: Parameters<typeof lr>[0]
  }) => [share(it.sensitivity), share(it.specificity), lr(it.lr_positive), lr(it.lr_negative)]
  const calculated = [
    { key: 'dependent', title: props.degree, said: figures(of(dependent)), sample: false },
    { key: 'independent', title: words.independent, said: figures(of(independent)), sample: false },
    {
      key: 'bounds',
      title: words.bounds,
      said: [
        range(bounds.value.sensitivity as [number, number]),
        range(bounds.value.specificity as [number, number]),
        ratios(bounds.value.lr_positive as [Ratio | null, Ratio | null]),
        ratios(bounds.value.lr_negative as [Ratio | null, Ratio | null]),
      ],
      sample: false,
    },
  ]
  if (!published.summary) return calculated
  const title = words.published(published.studies)
  return [
    { key: 'published', title, said: figures(published.summary), sample: published.sample },
    ...calculated,
  ]
})
/** How far studies of the rule are from the calculation, in whole percentage points. */
const difference = computed(() => {
  const { published, dependent } = props.answer
  if (!published.summary) return words.noPublished
  const parts = (['sensitivity', 'specificity'] as const).flatMap((name) => {
    const [found, calculated] = [published.summary?.[name], of(dependent)[name]]
    const points = found ? Math.round(100 * (found.estimate - calculated.estimate)) : 0
    const what = name === 'sensitivity' ? text.combine.sens : text.combine.spec
    return Math.abs(points) > 2
      ? [words.differs(what.toLowerCase(), words.points(Math.abs(points)), points > 0 ? 'higher' : 'lower')]
      : []
  })
  return parts.length ? words.differ(parts.join(', ')) : words.agree
})
/** Whether the rule can raise both, and up to which correlation it does. */
const both = computed(() => {
  if (!bounds.value.both_can_rise) return words.both.no
  const raises = props.answer.along.map((it) => it.raises_both[k.value - 1])
  const first = raises.findIndex((it) => !it)
  if (first === 0) return words.both.other
  return first < 0
    ? words.both.always
    : words.both.independent(props.answer.along[first - 1]!.correlation.toFixed(2))
})
const similarRule = ({ rule, tests }: SimilarResult) =>
  rules.short(rule === 'any' ? 1 : rule === 'all' ? tests.length : rule.at_least, tests.length)
</script>

<template>
  <section data-test="rule-figures">
    <h2>{{ words.title(rules.short(k, n)) }}</h2>
    <WideBlock :label="words.title(rules.short(k, n))">
      <table class="plain-table stacked">
        <thead>
          <tr>
            <th scope="col">{{ words.source }}</th>
            <th v-for="title in columns" :key="title" scope="col">{{ title }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(row, at) in rows" :key="row.key" :class="{ first: !at }" :data-test="`rule-${row.key}`">
            <th scope="row">
              {{ row.title }}
              <SampleMark v-if="row.sample" />
              <small v-if="row.key === 'published'"
                >{{ words.best }}: {{ answer.published.reports.join('; ') }}</small
              >
            </th>
            <td v-for="(figure, column) in row.said" :key="column" :data-label="columns[column]">
              {{ figure }}
            </td>
          </tr>
        </tbody>
      </table>
    </WideBlock>
    <p data-test="rule-difference">
      <b>{{ difference }}</b>
    </p>
    <p data-test="both-rise">{{ both }}</p>
    <p class="small muted">{{ words.intervals }}</p>
    <details v-if="answer.similar.length" data-test="similar">
      <summary>{{ words.similar }} ({{ answer.similar.length }})</summary>
      <p class="small muted">{{ words.similarAbout }}</p>
      <ul class="small">
        <li v-for="it in answer.similar" :key="it.result">
          <b>{{ it.report }}</b> <SampleMark v-if="it.sample" /> – {{ it.tests.join(', ') }}:
          {{ similarRule(it) }} ({{ it.same_tests ? words.otherRule : words.otherTests }}).
          {{ text.combine.sens }} {{ share(it.summary?.sensitivity) }}, {{ text.combine.spec.toLowerCase() }}
          {{ share(it.summary?.specificity) }}.
        </li>
      </ul>
    </details>
  </section>
</template>

<style scoped>
tr.first {
  font-weight: 650;
}
th {
  font-weight: inherit;
}
thead th {
  font-weight: 600;
}
td {
  white-space: nowrap;
}
small {
  display: block;
  font-weight: 400;
}
p {
  margin-bottom: 6px;
}
ul {
  margin: 4px 0 0;
  padding-left: 1.2em;
}
</style>
