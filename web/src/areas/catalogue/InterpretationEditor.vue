<script setup lang="ts">
import { mdiClose, mdiPlus } from '@mdi/js'
import { computed } from 'vue'

import type { Comparison, Interpretation, Measure, ReadingRow, RowCondition } from '@/shared/api/types'
import IconButton from '@/shared/layout/IconButton.vue'
import WideBlock from '@/shared/layout/WideBlock.vue'
import { text } from '@/shared/text'
import { typedNumber } from '@/shared/typedNumber'
import { shownConditions, useEditor } from './editorContext'
import FieldInput from './FieldInput.vue'
import TryTable from './TryTable.vue'
import type { Entry, Field, Value } from './fieldKinds'
import { comparisonSigns } from './sheetWords'

/** The interpretation table: a column for each measure, a row for each reading, and what the rows leave open. */
const props = defineProps<{ path: string; fields: Field[] }>()

const { draft, findings } = useEditor()
const table = computed<Interpretation>({
  get: () => draft.value.interpretation,
  set: (value) => (draft.value = { ...draft.value, interpretation: value }),
})
const measuresField = computed(() => props.fields[0] as Field)
const measures = computed(() => table.value.measures.filter((measure) => measure.name.trim()))
const shown = computed(() => shownConditions(draft.value))
const faults = computed(() => findings.value.filter((finding) => finding.field === props.path))
const ways = Object.entries(comparisonSigns).map(([value, title]) => ({ value: value as Comparison, title }))

const setMeasures = (value: Value | undefined) =>
  (table.value = { ...table.value, measures: value as unknown as Measure[] })
function change(index: number, changes: Partial<ReadingRow>) {
  const row = { ...(table.value.rows[index] as ReadingRow), ...changes }
  table.value = { ...table.value, rows: table.value.rows.with(index, row) }
}
const of = (row: ReadingRow, measure: Measure) =>
  row.conditions.filter((condition) => condition.measure === measure.name)
function setOf(index: number, measure: Measure, conditions: RowCondition[]) {
  const others = (table.value.rows[index]?.conditions ?? []).filter((it) => it.measure !== measure.name)
  change(index, { conditions: [...others, ...conditions] })
}
const condition = (measure: Measure, changes: Partial<RowCondition>): RowCondition => ({
  measure: measure.name,
  comparison: null,
  value: null,
  choices: [],
  ...changes,
})
function setBound(index: number, measure: Measure, at: number, changes: Partial<RowCondition>) {
  const all = of(table.value.rows[index] as ReadingRow, measure)
  setOf(index, measure, all.with(at, { ...(all[at] as RowCondition), ...changes }))
}
const addBound = (index: number, measure: Measure) =>
  setOf(index, measure, [
    ...of(table.value.rows[index] as ReadingRow, measure),
    condition(measure, { comparison: 'at_least' }),
  ])
function removeBound(index: number, measure: Measure, at: number) {
  const all = of(table.value.rows[index] as ReadingRow, measure)
  setOf(
    index,
    measure,
    all.filter((_, position) => position !== at),
  )
}
const setWords = (index: number, measure: Measure, choices: string[]) =>
  setOf(index, measure, choices.length ? [condition(measure, { choices })] : [])

function addRow() {
  const row: ReadingRow = {
    conditions: [],
    reading: '',
    grade: '',
    condition: '',
    next_step: '',
    urgent: false,
    within_hours: null,
  }
  table.value = { ...table.value, rows: [...table.value.rows, row] }
}
const removeRow = (index: number) =>
  (table.value = { ...table.value, rows: table.value.rows.filter((_, at) => at !== index) })
</script>

