<script setup lang="ts">
import { mdiFilterVariant, mdiPlus, mdiSwapVertical, mdiTrayArrowDown } from '@mdi/js'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'

import { limitWords } from '@/areas/pooling/words'
import { useAnswers, useTests } from '@/shared/api/queries'
import type { Sort, TestRow } from '@/shared/api/types'
import CrowdPicture from '@/figures/CrowdPicture.vue'
import CautionLine from '@/shared/layout/CautionLine.vue'
import FailureNotice from '@/shared/layout/FailureNotice.vue'
import SampleMark from '@/shared/layout/SampleMark.vue'
import StateNotice from '@/shared/layout/StateNotice.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import SearchField from '@/shared/question/SearchField.vue'
import { options } from '@/shared/question/useListPage'
import { useQuestion } from '@/shared/question/useQuestion'
import { may } from '@/shared/session/session'
import { text } from '@/shared/text'
import { useShortcuts } from '@/shared/useShortcuts'
import LadderTable from './LadderTable.vue'
import { type FilterName, filters, useListState } from './useListState'

const router = useRouter()
const { region, condition, preTest, carried } = useQuestion()
const list = useListState()
/** As many rows as one reads through; the rest comes when it is asked for. */
const FIRST = 100
const whole = ref(false)
const asking = computed(() => ({
  region: region.value,
  // A test for several conditions stands there with its figures for the one that is asked about.
  ...(condition.value ? { asked: condition.value.name } : {}),
  search: list.search.value,
  // A search without an order of its own puts the best match first.
  ...(list.search.value && list.unsorted.value ? {} : { sort: list.sort.value }),
  reverse: list.reverse.value,
  ...list.narrowed.value,
  ...(whole.value ? {} : { limit: FIRST }),
}))
const tests = useTests(asking)
const csv = computed(() => {
  const asked = Object.entries(asking.value).filter(([name]) => name !== 'limit')
  return `/api/v1/tests.csv?${new URLSearchParams(asked.map(([name, value]) => [name, String(value)]))}`
})
const narrowing = ref(Object.keys(list.narrowed.value).length > 0)
const narrowedBy = computed(() => Object.keys(list.narrowed.value).length)
const looking = computed(() => !!list.search.value || narrowedBy.value > 0)
// Who sees only published sheets has no use for where they stand.
const offered = computed(() =>
  (Object.keys(filters) as FilterName[]).filter(
    (name) => may('read_drafts') || !['status', 'findings'].includes(name),
  ),
)
/** From the search on into what it found. */
const intoList = () => document.querySelector<HTMLElement>('.test-link')?.focus()

const rows = computed(() => tests.data.value?.rows ?? [])
const total = computed(() => tests.data.value?.total ?? 0)
const asked = computed(() => rows.value.filter((row) => row.condition === condition.value?.name))
const others = computed(() => rows.value.filter((row) => row.condition !== condition.value?.name))
const answers = useAnswers(preTest, () =>
  asked.value.flatMap((row) => (row.summary ? [{ test: row.id, figures: row.figures }] : [])),
)
const answerOf = computed(() => new Map((answers.data.value ?? []).map((answer) => [answer.test, answer])))

const tally = computed(() => {
  const count = (kinds: TestRow['evidence'][]) =>
    rows.value.filter((row) => kinds.includes(row.evidence)).length
  return text.catalogue.tally(
    count(['several_studies']),
    count(['one_study', 'few_studies']),
    count(['not_studied', 'nothing_usable']),
  )
})
const sample = computed(() => rows.value.some((row) => row.sample))

const pickedId = ref<string | null>(null)
const picked = computed(() => asked.value.find((row) => row.id === pickedId.value) ?? asked.value[0] ?? null)
const crowd = computed(() => (picked.value && answerOf.value.get(picked.value.id)?.frequencies) ?? null)

const sorts = computed(() => {
  const orders = options(text.sorts)
  return list.search.value ? [{ value: 'best' as const, title: text.catalogue.bestMatch }, ...orders] : orders
})
const order = computed(() => asking.value.sort ?? 'best')
const newTest = computed(() => ({ name: 'new-test', query: carried.value }))
useShortcuts({ n: () => may('write_sheets') && void router.push(newTest.value) })
</script>

