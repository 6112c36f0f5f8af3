<script setup lang="ts">
import { mdiDeleteOutline, mdiFileDelimitedOutline } from '@mdi/js'
import { computed, watchEffect } from 'vue'

import { api, data } from '@/shared/api/client'
import { useExaminations } from '@/shared/api/queries'
import type { ExaminationRow, Region } from '@/shared/api/types'
import { day } from '@/shared/format'
import ExaminationsWaiting from '@/shared/layout/ExaminationsWaiting.vue'
import FailureNotice from '@/shared/layout/FailureNotice.vue'
import IconButton from '@/shared/layout/IconButton.vue'
import PageTurner from '@/shared/layout/PageTurner.vue'
import PartNav from '@/shared/layout/PartNav.vue'
import SampleMark from '@/shared/layout/SampleMark.vue'
import StateNotice from '@/shared/layout/StateNotice.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import SearchField from '@/shared/question/SearchField.vue'
import { choice, options, useListPage } from '@/shared/question/useListPage'
import { useQuestion } from '@/shared/question/useQuestion'
import { at, removeWithUndo } from '@/shared/recordChanges'
import { text } from '@/shared/text'

/** One's own examinations, those of which something is due, and those that others share. */
const words = text.examination
const SIZE = 50
const { carried } = useQuestion()
const list = useListPage({
  choices: { state: choice(words.states, 'all'), where: choice<Region>(text.regions) },
  size: SIZE,
})
const asked = computed(() => ({
  state: list.chosen.value.state,
  search: list.search.value || undefined,
  region: list.chosen.value.where,
}))
const found = useExaminations(() => ({ ...asked.value, ...list.window.value }))
const rows = computed(() => found.data.value?.rows ?? [])
const total = computed(() => found.data.value?.total ?? 0)
const filtered = computed(
  () => !!list.search.value || !!list.chosen.value.where || list.chosen.value.state !== 'all',
)
const shared = computed(() => list.chosen.value.state === 'shared')
const csv = computed(() => {
  const given = Object.entries(asked.value).flatMap(([name, value]) => (value ? [[name, value]] : []))
  return `/api/v1/examinations.csv?${new URLSearchParams(given as [string, string][])}`
})
const page = computed({ get: () => list.page.value, set: (to) => void list.setPage(to) })
const { actions } = text.plan.questions
const said = (row: ExaminationRow) =>
  [
    row.finished_at ? words.finished(day(row.finished_at)) : words.begun(day(row.created_at)),
    row.action ? actions[row.action] : '',
    row.shared_at && !shared.value ? words.shared : '',
  ].filter(Boolean)
const to = (row: ExaminationRow) => ({
  name: row.finished_at ? 'examination' : 'examine',
  params: { examination: row.id },
  query: row.finished_at ? carried.value : {},
})
const remove = (row: ExaminationRow) =>
  removeWithUndo(
    words.removed,
    async () => data(await api.DELETE('/api/v1/examinations/{id}', at(row.id, row.version))),
    (version) => api.POST('/api/v1/examinations/{id}/restore', at(row.id, version)),
  )
watchEffect(() => (document.title = `${words.title} – Pruvex`))
</script>

<template>
  <div>
    <PartNav :label="text.layout.plan" :parts="text.layout.planParts" />
    <div class="title-bar">
      <h1>{{ shared ? words.ofShared : words.of }}</h1>
      <v-btn
        v-if="total"
        class="no-print"
        variant="text"
        :prepend-icon="mdiFileDelimitedOutline"
        :href="csv"
        data-test="examinations-csv"
        >{{ words.csv }}</v-btn
      >
    </div>
    <p class="muted about">{{ words.about }}</p>
    <ExaminationsWaiting />
    <div class="controls no-print">
      <SearchField :list="list" :label="words.search" test="search-examinations" />
      <v-select
        class="choice"
        :model-value="list.chosen.value.state"
        :items="options(words.states)"
        :label="words.state"
        data-test="examination-state"
        @update:model-value="list.choose({ state: $event })"
      />
      <v-select
        class="choice"
        :model-value="list.chosen.value.where ?? null"
        :items="options(text.regions)"
        :label="words.region"
        clearable
        @update:model-value="list.choose({ where: $event })"
      />
    </div>
    <WaitLine :active="found.isFetching.value" />
    <FailureNotice v-if="found.isError.value && !rows.length" :query="found" :title="words.failed" />
    <StateNotice
      v-else-if="found.isSuccess.value && !rows.length"
      :title="filtered ? words.nothing : words.none"
      :detail="filtered ? words.nothingDetail : words.noneDetail"
      data-test="no-examinations"
    >
      <v-btn v-if="filtered" @click="list.clear('state', 'where')">{{ words.clear }}</v-btn>
    </StateNotice>
    <template v-else-if="rows.length">
      <p class="muted small" aria-live="polite">{{ words.count(total) }}</p>
      <ul class="rows">
        <li v-for="row in rows" :key="row.id" data-test="examination-row">
          <h2>
            <router-link :to="to(row)">{{ row.label }}</router-link>
            <span v-if="!row.finished_at" class="mark">{{ words.goingOn }}</span>
            <span v-if="row.urgent" class="mark alarm">{{ words.urgent }}</span>
            <span v-if="row.due" class="mark" :class="{ alarm: row.overdue }" data-test="due">{{
              row.overdue ? words.overdue(day(row.due)) : words.due(day(row.due))
            }}</span>
            <SampleMark v-if="row.sample" />
          </h2>
          <IconButton
            v-if="!shared"
            :icon="mdiDeleteOutline"
            :label="words.remove(row.label)"
            data-test="delete-examination"
            @click="remove(row)"
          />
          <p class="small" dir="auto">{{ row.title }} · {{ row.conditions.join(' · ') }}</p>
          <p v-if="row.concluded" class="small concluded" dir="auto">{{ row.concluded }}</p>
          <p class="small muted">{{ said(row).join(' · ') }}</p>
        </li>
      </ul>
      <PageTurner v-model="page" :size="SIZE" :shown="rows.length" :total="total" :label="words.pages" />
    </template>
  </div>
</template>

<style scoped>
.about {
  max-width: 80ch;
  margin: 4px 0 14px;
}
.controls {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  margin-bottom: 8px;
}
.controls > :first-child {
  flex: 2 1 300px;
}
.choice {
  flex: 0 1 220px;
}
.rows {
  padding: 0;
  margin: 8px 0 16px;
  list-style: none;
  border-top: 1px solid var(--line);
}
li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 2px 16px;
  padding: 10px 0;
  border-bottom: 1px solid var(--line);
}
li > p {
  grid-column: 1 / -1;
}
h2 {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
  align-items: baseline;
  font-size: 1.05rem;
}
.mark {
  font-size: 0.8rem;
  font-weight: 600;
}
.alarm {
  color: rgb(var(--v-theme-error));
}
.concluded {
  display: -webkit-box;
  overflow: hidden;
  -webkit-line-clamp: 2;
  -webkit-box-orient: vertical;
}
@media screen and (max-width: 600px) {
  h2 a {
    display: inline-block;
    padding: 10px 0;
  }
}
</style>
