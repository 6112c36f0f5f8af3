<script setup lang="ts">
import { computed, watch } from 'vue'

import type { Encounter, ReferenceFile } from '@/shared/api/types'
import FileChooser from '@/shared/layout/FileChooser.vue'
import ImportFaults from '@/shared/layout/ImportFaults.vue'
import ImportProgress from '@/shared/layout/ImportProgress.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { text } from '@/shared/text'
import { undoBar } from '@/shared/undo'
import { useFileImport } from '@/shared/useFileImport'
import { takeBackImport, useImportRun } from '@/shared/useImportRun'
import { beginReferenceImport } from './referenceActions'

/** A file of references: what it would bring is shown first, and comes in whole or not at all. */
const open = defineModel<boolean>('open', { required: true })

/** `decided` holds the places of those to add although something similar is there. */
const { file, preview, decided, faults, failure, busy, forget, choose, bring } = useFileImport(send)
const { run, running, brought, stop } = useImportRun()

function send(file: File, add: number[] | null): Promise<ReferenceFile> {
  const query = { preview: !add, add: add ?? undefined }
  return brought(
    () => beginReferenceImport(file, query),
    (view) => view.reference_file,
  )
}

const counts = computed(() => {
  const of = (encounter: Encounter) =>
    preview.value?.references.filter((one) => one.encounter === encounter).length ?? 0
  return { fresh: of('new'), known: of('known'), similar: of('similar') }
})
const adding = computed(() => counts.value.fresh + decided.value.length)
/** What needs a decision stands first; of a long file only a part is shown. */
const SHOWN = 200
const rows = computed(() => {
  const order: Encounter[] = ['similar', 'new', 'known']
  const all = [...(preview.value?.references ?? [])]
  return all.sort((a, b) => order.indexOf(a.encounter) - order.indexOf(b.encounter) || a.index - b.index)
})

watch(open, (opened) => (opened ? forget() : void stop()))
async function bringIn() {
  const done = await bring()
  if (!done) return
  const id = done.added ? run.value?.id : undefined
  undoBar.offer(text.references.brought(done.added), id ? () => takeBackImport(id) : null)
  open.value = false
}
</script>

<template>
  <v-dialog v-model="open" max-width="860" aria-labelledby="import-title">
    <v-card class="padded" data-test="reference-import">
      <h2 id="import-title">{{ text.references.importTitle }}</h2>
      <p class="muted small">{{ text.references.importAbout }}</p>
      <FileChooser
        accept=".ris,.bib,.json,.txt,.nbib"
        :name="file?.name"
        test="reference-file"
        @chosen="choose"
      />
      <WaitLine :active="busy && !running" />
      <ImportProgress v-if="running && run" :run="run" :leaving="text.references.leaving" @stop="stop" />
      <ImportFaults :failure="failure" :faults="faults" :count="run?.fault_count" test="import" />
      <template v-if="preview">
        <p data-test="import-summary">
          {{ text.references.formats[preview.format] }}:
          {{ text.references.summary(counts.fresh, counts.known, counts.similar) }}
        </p>
        <p v-if="counts.similar" class="small">{{ text.references.similarAbout }}</p>
        <table class="plain-table">
          <thead>
            <tr>
              <th scope="col">{{ text.references.one }}</th>
              <th scope="col">{{ text.exchange.state }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="row in rows.slice(0, SHOWN)" :key="row.index">
              <td class="wrap-anywhere" dir="auto">
                <strong v-if="!row.title.startsWith(row.label)">{{ row.label }}</strong> {{ row.title }}
              </td>
              <td>
                <v-checkbox
                  v-if="row.encounter === 'similar'"
                  v-model="decided"
                  :value="row.index"
                  :label="text.references.addAnyway"
                  :aria-label="text.references.addThisAnyway(row.label)"
                  hide-details
                  density="compact"
                />
                <template v-else>{{ text.references.encounters[row.encounter] }}</template>
                <p v-if="row.like" class="small muted wrap-anywhere" dir="auto">
                  {{ text.references.like(row.like) }}
                </p>
              </td>
            </tr>
          </tbody>
        </table>
        <p v-if="rows.length > SHOWN" class="small muted">{{ text.references.more(rows.length - SHOWN) }}</p>
      </template>
      <div class="buttons">
        <v-btn
          v-if="preview"
          variant="flat"
          color="primary"
          :loading="busy"
          :disabled="!adding"
          data-test="bring-references"
          @click="bringIn"
        >
          {{ text.references.bring(adding) }}
        </v-btn>
        <v-btn @click="open = false">{{ text.study.cancel }}</v-btn>
      </div>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.buttons {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 10px;
  margin: 10px 0;
}
td:last-child {
  width: 40%;
}
</style>