<template>
  <div>
    <div class="heading">
      <h1>
        {{ tests.data.value ? text.catalogue.title(text.regions[region], total) : text.regions[region] }}
      </h1>
      <v-btn
        v-if="may('write_sheets')"
        class="no-print"
        :to="newTest"
        :prepend-icon="mdiPlus"
        data-test="new-test"
      >
        {{ text.catalogue.add }}
      </v-btn>
    </div>
    <p class="tally small muted">
      <SampleMark v-if="sample" /> {{ tally }}
      <strong v-if="tests.data.value?.computing" role="status" data-test="computing">{{
        text.catalogue.computing(tests.data.value.computing.done, tests.data.value.computing.of)
      }}</strong>
      <strong v-if="tests.data.value?.behind" role="status" data-test="behind">{{
        text.catalogue.behind
      }}</strong>
    </p>

    <div v-if="rows.length || looking || tests.isPending.value" class="controls no-print" role="search">
      <SearchField
        class="search"
        :list="list"
        :label="text.catalogue.search"
        test="search"
        @leave="intoList"
      />
      <v-select
        class="sort"
        :model-value="order"
        :items="sorts"
        :label="text.catalogue.sort"
        data-test="sort"
        @update:model-value="list.setSort($event as Sort)"
      />
      <v-btn
        :icon="mdiSwapVertical"
        size="small"
        variant="text"
        :color="list.reverse.value ? 'primary' : undefined"
        :aria-pressed="list.reverse.value"
        :aria-label="text.catalogue.reverse"
        :title="text.catalogue.reverse"
        @click="list.setReverse(!list.reverse.value)"
      />
      <v-btn
        variant="text"
        :prepend-icon="mdiFilterVariant"
        :color="narrowedBy ? 'primary' : undefined"
        :aria-expanded="narrowing"
        data-test="narrow"
        @click="narrowing = !narrowing"
      >
        {{ text.catalogue.narrow(narrowedBy) }}
      </v-btn>
      <v-btn
        :icon="mdiTrayArrowDown"
        size="small"
        variant="text"
        :href="csv"
        :aria-label="text.catalogue.csv"
        :title="text.catalogue.csv"
      />
      <div v-if="narrowing" class="filters">
        <v-select
          v-for="name in offered"
          :key="name"
          :model-value="list.narrowed.value[name] ?? null"
          :items="options(filters[name].words)"
          :label="filters[name].label"
          clearable
          hide-details
          :data-test="`filter-${name}`"
          @update:model-value="list.setFilter(name, $event)"
        />
      </div>
    </div>
    <WaitLine :active="tests.isFetching.value" />

    <FailureNotice v-if="tests.isError.value && !rows.length" :query="tests" :title="text.catalogue.failed" />
    <StateNotice
      v-else-if="tests.isSuccess.value && !rows.length && looking"
      :title="text.catalogue.noMatch(list.search.value)"
    >
      <v-btn @click="list.clear()">{{ text.catalogue.clear }}</v-btn>
    </StateNotice>
    <StateNotice
      v-else-if="tests.isSuccess.value && !rows.length"
      :title="text.catalogue.none"
      :detail="text.catalogue.noneDetail(text.regions[region])"
    >
      <v-btn :to="newTest">{{ text.catalogue.add }}</v-btn>
    </StateNotice>
    <template v-else-if="rows.length">
      <LadderTable
        :asked="asked"
        :others="others"
        :answers="answerOf"
        :pre-test="preTest"
        :picked="picked?.id ?? null"
        @pick="pickedId = $event"
      />
      <p v-if="rows.length < total" class="more no-print">
        {{ text.catalogue.first(rows.length, total) }}
        <v-btn size="small" data-test="show-all" @click="whole = true">{{ text.catalogue.showAll }}</v-btn>
      </p>
      <section v-if="picked && crowd" class="crowd">
        <h2>
          {{ text.catalogue.crowdTitle(picked.name) }}
          <SampleMark v-if="picked.sample" />
        </h2>
        <CrowdPicture :frequencies="crowd" />
        <p v-for="limit in limitWords(picked.warnings)" :key="limit" class="small limit">{{ limit }}</p>
      </section>
      <CautionLine />
    </template>
  </div>
</template>

<style scoped>
.heading {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 16px;
}
.tally {
  margin: 4px 0 12px;
}
.controls {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 10px;
  margin-bottom: 8px;
}
.search {
  flex: 0 1 340px;
  min-width: 220px;
}
.sort {
  flex: 0 1 290px;
  min-width: 220px;
}
.more {
  margin-top: 10px;
}
.filters {
  display: grid;
  flex: 1 0 100%;
  grid-template-columns: repeat(auto-fill, minmax(180px, 1fr));
  gap: 8px;
}
.crowd {
  margin-top: 18px;
  max-width: 860px;
}
.limit {
  margin-top: 4px;
  font-weight: 600;
}
.crowd h2 {
  margin-bottom: 8px;
  font-size: 1.05rem;
}
</style>
