<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

import { api, data } from '@/shared/api/client'
import type { PastImportView } from '@/shared/api/types'
import { moment } from '@/shared/format'
import FailureNotice from '@/shared/layout/FailureNotice.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { text } from '@/shared/text'
import { undoBar } from '@/shared/undo'
import { takeBackImport } from '@/shared/useImportRun'
import { useAttempt } from '@/shared/useAttempt'

/** Imports that landed: who, when, what; each can be undone as one. */
const words = text.pastImports
const imports = useQuery({
  queryKey: ['imports'],
  queryFn: async () => data(await api.GET('/api/v1/imports')),
})
/** The newest are enough at first. */
const SHOWN = 10
const all = ref(false)
const rows = computed(() => (imports.data.value ?? []).slice(0, all.value ? undefined : SHOWN))
/** The one that was asked about. */
const asked = ref<PastImportView | null>(null)
const { faults, failure, busy, clear, attempt } = useAttempt()

const nameOf = (row: PastImportView) => row.name || (words.kinds[row.kind] ?? row.kind)

function ask(row: PastImportView) {
  clear()
  asked.value = row
}
async function takeBack() {
  const { value: row } = asked
  if (!row) return
  await attempt(async () => {
    await takeBackImport(row.id)
    asked.value = null
    undoBar.offer(words.done(nameOf(row)))
  })
}
</script>

<template>
  <section data-test="past-imports">
    <h2>{{ words.title }}</h2>
    <p class="muted">{{ words.about }}</p>
    <FailureNotice v-if="imports.isError.value && !rows.length" :query="imports" :title="words.failed" />
    <WaitLine v-else-if="imports.isPending.value" />
    <p v-else-if="!rows.length" class="muted">{{ words.none }}</p>
    <table v-else class="plain-table stacked">
      <thead>
        <tr>
          <th scope="col">{{ words.file }}</th>
          <th scope="col">{{ words.what }}</th>
          <th scope="col">{{ words.who }}</th>
          <th scope="col">
            <span class="visually-hidden">{{ words.undo }}</span>
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in rows" :key="row.id" data-test="past-import">
          <th scope="row" class="wrap-anywhere">
            {{ nameOf(row) }}
            <span class="small muted kind">{{ words.kinds[row.kind] }}</span>
          </th>
          <td :data-label="words.what">{{ words.brought(row.brought) }}</td>
          <td :data-label="words.who">{{ words.by(row.by ?? null, moment(row.at)) }}</td>
          <td>
            <span v-if="row.taken_back_at" class="muted">
              {{ words.undone(row.taken_back_by ?? null, moment(row.taken_back_at)) }}
            </span>
            <v-btn
              v-else-if="row.may_take_back"
              :aria-label="words.undoOf(nameOf(row))"
              data-test="take-back"
              @click="ask(row)"
              >{{ words.undo }}</v-btn
            >
          </td>
        </tr>
      </tbody>
    </table>
    <v-btn v-if="!all && (imports.data.value?.length ?? 0) > SHOWN" variant="text" @click="all = true">{{
      words.more
    }}</v-btn>
    <v-dialog
      :model-value="asked !== null"
      max-width="640"
      aria-labelledby="take-back-title"
      @update:model-value="asked = null"
    >
      <v-card v-if="asked" class="padded">
        <h2 id="take-back-title">{{ words.sure(nameOf(asked)) }}</h2>
        <p>{{ words.goes(words.brought(asked.brought)) }}</p>
        <div aria-live="polite">
          <p v-if="failure || faults.length" role="alert" class="failure" data-test="take-back-refused">
            {{ failure || words.refused }}
          </p>
          <ul v-if="faults.length" class="reasons">
            <li v-for="(fault, index) in faults" :key="index" class="wrap-anywhere">
              <strong v-if="fault.value">{{ fault.value }}: </strong>{{ fault.message }} {{ fault.remedy }}
            </li>
          </ul>
        </div>
        <div class="foot">
          <v-btn
            color="error"
            variant="flat"
            :disabled="faults.length > 0"
            :loading="busy"
            data-test="take-back-now"
            @click="takeBack"
            >{{ words.undo }}</v-btn
          >
          <v-btn @click="asked = null">{{ text.people.cancel }}</v-btn>
        </div>
      </v-card>
    </v-dialog>
  </section>
</template>

<style scoped>
section {
  margin-top: 20px;
}
.kind {
  display: block;
  font-weight: 400;
}
.reasons {
  margin: 6px 0 12px;
  padding-left: 20px;
}
</style>
