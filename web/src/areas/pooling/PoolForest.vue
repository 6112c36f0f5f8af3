<script setup lang="ts">
import { computed } from 'vue'

import { label, share } from '@/areas/evidence/resultWords'
import ForestAxis from '@/figures/ForestAxis.vue'
import ForestRow from '@/figures/ForestRow.vue'
import { useAppraisalQuestions } from '@/shared/api/queries'
import type { PoolAnswer, Pooled, Prediction, ShareEstimate, TestRow } from '@/shared/api/types'
import SampleMark from '@/shared/layout/SampleMark.vue'
import WideBlock from '@/shared/layout/WideBlock.vue'
import { text } from '@/shared/text'
import { facetWords, whyWords } from './facetWords'
import PoolForestRow from './PoolForestRow.vue'
import { ordered, stands, type Row } from './poolRows'
import type { RowOrder } from './usePoolState'

/** The results of a pool as a paired forest, each with its switch; below them the summaries, and why each other result is out. */
const props = defineProps<{
  answer: PoolAnswer
  rows: Row[]
  order: RowOrder
  marked: string
  tests: TestRow[]
}>()
const emit = defineEmits<{ toggle: [id: string]; mark: [id: string]; near: [id: string] }>()

const questions = useAppraisalQuestions()
const asked = computed(() => questions.data.value?.find((it) => it.aspect === 'accuracy'))

const several = computed(() => new Set(props.rows.map(({ result }) => result.test_id)).size > 1)
const nameOf = (id: string) => (several.value ? (props.tests.find((test) => test.id === id)?.name ?? '') : '')
const shown = computed(() => props.rows.filter((row) => stands(row, Boolean(props.answer.compared))))
const out = computed(() => props.rows.filter((row) => !stands(row, Boolean(props.answer.compared))))
interface Group {
  key: string
  title: string
  rows: Row[]
  pooled: Pooled | null
  sample: boolean
}
const groups = computed<Group[]>(() => {
  const { compared } = props.answer
  const sorted = ordered(shown.value, props.order)
  const plain = { title: '', rows: sorted, pooled: null, sample: false }
  if (!compared) return [{ key: 'all', ...plain }]
  const levels = compared.levels.map((level, index) => ({
    key: `level-${level.value}`,
    title: facetWords(compared.facet, level.value, props.tests),
    rows: sorted.filter(({ row }) => row.level === index),
    pooled: level.pooled ?? null,
    sample: level.sample,
  }))
  const rest = sorted.filter(({ row }) => row.level == null)
  return rest.length
    ? [...levels, { key: 'rest', ...plain, title: text.pool.why.switched_off!, rows: rest }]
    : levels
})
/** One list for all groups: a row that goes to another group is moved, not made anew. */
const lines = computed(() =>
  groups.value.flatMap((group) => [
    ...(group.title ? [{ key: `title-${group.key}`, group, row: null, summary: null }] : []),
    ...group.rows.map((row) => ({ key: row.result.id, group, row, summary: null })),
    ...(group.pooled && group.pooled.k > 1
      ? [{ key: `summary-${group.key}`, group, row: null, summary: group.pooled }]
      : []),
  ]),
)
const why = ({ row, result }: Row) => {
  const reason = row.out
  if (!reason) return ''
  if (reason.code !== 'facet') return whyWords(reason)
  const said = { ...result, ...result.study.setup } as unknown as Record<string, string | undefined>
  const risk = result.study.appraisals.find((it) => it.aspect === 'accuracy')?.overall ?? ''
  const value =
    reason.facet === 'risk_of_bias'
      ? risk
      : reason.facet === 'test'
        ? result.test_id
        : (said[reason.facet] ?? '')
  return text.pool.whyFacet(text.pool.facets[reason.facet], facetWords(reason.facet, value, props.tests))
}
const overall = computed(() =>
  props.answer.pooled && props.answer.pooled.k > 1 ? props.answer.pooled : null,
)
interface Summary {
  key: string
  title: string
  values: (ShareEstimate | null | undefined)[]
  ahead: boolean
}
const pair = (of: Pooled | Prediction) => [of.sensitivity, of.specificity]
const summaries = computed<Summary[]>(() => {
  if (!overall.value) return []
  const ahead = props.answer.prediction
  const found: Summary[] = [
    { key: 'all', title: text.pool.overall, values: pair(overall.value), ahead: false },
  ]
  return ahead.sensitivity || ahead.specificity
    ? [...found, { key: 'ahead', title: text.pool.ahead, values: pair(ahead), ahead: true }]
    : found
})
const MARKS = [0, 50, 100]
const measures = ['sensitivity', 'specificity'] as const
</script>

