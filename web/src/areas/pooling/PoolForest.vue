<script setup lang="ts">
import { computed, ref } from 'vue'

import { label, share } from '@/areas/evidence/resultWords'
import ForestAxis from '@/figures/ForestAxis.vue'
import ForestRow from '@/figures/ForestRow.vue'
import { useAppraisalQuestions } from '@/shared/api/queries'
import type { PoolAnswer, Pooled, Prediction, ShareEstimate, TestRow } from '@/shared/api/types'
import SampleMark from '@/shared/layout/SampleMark.vue'
import { text } from '@/shared/text'
import { useWidth } from '@/shared/useWidth'
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

const column = ref<HTMLElement | null>(null)
const width = useWidth(column, 150)
const questions = useAppraisalQuestions()
const asked = computed(() => questions.data.value?.find((it) => it.aspect === 'accuracy'))

const several = computed(() => new Set(props.rows.map(({ result }) => result.test_id)).size > 1)
const nameOf = (id: string) => (several.value ? (props.tests.find((test) => test.id === id)?.name ?? '') : '')
const shown = computed(() => props.rows.filter((row) => stands(row, Boolean(props.answer.compared))))
const out = computed(() => props.rows.filter((row) => !shown.value.includes(row)))
const groups = computed(() => {
  const { compared } = props.answer
  const sorted = ordered(shown.value, props.order)
  if (!compared) return [{ title: '', rows: sorted, pooled: null as Pooled | null, sample: false }]
  const levels = compared.levels.map((level, index) => ({
    title: facetWords(compared.facet, level.value, props.tests),
    rows: sorted.filter(({ row }) => row.level === index),
    pooled: level.pooled ?? null,
    sample: level.sample,
  }))
  const rest = sorted.filter(({ row }) => row.level == null)
  return rest.length
    ? [...levels, { title: text.pool.why.switched_off!, rows: rest, pooled: null, sample: false }]
    : levels
})
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
  <div class="scroller">
    <table class="forest" data-test="pool-forest">
      <colgroup>
        <col class="switch no-print" />
        <col class="report" />
        <template v-for="measure in measures" :key="measure">
          <col class="numbers" />
          <col />
          <col class="weight" />
        </template>
      </colgroup>
      <thead>
        <tr>
          <th scope="col" class="switch no-print">{{ text.pool.inPool }}</th>
          <th scope="col" class="report">{{ text.study.study }}</th>
          <template v-for="measure in measures" :key="measure">
            <th scope="col" colspan="2" class="measure">{{ text.study[measure] }}</th>
            <th scope="col" class="weight" :title="text.pool.weightHint">{{ text.pool.weight }}</th>
          </template>
        </tr>
        <tr class="axis" aria-hidden="true">
          <td class="no-print"></td>
          <td></td>
          <template v-for="(measure, index) in measures" :key="measure">
            <td></td>
            <td class="plot">
              <div :ref="(el) => index === 0 && (column = el as HTMLElement)">
                <ForestAxis :width="width" :marks="MARKS" />
              </div>
            </td>
            <td></td>
          </template>
        </tr>
      </thead>
      <tbody v-for="(group, index) in groups" :key="index">
        <tr v-if="group.title" class="group">
          <td class="no-print"></td>
          <th scope="rowgroup" colspan="7">{{ group.title }}</th>
        </tr>
        <PoolForestRow
          v-for="row in group.rows"
          :key="row.result.id"
          :of="row"
          :asked="asked"
          :width="width"
          :marked="marked === row.result.id"
          :compared="Boolean(answer.compared)"
          :test="answer.compared?.facet === 'test' ? '' : nameOf(row.result.test_id)"
          @toggle="emit('toggle', $event)"
          @mark="emit('mark', $event)"
          @near="emit('near', $event)"
        />
        <tr v-if="group.pooled && group.pooled.k > 1" class="summary">
          <td class="no-print"></td>
          <th scope="row">{{ text.pool.summaryOf(group.title) }} <SampleMark v-if="group.sample" /></th>
          <template v-for="(value, i) in pair(group.pooled)" :key="i">
            <td class="numbers">
              <b>{{ share(value) }}</b>
            </td>
            <td class="plot"><ForestRow :width="width" :share="value" summary /></td>
            <td></td>
          </template>
        </tr>
      </tbody>
      <tfoot v-if="summaries.length">
        <tr v-for="summary in summaries" :key="summary.key" :class="{ ahead: summary.ahead }">
          <td class="no-print"></td>
          <th scope="row" :title="summary.ahead ? text.pool.aheadHint : undefined">
            {{ summary.title }} <SampleMark v-if="answer.sample && !summary.ahead" />
          </th>
          <template v-for="(value, i) in summary.values" :key="i">
            <td class="numbers">
              <b>{{ value ? share(value) : text.unknown }}</b>
            </td>
            <td class="plot"><ForestRow :width="width" :share="value" summary :ahead="summary.ahead" /></td>
            <td></td>
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
  </div>
</template>

<style scoped>
.scroller {
  overflow-x: auto;
}
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
  tfoot {
    display: table-row-group;
  }
}
</style>
