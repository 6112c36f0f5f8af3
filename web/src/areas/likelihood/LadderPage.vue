<script setup lang="ts">
import { mdiPrinterOutline } from '@mdi/js'
import { computed, watchEffect } from 'vue'

import { useTests } from '@/shared/api/queries'
import CautionLine from '@/shared/layout/CautionLine.vue'
import FailureNotice from '@/shared/layout/FailureNotice.vue'
import PartNav from '@/shared/layout/PartNav.vue'
import SampleMark from '@/shared/layout/SampleMark.vue'
import StateNotice from '@/shared/layout/StateNotice.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { printPage } from '@/shared/printPage'
import { options } from '@/shared/question/useListPage'
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'
import { ladderGroups } from './ladderGroups'
import PinnedTests from './PinnedTests.vue'
import RatioLadder from './RatioLadder.vue'
import { useLadderState } from './useLadderState'

/** Everything in view on one axis of likelihood ratios, with pins for a closer comparison, for the screen and for print. */
const words = text.likelihood.ladder
const { region, condition } = useQuestion()
const state = useLadderState()
const { chosen, on } = state
const asking = computed(() => ({
  ...(chosen.value.scope === 'all' ? {} : { region: region.value }),
  ...(chosen.value.scope === 'condition' && condition.value ? { condition: condition.value.name } : {}),
  ...(chosen.value.group === 'condition' ? { each_condition: true } : {}),
  search: '',
  kind: 'special',
  sort: chosen.value.sort,
  reverse: false,
  limit: 500,
}))
const tests = useTests(asking)
const rows = computed(() => tests.data.value?.rows ?? [])
const total = computed(() => tests.data.value?.total ?? 0)
const groups = computed(() => ladderGroups(rows.value, chosen.value.group, condition.value?.name ?? ''))
/** A test that stands under several conditions is compared by the one that is asked about, else by its leading one. */
const pinned = computed(() =>
  state.pins.value.flatMap((id) => {
    const own = rows.value.filter((row) => row.id === id)
    const asked = own.find((row) => row.condition === condition.value?.name)
    return asked ?? own.find((row) => row.leading) ?? own[0] ?? []
  }),
)
const sample = computed(() => rows.value.some((row) => row.sample))
const FORMATS = ['pdf', 'svg', 'png', 'csv'] as const
/** As many tests as the server prints on one figure. */
const MOST_PRINTED = 200
const formats = computed(() => FORMATS.filter((format) => format === 'csv' || total.value <= MOST_PRINTED))
function figure(format: (typeof FORMATS)[number]): string {
  const query = new URLSearchParams({ kind: 'special', sort: chosen.value.sort })
  if (chosen.value.scope !== 'all') query.set('region', region.value)
  if (chosen.value.scope === 'condition' && condition.value) query.set('condition', condition.value.name)
  if (chosen.value.group === 'condition') query.set('each_condition', 'true')
  if (format === 'csv') return `/api/v1/tests.csv?${query}`
  query.set('group', chosen.value.group)
  query.set('ahead', String(on.value.ahead))
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
        :model-value="chosen.scope"
        :items="options(words.scopes)"
        :label="words.scope"
        data-test="scope"
        @update:model-value="state.choose({ scope: $event })"
      />
      <v-select
        :model-value="chosen.group"
        :items="options(words.groups)"
        :label="words.group"
        data-test="group"
        @update:model-value="state.choose({ group: $event })"
      />
      <v-select
        :model-value="chosen.sort"
        :items="options(text.sorts)"
        :label="text.catalogue.sort"
        data-test="ladder-sort"
        @update:model-value="state.choose({ sort: $event })"
      />
      <v-checkbox
        :model-value="on.ahead"
        :label="words.ahead"
        :title="words.aheadHint"
        data-test="ladder-ahead"
        @update:model-value="state.turn('ahead', !!$event)"
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
    <FailureNotice v-if="tests.isError.value && !rows.length" :query="tests" :title="words.failed" />
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
      <RatioLadder :groups="groups" :ahead="on.ahead" :pins="state.pins.value" @pin="state.togglePin" />
      <p v-if="on.ahead" class="small muted">{{ words.aheadHint }}</p>
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