<template>
  <WideBlock :label="text.study.title">
    <table class="forest" role="table" data-test="pool-forest">
      <colgroup>
        <col class="switch no-print" />
        <col class="report" />
        <template v-for="measure in measures" :key="measure">
          <col class="numbers" />
          <col />
          <col class="weight" />
        </template>
      </colgroup>
      <thead role="rowgroup">
        <tr role="row">
          <th scope="col" role="columnheader" class="switch no-print">{{ text.pool.inPool }}</th>
          <th scope="col" role="columnheader" class="report">{{ text.study.study }}</th>
          <template v-for="measure in measures" :key="measure">
            <th scope="col" role="columnheader" colspan="2" aria-colspan="2" class="measure">
              {{ text.study[measure] }}
            </th>
            <th scope="col" role="columnheader" class="weight" :title="text.pool.weightHint">
              {{ text.pool.weight }}
            </th>
          </template>
        </tr>
        <tr class="axis" aria-hidden="true">
          <td class="no-print"></td>
          <td></td>
          <template v-for="measure in measures" :key="measure">
            <td></td>
            <td class="plot">
              <ForestAxis :marks="MARKS" />
            </td>
            <td></td>
          </template>
        </tr>
      </thead>
      <tbody role="rowgroup">
        <template v-for="{ key, group, row, summary } in lines" :key="key">
          <PoolForestRow
            v-if="row"
            :of="row"
            :asked="asked"
            :marked="marked === row.result.id"
            :compared="Boolean(answer.compared)"
            :test="answer.compared?.facet === 'test' ? '' : nameOf(row.result.test_id)"
            @toggle="emit('toggle', $event)"
            @mark="emit('mark', $event)"
            @near="emit('near', $event)"
          />
          <tr v-else-if="summary" role="row" class="summary">
            <td role="cell" class="no-print"></td>
            <th scope="row" role="rowheader">
              {{ text.pool.summaryOf(group.title) }} <SampleMark v-if="group.sample" />
            </th>
            <template v-for="(value, i) in pair(summary)" :key="i">
              <td role="cell" class="numbers" :data-label="text.study[measures[i]!]">
                <b>{{ share(value) }}</b>
              </td>
              <td role="cell" class="plot"><ForestRow :share="value" summary /></td>
              <td role="cell"></td>
            </template>
          </tr>
          <tr v-else role="row" class="group">
            <td role="cell" class="no-print"></td>
            <th role="rowheader" colspan="7" aria-colspan="7">{{ group.title }}</th>
          </tr>
        </template>
      </tbody>
      <tfoot v-if="summaries.length" role="rowgroup">
        <tr v-for="summary in summaries" :key="summary.key" role="row" :class="{ ahead: summary.ahead }">
          <td role="cell" class="no-print"></td>
          <th scope="row" role="rowheader" :title="summary.ahead ? text.pool.aheadHint : undefined">
            {{ summary.title }} <SampleMark v-if="answer.sample && !summary.ahead" />
          </th>
          <template v-for="(value, i) in summary.values" :key="i">
            <td role="cell" class="numbers" :data-label="text.study[measures[i]!]">
              <b>{{ value ? share(value) : text.unknown }}</b>
            </td>
            <td role="cell" class="plot">
              <ForestRow :share="value" summary :ahead="summary.ahead" />
            </td>
            <td role="cell"></td>
          </template>
        </tr>
      </tfoot>
    </table>
    <details v-if="out.length" class="out" :open="!shown.length" data-test="pool-out">
      <summary>{{ text.pool.out(out.length) }}</summary>
      <ul class="small">
        <li v-for="row in out" :key="row.result.id">
          <span dir="auto">{{ label(row.result) }}</span><template v-if="nameOf(row.result.test_id)">
            ({{ nameOf(row.result.test_id) }})</template
          >: {{ why(row) }}
        </li>
      </ul>
    </details>
  </WideBlock>
