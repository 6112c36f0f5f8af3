<script setup lang="ts">
import { mdiMagnify, mdiPlus } from '@mdi/js'
import { computed, defineAsyncComponent, ref, watchEffect } from 'vue'

import { useBoard } from '@/shared/api/queries'
import { whole } from '@/shared/format'
import PageTurner from '@/shared/layout/PageTurner.vue'
import StateNotice from '@/shared/layout/StateNotice.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { text } from '@/shared/text'
import { useShortcuts } from '@/shared/useShortcuts'
import EvidenceNav from './EvidenceNav.vue'
import ExtractionRow from './ExtractionRow.vue'
import ReaderAgreement from './ReaderAgreement.vue'
import { PAGE, useExtractionState } from './useExtractionState'

/** What is unread, read once, read twice, settled and appraised; and how well readers agree. */
const AskExtraction = defineAsyncComponent(() => import('./AskExtraction.vue'))

const words = text.extraction
const state = useExtractionState()
const filter = state.filter
const board = useBoard(filter)
const rows = computed(() => board.data.value?.rows ?? [])
const found = computed(() => board.data.value?.found ?? 0)
const counts = computed<Record<string, number>>(() => board.data.value?.counts ?? {})
const all = computed(() => Object.values(counts.value).reduce((sum, n) => sum + n, 0))
const narrowed = computed(() => {
  const { search, progress, appraised, next } = filter.value
  return Boolean(search || progress || next) || appraised !== undefined
})
const appraisals = Object.entries(words.appraisal).map(([value, title]) => ({ value, title }))
watchEffect(() => (document.title = `${words.title} – Pruvex`))

const search = ref<{ focus(): void } | null>(null)
const open = ref(false)
const asked = ref(false)
function ask() {
  asked.value = true
  open.value = true
}
useShortcuts({ '/': () => search.value?.focus(), a: ask })
</script>

<template>
  <div>
    <EvidenceNav />
    <header>
      <h1>{{ words.title }}</h1>
      <v-btn class="no-print" :prepend-icon="mdiPlus" data-test="ask-extraction" @click="ask">{{
        words.add
      }}</v-btn>
    </header>
    <p class="muted about">{{ words.about }}</p>
    <div class="steps" role="group" :aria-label="words.columns.progress">
      <v-btn
        v-for="(label, progress) in words.progress"
        :key="progress"
        size="small"
        :variant="filter.progress === progress ? 'flat' : 'outlined'"
        :color="filter.progress === progress ? 'primary' : undefined"
        :aria-pressed="filter.progress === progress"
        :data-test="`progress-${progress}`"
        @click="state.setProgress(filter.progress === progress ? null : String(progress))"
      >
        {{ whole(counts[progress] ?? 0) }} {{ label }}
      </v-btn>
      <span class="small muted"
        >{{ whole(board.data.value?.appraised ?? 0) }} {{ words.appraisal.true }}</span
      >
    </div>
    <div class="controls no-print">
      <v-text-field
        ref="search"
        :model-value="filter.search"
        :prepend-inner-icon="mdiMagnify"
        :label="words.search"
        clearable
        autocomplete="off"
        data-test="search-extractions"
        @update:model-value="state.setSearch($event ?? '')"
      />
      <v-select
        class="choice"
        :model-value="filter.appraised === undefined ? null : String(filter.appraised)"
        :items="appraisals"
        :label="words.appraised"
        :placeholder="words.any"
        persistent-placeholder
        clearable
        @update:model-value="state.setAppraised"
      />
      <v-checkbox
        :model-value="filter.next ?? false"
        :label="words.next"
        hide-details
        density="compact"
        data-test="next-only"
        @update:model-value="state.setNext(Boolean($event))"
      />
    </div>
    <WaitLine :active="board.isFetching.value" />
    <StateNotice
      v-if="board.isError.value && !rows.length"
      tone="error"
      :title="words.failed"
      :detail="board.error.value?.message"
    >
      <v-btn @click="board.refetch()">{{ text.layout.retry }}</v-btn>
    </StateNotice>
    <StateNotice
      v-else-if="board.isSuccess.value && !rows.length"
      :title="narrowed ? words.nothing : words.none"
      :detail="narrowed ? words.nothingDetail : words.noneDetail"
    />
    <template v-else-if="rows.length">
      <p class="muted small" aria-live="polite" data-test="extraction-count">
        {{ words.count(found, whole(found)) }}
      </p>
      <table class="plain-table" data-test="extractions">
        <thead>
          <tr class="small">
            <th scope="col">{{ words.columns.report }}</th>
            <th scope="col">{{ words.columns.test }}</th>
            <th scope="col">{{ words.columns.progress }}</th>
            <th scope="col">{{ words.columns.readers }}</th>
            <th scope="col" class="no-print">{{ words.columns.actions }}</th>
          </tr>
        </thead>
        <tbody>
          <ExtractionRow v-for="row in rows" :key="row.id ?? row.result_id ?? ''" :row="row" />
        </tbody>
      </table>
      <PageTurner
        :model-value="state.page.value"
        :size="PAGE"
        :shown="rows.length"
        :total="found"
        :label="words.title"
        @update:model-value="state.setPage"
      />
    </template>
    <ReaderAgreement v-if="all" :region="filter.region" />
    <AskExtraction v-if="asked" v-model:open="open" />
  </div>
</template>

<style scoped>
header,
.steps {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px 12px;
}
header {
  justify-content: space-between;
}
.about {
  max-width: 72ch;
  margin: 6px 0 14px;
}
.controls {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 10px 18px;
  margin: 14px 0 8px;
}
.controls > :first-child {
  flex: 2 1 260px;
}
.choice {
  flex: 0 1 200px;
}
</style>
