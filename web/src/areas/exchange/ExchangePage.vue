<script setup lang="ts">
import { mdiTrayArrowDown, mdiTrayArrowUp } from '@mdi/js'
import { computed, watchEffect } from 'vue'

import type { Imported } from '@/shared/api/types'
import FileChooser from '@/shared/layout/FileChooser.vue'
import ImportFaults from '@/shared/layout/ImportFaults.vue'
import ImportProgress from '@/shared/layout/ImportProgress.vue'
import SampleMark from '@/shared/layout/SampleMark.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { useQuestion } from '@/shared/question/useQuestion'
import { may } from '@/shared/session/session'
import { text } from '@/shared/text'
import { undoBar } from '@/shared/undo'
import { useFileImport } from '@/shared/useFileImport'
import { takeBackImport, useImportRun } from '@/shared/useImportRun'
import { beginBundleImport } from './bundleImport'
import PastImports from './PastImports.vue'

/** Bundles out of the catalogue and into it. */
const { region, carried } = useQuestion()
/** `decided` holds the names of the tests to replace; what is not named stays as it is here. */
const { file, preview, decided, faults, failure, busy, choose, bring } = useFileImport(send)
const { run, running, brought, stop } = useImportRun()

function send(file: File, replace: string[] | null): Promise<Imported> {
  const kept = replace?.length ? { replace } : { changed: 'keep' as const }
  return brought(
    () => beginBundleImport(file, replace ? kept : { preview: true }),
    (view) => view.bundle,
  )
}

/** Tests to be decided about are all shown; of a long file only so many others. */
const SHOWN = 200
const rows = computed(() => {
  const tests = preview.value?.tests ?? []
  const changed = tests.filter((test) => test.fate === 'changed')
  return [...changed, ...tests.filter((test) => test.fate !== 'changed').slice(0, SHOWN)]
})
const counts = computed(() => {
  const of = (fate: string) => preview.value?.tests.filter((test) => test.fate === fate).length ?? 0
  return { fresh: of('new'), changed: of('changed'), same: of('same') }
})
watchEffect(() => (document.title = `${text.exchange.title} – Pruvex`))

async function bringIn() {
  const done = await bring()
  const id = run.value?.id
  if (!done) return
  const { tests, studies, references, conditions, structures, teaching_conflicts, plans } = done
  const added = tests.some((test) => test.written || test.results || test.agreements)
  const others = [studies, references, conditions, structures, teaching_conflicts, plans]
  const undo = added || others.some(Boolean) ? id : undefined
  undoBar.offer(text.exchange.done(done.title), undo ? () => takeBackImport(undo) : null)
}
</script>

<template>
  <div class="page">
    <h1>{{ text.exchange.title }}</h1>
    <section>
      <h2>{{ text.exchange.outTitle }}</h2>
      <p class="muted">{{ text.exchange.outAbout }}</p>
      <div class="buttons">
        <v-btn
          :prepend-icon="mdiTrayArrowDown"
          :href="`/api/v1/bundle?region=${region}`"
          data-test="export-region"
        >
          {{ text.exchange.only(text.regions[region]) }}
        </v-btn>
        <v-btn :prepend-icon="mdiTrayArrowDown" href="/api/v1/bundle">{{ text.exchange.whole }}</v-btn>
      </div>
      <h3>{{ text.exchange.tableTitle }}</h3>
      <p class="muted">{{ text.exchange.tableAbout }}</p>
      <div class="buttons">
        <v-btn
          v-for="(label, format) in text.exchange.tables"
          :key="format"
          :prepend-icon="mdiTrayArrowDown"
          :href="`/api/v1/results/table/${format}?region=${region}`"
          :data-test="`export-${format}`"
        >
          {{ label }}
        </v-btn>
      </div>
    </section>
    <section v-if="may('write_studies')">
      <h2>{{ text.tableImport.title }}</h2>
      <p class="muted">{{ text.tableImport.about }}</p>
      <div class="buttons">
        <v-btn
          :prepend-icon="mdiTrayArrowUp"
          :to="{ name: 'table-import', query: carried }"
          data-test="to-table-import"
        >
          {{ text.tableImport.choose }}
        </v-btn>
      </div>
    </section>
    <section v-if="may('write_sheets')">
      <h2>{{ text.exchange.inTitle }}</h2>
      <p class="muted">{{ text.exchange.inAbout }}</p>
      <FileChooser accept=".json,application/json" :name="file?.name" test="bundle-file" @chosen="choose" />
      <WaitLine :active="busy && !running" />
      <ImportProgress v-if="running && run" :run="run" :leaving="text.tableImport.leaving" @stop="stop" />
      <ImportFaults :failure="failure" :faults="faults" :count="run?.fault_count" test="bundle" />
      <template v-if="preview">
        <h3>{{ preview.title }} <SampleMark v-if="preview.sample" /></h3>
        <p data-test="bundle-summary">
          {{ text.exchange.summary(counts.fresh, counts.changed, counts.same)
          }}<template v-if="preview.references">, {{ text.exchange.references(preview.references) }}</template
          ><template v-if="preview.studies">, {{ text.exchange.studies(preview.studies) }}</template
          ><template v-if="preview.plans">, {{ text.exchange.plans(preview.plans) }}</template>
        </p>
        <p v-if="counts.changed" class="small">{{ text.exchange.keep }}</p>
        <table class="plain-table" data-test="bundle-preview">
          <thead>
            <tr>
              <th scope="col">{{ text.exchange.test }}</th>
              <th scope="col">{{ text.exchange.state }}</th>
              <th scope="col">{{ text.exchange.result }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="test in rows" :key="test.name">
              <th scope="row" class="wrap-anywhere">{{ test.name }}</th>
              <td>
                <v-checkbox
                  v-if="test.fate === 'changed'"
                  v-model="decided"
                  :value="test.name"
                  :label="text.exchange.fates[test.fate]"
                  :aria-label="text.exchange.replace(test.name)"
                  hide-details
                  density="compact"
                />
                <template v-else>{{ text.exchange.fates[test.fate] }}</template>
              </td>
              <td>{{ text.exchange.results(test.results, test.known_results, test.agreements) }}</td>
            </tr>
          </tbody>
        </table>
        <p v-if="preview.tests.length > rows.length" class="small muted">
          {{ text.references.more(preview.tests.length - rows.length) }}
        </p>
        <v-btn variant="flat" color="primary" :loading="busy" data-test="bring-in" @click="bringIn">
          {{ text.exchange.bring }}
        </v-btn>
      </template>
    </section>
    <PastImports v-if="may('read_drafts')" />
  </div>
</template>

<style scoped>
h3 {
  margin-top: 14px;
}
.page {
  max-width: 860px;
}
section {
  margin-top: 20px;
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 10px;
  margin: 10px 0;
}
tbody th {
  font-weight: 600;
}
</style>