</template>

<style scoped>
.forest {
  width: 100%;
  min-width: 750px;
  border-collapse: collapse;
  table-layout: fixed;
}
.forest :deep(th),
.forest :deep(td) {
  padding: 3px 8px 3px 0;
  vertical-align: middle;
}
.forest :deep(th) {
  text-align: left;
}
thead th {
  font-size: 0.8125rem;
}
.switch {
  width: 30px;
}
.report {
  width: 25%;
}
col.numbers {
  width: 124px;
}
col.weight {
  width: 62px;
}
/*
 * On the screen each row is laid out by itself, so that those outside of it cost nothing: a choice among hundreds is drawn as fast as
 * one among twenty. Roles say that it is a table still.
 */
@media screen {
  .forest,
  .forest thead,
  .forest tbody,
  .forest tfoot {
    display: block;
  }
  .forest :deep(tr) {
    display: grid;
    grid-template-columns: 30px 25% repeat(2, 124px minmax(0, 1fr) 62px);
    align-items: center;
  }
  .forest :deep(tbody tr) {
    content-visibility: auto;
    contain-intrinsic-block-size: auto 52px;
  }
  .forest .measure {
    grid-column: span 2;
  }
  .group th {
    grid-column: span 7;
  }
}
.forest thead .measure {
  padding-left: 24px;
}
.forest thead .weight {
  text-align: right;
}
.forest :deep(tbody tr),
tfoot tr {
  border-top: 1px solid var(--line);
}
.group th {
  padding-top: 10px;
  font-family: var(--font-heading);
}
.summary th,
tfoot th {
  font-size: 0.875rem;
}
tfoot tr:first-child {
  border-top: 2px solid rgb(var(--v-theme-on-background));
}
.forest :deep(.plot) {
  padding: 0;
}
.forest .numbers {
  text-align: right;
  font-size: 0.8125rem;
  white-space: nowrap;
}
.ahead .numbers b,
.ahead th {
  font-weight: 400;
}
/* On a phone each report stands on its own line, its two figures below it, each beside its interval. */
@media screen and (max-width: 600px) {
  .forest {
    min-width: 0;
  }
  .forest :deep(tr) {
    grid-template-columns: 44px 108px minmax(0, 1fr) 44px;
    padding: 4px 0;
  }
  .forest :deep(tbody tr) {
    contain-intrinsic-block-size: auto 150px;
  }
  .forest :deep(th) {
    grid-column: 2 / -1;
  }
  .forest :deep(td.numbers:not(.weight)) {
    grid-column: 1 / span 2;
    text-align: left;
  }
  .forest :deep(td.numbers:not(.weight)::before) {
    display: block;
    color: var(--muted);
    font-size: 0.75rem;
    content: attr(data-label);
  }
  .forest :deep(td.weight) {
    padding-right: 0;
    text-align: right;
  }
  .forest thead tr:first-child {
    display: none;
  }
  .forest thead .axis td:not(:nth-child(4)) {
    display: none;
  }
  .forest thead .axis td {
    grid-column: 3;
  }
}
.out {
  margin-top: 10px;
}
.out ul {
  margin: 6px 0;
  padding-left: 1.4em;
}
@media print {
  .forest {
    min-width: 0;
    font-size: 0.8rem;
  }
  col.numbers {
    width: 100px;
  }
  col.weight {
    width: 46px;
  }
  .group {
    break-after: avoid;
  }
  tfoot {
    display: table-row-group;
  }
}
</style>
