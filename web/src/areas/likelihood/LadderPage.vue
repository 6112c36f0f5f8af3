<script setup lang="ts">
import { mdiPrinterOutline } from '@mdi/js'
import { computed, watchEffect } from 'vue'

import { useTests } from '@/shared/api/queries'
import type { Sort } from '@/shared/api/types'
import CautionLine from '@/shared/layout/CautionLine.vue'
import PartNav from '@/shared/layout/PartNav.vue'
import SampleMark from '@/shared/layout/SampleMark.vue'
import StateNotice from '@/shared/layout/StateNotice.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { printPage } from '@/shared/printPage'
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'
import { ladderGroups } from './ladderGroups'
import PinnedTests from './PinnedTests.vue'
import RatioLadder from './RatioLadder.vue'
import { type Grouping, type Scope, useLadderState } from './useLadderState'

/** Everything in view on one axis of likelihood ratios, with pins for a closer comparison, for the screen and for print. */
const words = text.likelihood.ladder
const { region, condition } = useQuestion()
const state = useLadderState()
const asking = computed(() => ({
  ...(state.scope.value === 'all' ? {} : { region: region.value }),
  ...(state.scope.value === 'condition' && condition.value ? { condition: condition.value.name } : {}),
  search: '',
  sort: state.sort.value,
  reverse: false,
  limit: 500,
}))
const tests = useTests(asking)
const rows = computed(() => tests.data.value?.rows ?? [])
const total = computed(() => tests.data.value?.total ?? 0)
const groups = computed(() => ladderGroups(rows.value, state.group.value, condition.value?.name ?? ''))
const pinned = computed(() => state.pins.value.flatMap((id) => rows.value.find((row) => row.id === id) ?? []))
const sample = computed(() => rows.value.some((row) => row.sample))
const options = <T extends string>(of: Record<T, string>) =>
  Object.entries(of).map(([value, title]) => ({ value: value as T, title: title as string }))
const FORMATS = ['pdf', 'svg', 'png', 'csv'] as const
/** As many tests as the server prints on one figure. */
const MOST_PRINTED = 200
const formats = computed(() => FORMATS.filter((format) => format === 'csv' || total.value <= MOST_PRINTED))
function figure(format: (typeof FORMATS)[number]): string {
  const query = new URLSearchParams({ sort: state.sort.value })
  if (state.scope.value !== 'all') query.set('region', region.value)
  if (state.scope.value === 'condition' && condition.value) query.set('condition', condition.value.name)
  if (format === 'csv') return `/api/v1/tests.csv?${query}`
  query.set('group', state.group.value)
  query.set('ahead', String(state.ahead.value))
  return `/api/v1/likelihood/ladder/${format}?${query}`
}
watchEffect(() => (document.title = `${words.title} – Pruvex`))
</script>

<template>
  <div>
    <PartNav :label="text.layout.likelihood" :parts="text.layout.likelihoodParts" />
    <h1>{{ words.title }} <SampleMark v-if="sample" /></h1>
    <p class="muted about no-print">{{ words.about }}</p>
    <div class="controls no-print">
      <v-select
        :model-value="state.scope.value"
        :items="options<Scope>(words.scopes)"
        :label="words.scope"
        data-test="scope"
        @update:model-value="state.setScope"
      />
      <v-select
        :model-value="state.group.value"
        :items="options<Grouping>(words.groups)"
        :label="words.group"
        data-test="group"
        @update:model-value="state.setGroup"
      />
      <v-select
        :model-value="state.sort.value"
        :items="options<Sort>(text.sorts)"
        :label="text.catalogue.sort"
        data-test="ladder-sort"
        @update:model-value="state.setSort"
      />
      <v-checkbox
        :model-value="state.ahead.value"
        :label="words.ahead"
        :title="words.aheadHint"
        data-test="ladder-ahead"
        @update:model-value="state.setAhead(!!$event)"
      />
    </div>
    <p v-if="rows.length" class="small files no-print">
      {{ words.figure }}
      <a
        v-for="format in formats"
        :key="format"
        :href="figure(format)"
        download
        :data-test="`ladder-${format}`"
        >{{ format.toUpperCase() }}</a
      >
      <v-btn size="small" :prepend-icon="mdiPrinterOutline" @click="printPage">{{ words.print }}</v-btn>
      <span v-if="formats.length < FORMATS.length">{{ words.tooMany(MOST_PRINTED) }}</span>
      <span v-if="!pinned.length" class="muted">{{ words.pinHint }}</span>
    </p>
    <WaitLine :active="tests.isFetching.value" />
    <StateNotice
      v-if="tests.isError.value && !rows.length"
      tone="error"
      :title="words.failed"
      :detail="tests.error.value?.message"
    >
      <v-btn @click="tests.refetch()">{{ text.layout.retry }}</v-btn>
    </StateNotice>
    <StateNotice
      v-else-if="tests.isSuccess.value && !rows.length"
      :title="words.none"
      :detail="words.noneDetail"
    />
    <template v-else-if="rows.length">
      <div v-if="pinned.length" class="pinned">
        <PinnedTests :rows="pinned" @remove="state.togglePin" />
        <v-btn class="no-print" size="small" @click="state.clearPins">{{ words.clearPins }}</v-btn>
      </div>
      <RatioLadder
        :groups="groups"
        :ahead="state.ahead.value"
        :pins="state.pins.value"
        @pin="state.togglePin"
      />
      <p v-if="state.ahead.value" class="small muted">{{ words.aheadHint }}</p>
      <p v-if="rows.length < total" class="small">{{ text.catalogue.first(rows.length, total) }}</p>
      <CautionLine />
    </template>
  </div>
</template>

<style scoped>
.about {
  max-width: 72ch;
  margin: 6px 0 12px;
}
.controls {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(190px, 1fr));
  gap: 8px 12px;
  align-items: center;
}
.files {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 12px;
  margin: 8px 0;
}
.pinned {
  margin: 10px 0 22px;
}
</style>