<template>
  <div :data-path="path">
    <p class="small muted">{{ text.interpretation.about }}</p>
    <FieldInput
      :model-value="table.measures as unknown as Entry[]"
      :field="measuresField"
      :path="`${path}.measures`"
      @update:model-value="setMeasures"
    />
    <WideBlock v-if="measures.length" class="rows" :label="text.sheet.interpretation">
      <table data-test="reading-rows">
        <thead>
          <tr>
            <th>
              <span class="visually-hidden">{{ text.interpretation.rowNumber }}</span>
            </th>
            <th v-for="measure in measures" :key="measure.name" scope="col">
              {{ measure.name }} <span class="muted">{{ measure.unit }}</span>
            </th>
            <th scope="col" class="wide">{{ text.interpretation.means }}</th>
            <th scope="col">{{ text.interpretation.next }}</th>
            <th>
              <span class="visually-hidden">{{ text.study.actions }}</span>
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(row, index) in table.rows" :key="index" :data-path="`${path}.rows[${index}]`">
            <th scope="row">{{ index + 1 }}</th>
            <td v-for="measure in measures" :key="measure.name">
              <v-select
                v-if="measure.choices.length"
                :model-value="of(row, measure)[0]?.choices ?? []"
                :items="measure.choices"
                :label="text.interpretation.any"
                :aria-label="text.interpretation.cell(index + 1, measure.name)"
                multiple
                hide-details
                density="compact"
                @update:model-value="setWords(index, measure, $event)"
              />
              <template v-else>
                <div v-for="(bound, at) in of(row, measure)" :key="at" class="bound">
                  <v-select
                    :model-value="bound.comparison"
                    :items="ways"
                    :aria-label="text.interpretation.cell(index + 1, measure.name)"
                    hide-details
                    density="compact"
                    :data-test="`comparison-${index}`"
                    @update:model-value="setBound(index, measure, at, { comparison: $event })"
                  />
                  <v-text-field
                    :model-value="
                      bound.value === null || bound.value === undefined ? '' : String(bound.value)
                    "
                    type="number"
                    step="any"
                    hide-spin-buttons
                    hide-details
                    density="compact"
                    :aria-label="text.interpretation.value(index + 1, measure.name)"
                    :data-test="`bound-${index}`"
                    @update:model-value="
                      setBound(index, measure, at, { value: typedNumber(String($event ?? '')) })
                    "
                  />
                  <IconButton
                    :icon="mdiClose"
                    :label="text.interpretation.removeBound"
                    @click="removeBound(index, measure, at)"
                  />
                </div>
                <v-btn
                  v-if="of(row, measure).length < 2"
                  size="x-small"
                  variant="text"
                  @click="addBound(index, measure)"
                >
                  {{ of(row, measure).length ? text.interpretation.and : text.interpretation.narrow }}
                </v-btn>
              </template>
            </td>
            <td class="wide">
              <v-textarea
                :model-value="row.reading"
                rows="1"
                auto-grow
                hide-details
                density="compact"
                :aria-label="text.interpretation.means"
                :data-test="`reading-${index}`"
                @update:model-value="change(index, { reading: $event })"
              />
              <v-text-field
                :model-value="row.grade"
                :label="text.interpretation.grade"
                hide-details
                density="compact"
                @update:model-value="change(index, { grade: $event })"
              />
              <v-combobox
                v-if="shown.length > 1 || row.condition"
                :model-value="row.condition"
                :items="shown"
                :label="text.interpretation.condition"
                hide-details
                density="compact"
                :data-test="`about-${index}`"
                @update:model-value="change(index, { condition: String($event ?? '') })"
              />
            </td>
            <td>
              <v-textarea
                :model-value="row.next_step"
                rows="1"
                auto-grow
                hide-details
                density="compact"
                :aria-label="text.interpretation.next"
                @update:model-value="change(index, { next_step: $event })"
              />
              <v-checkbox
                :model-value="row.urgent"
                :label="text.interpretation.urgent"
                hide-details
                density="compact"
                @update:model-value="change(index, { urgent: $event === true })"
              />
              <v-text-field
                v-if="row.urgent"
                :model-value="row.within_hours ?? ''"
                :label="text.interpretation.within"
                suffix="h"
                :data-test="`within-${index}`"
                inputmode="decimal"
                type="number"
                hide-spin-buttons
                @update:model-value="change(index, { within_hours: typedNumber(String($event ?? '')) })"
              />
            </td>
            <td>
              <IconButton
                :icon="mdiClose"
                :label="text.interpretation.removeRow(index + 1)"
                @click="removeRow(index)"
              />
            </td>
          </tr>
        </tbody>
      </table>
    </WideBlock>
    <v-btn
      v-if="measures.length"
      :prepend-icon="mdiPlus"
      size="small"
      variant="text"
      data-test="add-row"
      @click="addRow"
    >
      {{ text.interpretation.addRow }}
    </v-btn>
    <div v-if="table.rows.length" class="verdict" aria-live="polite" data-test="table-verdict">
      <p v-if="!faults.length" class="small">{{ text.interpretation.whole }}</p>
      <ul v-else class="small">
        <li v-for="fault in faults" :key="fault.message">{{ fault.message }} {{ fault.remedy }}</li>
      </ul>
    </div>
    <TryTable v-if="measures.length && table.rows.length" :table="table" />
  </div>
</template>

<style scoped>
.rows {
  margin-top: 12px;
}
table {
  width: 100%;
  border-collapse: collapse;
}
th,
td {
  padding: 6px;
  text-align: left;
  vertical-align: top;
  border-bottom: 1px solid var(--line);
  font-size: 0.8125rem;
}
td {
  min-width: 150px;
}
.wide {
  min-width: 220px;
}
.wide > * + * {
  margin-top: 10px;
}
td:last-child {
  min-width: 0;
}
.bound {
  display: grid;
  grid-template-columns: 72px 72px auto;
  gap: 4px;
  align-items: center;
}
.verdict {
  margin: 8px 0;
  padding-left: 10px;
  border-left: 3px solid rgb(var(--v-theme-primary));
}
.verdict:has(ul) {
  border-left-color: rgb(var(--v-theme-warning));
}
.verdict ul {
  padding-left: 16px;
}
</style>
