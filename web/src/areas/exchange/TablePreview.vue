<script setup lang="ts">
import { computed } from 'vue'

import type { ImportedTable, Remark } from '@/shared/api/types'
import { percent, whole } from '@/shared/format'
import SampleMark from '@/shared/layout/SampleMark.vue'
import { text } from '@/shared/text'

/** What a table would bring, or brought. */
const props = defineProps<{ imported: ImportedTable; remarks: Remark[] }>()

const words = text.tableImport
const summary = computed(() => {
  const { results, studies, tests } = props.imported
  const at = tests.filter((test) => test.results).length
  if (!results) return words.nothing
  return studies ? words.summary(results, studies, at) : words.ofKnown(results, at)
})
const cells = ['tp', 'fp', 'fn', 'tn'] as const
const listed = (cells: string[], count: number) =>
  count > cells.length ? `${cells.join(', ')}, ${words.more(count - cells.length)}` : cells.join(', ')
const alike = computed(() => {
  const rows = props.imported.alike
  return rows.length ? words.alike(listed(rows.slice(0, 12).map(words.row), rows.length)) : ''
})
const share = (value?: number | null) => (value == null ? text.study.oneArmed : percent(value))
</script>

<template>
  <p class="summary" data-test="table-summary">
    {{ summary }}. <SampleMark v-if="imported.sample" />
    <template v-if="imported.known_results && imported.results">{{
      words.known(imported.known_results)
    }}</template>
  </p>
  <p v-if="imported.drafts.length" data-test="table-drafts">{{ words.drafts(imported.drafts.join(', ')) }}</p>
  <ul v-if="remarks.length || alike" class="remarks" data-test="table-remarks">
    <li v-if="alike">{{ alike }}</li>
    <li v-for="remark in remarks" :key="remark.message" class="wrap-anywhere">
      {{ remark.message }}
      <span v-if="remark.count" class="muted">({{ listed(remark.cells, remark.count) }})</span>
    </li>
  </ul>
  <div class="scroll" tabindex="0" role="region" :aria-label="text.exchange.test">
    <table class="plain-table" data-test="table-tests">
      <thead>
        <tr>
          <th scope="col">{{ text.exchange.test }}</th>
          <th scope="col">{{ text.exchange.result }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="test in imported.tests" :key="test.name">
          <th scope="row" class="wrap-anywhere">{{ test.name }}</th>
          <td>{{ text.exchange.results(test.results, test.known_results, 0) }}</td>
        </tr>
      </tbody>
    </table>
  </div>
  <h3>{{ words.understood }}</h3>
  <p v-if="imported.results + imported.known_results > imported.rows.length" class="small muted">
    {{ words.firstRows(whole(imported.rows.length)) }}
  </p>
  <div class="scroll" tabindex="0" role="region" :aria-label="words.understood">
    <table class="plain-table rows" data-test="table-rows">
      <thead>
        <tr>
          <th scope="col" class="number">{{ words.rowNumber }}</th>
          <th scope="col">{{ text.exchange.test }}</th>
          <th scope="col">{{ text.study.reference }}</th>
          <th v-for="cell in cells" :key="cell" scope="col" class="number">
            <abbr :title="text.study.cells[cell]">{{ cell.toUpperCase() }}</abbr>
          </th>
          <th scope="col" class="number">{{ words.shares.sensitivity }}</th>
          <th scope="col" class="number">{{ words.shares.specificity }}</th>
          <th scope="col">{{ text.exchange.state }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in imported.rows" :key="row.row">
          <td class="number muted">{{ row.row }}</td>
          <td class="wrap-anywhere">{{ row.test }}</td>
          <td class="wrap-anywhere" dir="auto">{{ row.reference }}</td>
          <td v-for="cell in cells" :key="cell" class="number">{{ row.counts[cell] ?? '' }}</td>
          <td class="number">{{ share(row.sensitivity) }}</td>
          <td class="number">{{ share(row.specificity) }}</td>
          <td>{{ row.known ? words.here : text.exchange.fates.new }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
h3 {
  margin-top: 14px;
}
.summary {
  font-weight: 600;
}
.remarks {
  margin: 8px 0;
  padding-left: 18px;
}
.scroll {
  max-height: 320px;
  overflow: auto;
}
thead th {
  position: sticky;
  top: 0;
  background: rgb(var(--v-theme-background));
}
tbody th {
  font-weight: 600;
}
.rows {
  font-size: 0.875rem;
}
.number {
  text-align: right;
  white-space: nowrap;
  font-variant-numeric: tabular-nums;
}
abbr {
  text-decoration: none;
}
</style>
