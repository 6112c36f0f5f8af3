<script setup lang="ts">
import { mdiPlus } from '@mdi/js'
import { computed, defineAsyncComponent, ref, watchEffect } from 'vue'

import { useBoard } from '@/shared/api/queries'
import { whole } from '@/shared/format'
import FailureNotice from '@/shared/layout/FailureNotice.vue'
import PageTurner from '@/shared/layout/PageTurner.vue'
import StateNotice from '@/shared/layout/StateNotice.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import SearchField from '@/shared/question/SearchField.vue'
import { choice, options, useListPage } from '@/shared/question/useListPage'
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'
import { useOnceOpened } from '@/shared/useOnceOpened'
import { useShortcuts } from '@/shared/useShortcuts'
import EvidenceNav from './EvidenceNav.vue'
import ExtractionRow from './ExtractionRow.vue'
import ReaderAgreement from './ReaderAgreement.vue'

/** What is unread, read once, read twice, settled and appraised; and how well readers agree. */
const AskExtraction = defineAsyncComponent(() => import('./AskExtraction.vue'))

const words = text.extraction
const PAGE = 50
const { region } = useQuestion()
const asked = useListPage({
  choices: { progress: choice(words.progress), appraised: choice(words.appraisal) },
  flags: ['next'],
  size: PAGE,
})
const { search, chosen, on } = asked
const board = useBoard(
  computed(() => ({
    region: region.value,
    search: search.value,
    progress: chosen.value.progress,
    appraised: chosen.value.appraised ? chosen.value.appraised === 'true' : undefined,
    next: on.value.next || undefined,
    ...asked.window.value,
  })),
)
const rows = computed(() => board.data.value?.rows ?? [])
const found = computed(() => board.data.value?.found ?? 0)
const counts = computed<Record<string, number>>(() => board.data.value?.counts ?? {})
const all = computed(() => Object.values(counts.value).reduce((sum, n) => sum + n, 0))
const narrowed = computed(() =>
  Boolean(search.value || chosen.value.progress || chosen.value.appraised || on.value.next),
)
watchEffect(() => (document.title = `${words.title} – Pruvex`))

const asking = ref(false)
const onceAsked = useOnceOpened(() => asking.value)
useShortcuts({ a: () => (asking.value = true) })
</script>

<template>
  <div>
    <EvidenceNav />
    <header>
      <h1>{{ words.title }}</h1>
      <v-btn class="no-print" :prepend-icon="mdiPlus" data-test="ask-extraction" @click="asking = true">{{
        words.add
      }}</v-btn>
    </header>
    <p class="muted about">{{ words.about }}</p>
    <div class="steps" role="group" :aria-label="words.columns.progress">
      <v-btn
        v-for="(label, progress) in words.progress"
        :key="progress"
        size="small"
        :variant="chosen.progress === progress ? 'flat' : 'outlined'"
        :color="chosen.progress === progress ? 'primary' : undefined"
        :aria-pressed="chosen.progress === progress"
        :data-test="`progress-${progress}`"
        @click="asked.choose({ progress: chosen.progress === progress ? null : progress })"
      >
        {{ whole(counts[progress] ?? 0) }} {{ label }}
      </v-btn>
      <span class="small muted"
        >{{ whole(board.data.value?.appraised ?? 0) }} {{ words.appraisal.true }}</span
      >
    </div>
    <div class="controls no-print">
      <SearchField :list="asked" :label="words.search" test="search-extractions" />
      <v-select
        class="choice"
        :model-value="chosen.appraised ?? null"
        :items="options(words.appraisal)"
        :label="words.appraised"
        :placeholder="words.any"
        persistent-placeholder
        clearable
        @update:model-value="asked.choose({ appraised: $event })"
      />
      <v-checkbox
        :model-value="on.next"
        :label="words.next"
        hide-details
        density="compact"
        data-test="next-only"
        @update:model-value="asked.turn('next', Boolean($event))"
      />
    </div>
    <WaitLine :active="board.isFetching.value" />
    <FailureNotice v-if="board.isError.value && !rows.length" :query="board" :title="words.failed" />
    <StateNotice
      v-else-if="board.isSuccess.value && !rows.length"
      :title="narrowed ? words.nothing : words.none"
      :detail="narrowed ? words.nothingDetail : words.noneDetail"
    >
      <v-btn v-if="narrowed" @click="asked.clear('progress', 'appraised', 'next')">{{
        text.catalogue.clear
      }}</v-btn>
    </StateNotice>
    <template v-else-if="rows.length">
      <p class="muted small" aria-live="polite" data-test="extraction-count">
        {{ words.count(found, whole(found)) }}
      </p>
      <table class="plain-table" role="table" data-test="extractions">
        <thead role="rowgroup">
          <tr class="small" role="row">
            <th
              v-for="(column, name) in words.columns"
              :key="name"
              scope="col"
              role="columnheader"
              :class="{ 'no-print': name === 'actions' }"
            >
              {{ column }}
            </th>
          </tr>
        </thead>
        <tbody role="rowgroup">
          <ExtractionRow v-for="row in rows" :key="row.id ?? row.result_id ?? ''" :row="row" />
        </tbody>
      </table>
      <PageTurner
        :model-value="asked.page.value"
        :size="PAGE"
        :shown="rows.length"
        :total="found"
        :label="words.title"
        @update:model-value="asked.setPage"
      />
    </template>
    <ReaderAgreement v-if="all" :region="region" />
    <AskExtraction v-if="onceAsked" v-model:open="asking" />
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
/* On a phone each result stands in lines of its own. */
@media screen and (max-width: 700px) {
  table,
  tbody {
    display: block;
  }
  thead {
    position: absolute;
    clip-path: inset(50%);
  }
}
</style>
