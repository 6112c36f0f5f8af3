<script setup lang="ts">
import { mdiTrayArrowDown } from '@mdi/js'
import { useQueries } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'

import { api, data } from '@/shared/api/client'
import type { FieldError, PickedRows } from '@/shared/api/types'
import { whole } from '@/shared/format'
import { may } from '@/shared/session/session'
import { text } from '@/shared/text'
import { choiceLabel } from './columnLabel'
import DraftDialog from './DraftDialog.vue'
import { changeOf, faultGroups, faultsCsv, faultyRows, faultyRowsCsv, type TableChange } from './tableChanges'
import type { DraftSheet } from './tableImport'

/** Everything that is wrong with a table, each with a field for what should be read instead; the file stays as it is. */
const props = defineProps<{
  faults: FieldError[]
  busy: boolean
  /** Of fields with few possible values, those. */
  choices?: Record<string, string[]>
  /** The rows of these numbers as they stand in the file. */
  rows?: (numbers: number[]) => Promise<PickedRows | undefined>
}>()
const emit = defineEmits<{ change: [changes: TableChange[]]; draft: [sheet: DraftSheet] }>()

const words = text.tableImport.mend
/** Names of tests are looked up for so many at a time. */
const MOST_LOOKED_UP = 20
const groups = computed(() => faultGroups(props.faults))
const typed = ref<Record<string, string>>({})
watch(groups, () => (typed.value = {}))

const unknown = computed(() =>
  groups.value.filter(({ field, everywhere }) => field === 'test' && everywhere).slice(0, MOST_LOOKED_UP),
)
const near = useQueries({
  queries: computed(() =>
    unknown.value.map(({ value }) => ({
      queryKey: ['tests-like', value],
      queryFn: async () =>
        data(await api.GET('/api/v1/tests', { params: { query: { search: value, limit: 3 } } })),
      staleTime: Infinity,
    })),
  ),
})
const suggestions = computed(
  () =>
    new Map(unknown.value.map(({ key }, at) => [key, (near.value[at]?.data ?? []).map((test) => test.name)])),
)
/** What one of few values is called where it is chosen. */
const possible = (field: string) =>
  (props.choices?.[field] ?? []).map((value) => ({ value, title: choiceLabel(field, value) }))
/** Name of the test for which a sheet is written. */
const drafted = ref('')
async function downloadRows() {
  const picked = await props.rows?.(faultyRows(props.faults))
  if (!picked) return
  const csv = faultyRowsCsv(picked, props.faults, [words.rowInFile, text.exchange.what])
  const link = document.createElement('a')
  link.href = `data:text/csv;charset=utf-8,${encodeURIComponent(`\ufeff${csv}`)}`
  link.download = 'pruvex-faulty-rows.csv'
  link.click()
}
const filled = computed(() =>
  groups.value.filter(
    ({ key, cell, value }) => cell && typed.value[key] != null && typed.value[key] !== value,
  ),
)
function apply() {
  emit(
    'change',
    filled.value.map((group) => changeOf(group, typed.value[group.key]!.trim())),
  )
}
function write(sheet: DraftSheet) {
  drafted.value = ''
  emit('draft', sheet)
}
const list = computed(() => {
  const csv = faultsCsv(props.faults, [text.exchange.where, words.value, text.exchange.what, words.remedy])
  return `data:text/csv;charset=utf-8,${encodeURIComponent(`\ufeff${csv}`)}`
})
</script>

<template>
  <form @submit.prevent="apply">
    <table class="plain-table stacked" data-test="table-faults">
      <thead>
        <tr>
          <th scope="col">{{ text.exchange.where }}</th>
          <th scope="col">{{ text.exchange.what }}</th>
          <th scope="col">{{ words.becomes }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="group in groups" :key="group.key">
          <td class="wrap-anywhere where">
            <code>{{ group.faults[0]!.field }}</code>
            <span v-if="group.faults.length > 1" class="small muted more">{{
              words.more(whole(group.faults.length - 1))
            }}</span>
          </td>
          <td class="wrap-anywhere">
            {{ group.faults[0]!.message }}
            <span v-if="group.faults[0]!.value" class="muted">“{{ group.faults[0]!.value }}”</span>
            {{ group.faults[0]!.remedy }}
          </td>
          <td class="mend">
            <template v-if="group.cell">
              <v-select
                v-if="group.everywhere && possible(group.field).length"
                :model-value="typed[group.key] ?? null"
                :items="possible(group.field)"
                :aria-label="words.label(group.faults[0]!.field)"
                density="compact"
                hide-details
                data-test="mend-choice"
                @update:model-value="typed[group.key] = String($event ?? '')"
              />
              <v-text-field
                v-else
                :model-value="typed[group.key] ?? group.value"
                :aria-label="words.label(group.faults[0]!.field)"
                density="compact"
                hide-details
                dir="auto"
                data-test="mend"
                @update:model-value="typed[group.key] = String($event ?? '')"
              />
              <v-btn
                v-for="name in suggestions.get(group.key) ?? []"
                :key="name"
                variant="text"
                size="small"
                data-test="mend-suggestion"
                @click="typed[group.key] = name"
                >{{ words.use(name) }}</v-btn
              >
              <v-btn
                v-if="group.everywhere && group.field === 'test' && may('write_sheets')"
                variant="text"
                size="small"
                data-test="draft-sheet"
                @click="drafted = group.value"
                >{{ words.draft }}</v-btn
              >
            </template>
          </td>
        </tr>
      </tbody>
    </table>
    <div class="buttons">
      <v-btn
        type="submit"
        variant="flat"
        color="primary"
        :disabled="!filled.length || busy"
        data-test="apply-changes"
        >{{ words.apply(filled.length) }}</v-btn
      >
      <v-btn
        variant="text"
        :prepend-icon="mdiTrayArrowDown"
        :href="list"
        download="pruvex-table-errors.csv"
        data-test="faults-csv"
        >{{ words.list }}</v-btn
      >
      <v-btn
        v-if="rows && faultyRows(faults).length"
        variant="text"
        :prepend-icon="mdiTrayArrowDown"
        data-test="faulty-rows"
        @click="downloadRows"
        >{{ words.rows }}</v-btn
      >
    </div>
    <DraftDialog v-if="drafted" :name="drafted" @close="drafted = ''" @write="write" />
  </form>
</template>

<style scoped>
.where {
  width: 150px;
}
.more {
  display: block;
}
.mend {
  width: 280px;
}
</style>
