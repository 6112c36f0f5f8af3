<script setup lang="ts">
import { mdiTrayArrowDown } from '@mdi/js'
import { computed, nextTick, ref, watchEffect } from 'vue'

import EvidenceNav from '@/areas/evidence/EvidenceNav.vue'
import { whole } from '@/shared/format'
import FileChooser from '@/shared/layout/FileChooser.vue'
import ImportFaults from '@/shared/layout/ImportFaults.vue'
import ImportProgress from '@/shared/layout/ImportProgress.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { text } from '@/shared/text'
import { columnLabel } from './columnLabel'
import type { TableChange } from './tableChanges'
import TableColumns from './TableColumns.vue'
import NewStandards from './NewStandards.vue'
import TableFaults from './TableFaults.vue'
import TablePreview from './TablePreview.vue'
import { useTableImport } from './useTableImport'

/** A table of studies and results on its way in: its file, its columns, what it would bring. */
const words = text.tableImport
const table = useTableImport()
const { view, mapping, run, running, checked, missing } = table
const ending = ref<HTMLElement | null>(null)
watchEffect(() => (document.title = `${words.title} – Pruvex`))

const refused = computed(() => {
  const { state, faults, fault_count: all } = run.value ?? {}
  if (state !== 'refused' || !faults || !all) return null
  const more = all > faults.length ? words.shownFaults(whole(faults.length), whole(all)) : words.correct
  return { title: words.faults(whole(all)), more, faults }
})
/** The row of the columns' names, as it is typed. */
const headerRow = ref('')
watchEffect(() => (headerRow.value = view.value ? String(view.value.header_row) : ''))

const corrected = computed(() => table.changes.value.length + table.drafts.value.length > 0)
const changeWords = (change: TableChange) =>
  'cell' in change
    ? words.mend.inCell(change.cell, change.becomes)
    : words.mend.everywhere(columnLabel(change.field), change.was, change.becomes)
function lookAt(sheet: number | undefined, header: number | undefined) {
  void table.look({ sheet, header })
}
async function bring() {
  await table.begin(false)
  await nextTick()
  ending.value?.focus()
}
</script>

<template>
  <div class="page">
    <EvidenceNav />
    <h1>{{ words.title }}</h1>
    <p class="muted about">{{ words.about }}</p>
    <FileChooser
      accept=".xlsx,.xlsm,.csv,.tsv,.txt"
      :name="table.name.value"
      :title="words.choose"
      :disabled="running && !run?.preview"
      test="table-file"
      @chosen="table.open"
    >
      <v-btn
        variant="text"
        :prepend-icon="mdiTrayArrowDown"
        href="/api/v1/table-imports/template"
        data-test="table-template"
      >
        {{ words.template }}
      </v-btn>
    </FileChooser>
    <p v-if="!table.name.value" class="small muted">{{ words.templateAbout }}</p>
    <WaitLine :active="table.busy.value && !running" />

    <section v-if="view && !(run?.state === 'done' && !run.preview)">
      <h2>{{ words.columns }}</h2>
      <div class="buttons">
        <label v-if="view.sheets.length > 1">
          {{ words.sheet }}
          <select
            :value="view.sheet"
            :disabled="running"
            data-test="table-sheet"
            @change="lookAt(Number(($event.target as HTMLSelectElement).value), undefined)"
          >
            <option v-for="(sheet, place) in view.sheets" :key="place" :value="place">{{ sheet }}</option>
          </select>
        </label>
        <label>
          {{ words.header }}
          <input
            v-model="headerRow"
            type="number"
            min="1"
            :disabled="running"
            data-test="table-header"
            @change="lookAt(view.sheets.length ? view.sheet : undefined, Number(headerRow) || undefined)"
          />
        </label>
        <span class="muted">{{ words.rows(whole(view.rows)) }}</span>
      </div>
      <TableColumns :view="view" :mapping="mapping" :disabled="running" @choose="table.choose" />
      <div v-if="missing.length" class="needed" data-test="table-needed">
        {{ words.needed }} {{ missing.map((name) => words.needs[name]).join('; ') }}.
      </div>
      <v-btn
        v-if="!checked && !running"
        variant="flat"
        color="primary"
        :disabled="missing.length > 0"
        data-test="check-table"
        @click="table.begin(true)"
      >
        {{ words.check }}
      </v-btn>
    </section>

    <section v-if="corrected && !running && !(run?.state === 'done' && !run.preview)">
      <h3>{{ words.mend.title }}</h3>
      <ul class="changes small" data-test="table-changes">
        <li v-for="(sheet, at) in table.drafts.value" :key="sheet.name">
          <span class="wrap-anywhere">{{ words.mend.drafted(sheet.name) }}</span>
          <v-btn variant="text" size="small" @click="table.dropDraft(at)">{{ words.mend.takeBack }}</v-btn>
        </li>
        <li v-for="(change, at) in table.changes.value" :key="at">
          <span class="wrap-anywhere">{{ changeWords(change) }}</span>
          <v-btn variant="text" size="small" @click="table.takeBack(at)">{{ words.mend.takeBack }}</v-btn>
        </li>
      </ul>
    </section>

    <ImportProgress v-if="running && run" :run="run" :leaving="words.leaving" @stop="table.stop" />

    <ImportFaults :failure="table.failure.value" :faults="table.faults.value" test="table">
      <p v-if="run?.state === 'stopped'" data-test="table-stopped">{{ text.importRun.stopped }}</p>
      <p v-if="run?.state === 'failed'" role="alert" class="failure">
        {{ run.why ?? text.importRun.failed }}
      </p>
      <section v-if="refused">
        <p role="alert" class="failure" data-test="table-refused">{{ refused.title }}</p>
        <p class="small">{{ refused.more }}</p>
        <TableFaults
          :faults="refused.faults"
          :busy="running"
          :choices="view?.choices"
          :rows="table.rowsOf"
          @change="table.change"
          @draft="table.addDraft"
        />
      </section>
    </ImportFaults>

    <section v-if="run?.state === 'done' && run.imported" data-test="table-preview">
      <h2 v-if="!run.preview" ref="ending" tabindex="-1" data-test="table-done">
        {{ words.done(run.imported.results) }}
      </h2>
      <TablePreview :imported="run.imported" :remarks="run.remarks" />
      <NewStandards
        v-if="run.preview && run.imported.new_standards.length"
        :standards="run.imported.new_standards"
        @change="table.change"
      />
      <v-btn
        v-if="run.preview && run.imported.results"
        variant="flat"
        color="primary"
        data-test="bring-table"
        @click="bring"
      >
        {{ words.bring }}
      </v-btn>
      <v-btn v-if="!run.preview" data-test="another-table" @click="table.forget">{{ words.again }}</v-btn>
    </section>
  </div>
</template>

<style scoped>
.changes {
  padding: 0;
  list-style: none;
}
.changes li {
  display: flex;
  align-items: center;
  gap: 8px;
}
.page {
  max-width: 980px;
}
.about {
  max-width: 720px;
}
section {
  margin-top: 20px;
}
.needed {
  margin: 8px 0 12px;
  font-weight: 600;
}
select,
input[type='number'] {
  margin-left: 6px;
  padding: 3px 6px;
  color: inherit;
  background: rgb(var(--v-theme-surface));
  border: 1px solid var(--line);
  border-radius: 4px;
}
input[type='number'] {
  width: 5em;
}
</style>
