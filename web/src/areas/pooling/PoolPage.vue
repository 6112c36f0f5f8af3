<script setup lang="ts">
import { mdiContentCopy } from '@mdi/js'
import { useClipboard, useTimeoutFn } from '@vueuse/core'
import { computed, ref, watch, watchEffect } from 'vue'
import { useRoute } from 'vue-router'

import { usePool, usePoolAhead, useResultsOf, useTests } from '@/shared/api/queries'
import { whole } from '@/shared/format'
import CautionLine from '@/shared/layout/CautionLine.vue'
import FailureNotice from '@/shared/layout/FailureNotice.vue'
import SampleMark from '@/shared/layout/SampleMark.vue'
import StateNotice from '@/shared/layout/StateNotice.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { useAddress } from '@/shared/question/useAddress'
import { useQuestion } from '@/shared/question/useQuestion'
import { may } from '@/shared/session/session'
import { text } from '@/shared/text'
import AgreementBeside from './AgreementBeside.vue'
import ComparePanel from './ComparePanel.vue'
import FreezeDialog from './FreezeDialog.vue'
import { nearBy } from './nearBy'
import PoolChoice from './PoolChoice.vue'
import PooledFigures from './PooledFigures.vue'
import PoolForest from './PoolForest.vue'
import PoolReading from './PoolReading.vue'
import { poolRows } from './poolRows'
import ReferencePanel from './ReferencePanel.vue'
import RocPanel from './RocPanel.vue'
import SensitivityPanel from './SensitivityPanel.vue'
import SnapshotList from './SnapshotList.vue'
import SpreadPanel from './SpreadPanel.vue'
import { useReferenceErrors } from './useReferenceErrors'
import { usePoolState, type Choice, type RowOrder } from './usePoolState'

const REST_MILLISECONDS = 50

/** What to pool, its one answer with how much the studies differ, and what that answer depends on. */
const route = useRoute()
const address = useAddress()
const { region, condition } = useQuestion()
const state = usePoolState()
const reference = useReferenceErrors()
const list = useTests(() => ({
  region: region.value,
  // A test for several conditions is offered with its figures for the one that is asked about.
  asked: condition.value?.name,
  search: '',
  sort: 'evidence' as const,
  reverse: false,
}))
const tests = computed(() => list.data.value?.rows ?? [])
/** Of another condition there is nothing to pool for this question. */
const studied = computed(() =>
  tests.value.filter(
    (test) => test.studies > 0 && test.condition === (condition.value?.name ?? test.condition),
  ),
)
const pool = usePool(state.input)
const answer = computed(() => (state.tests.value.length ? (pool.data.value ?? null) : null))
const found = useResultsOf(state.tests)
const rows = computed(() => poolRows(answer.value, found.value.results))
const kept = computed(() => answer.value?.rows.filter((row) => !row.out).length ?? 0)
const people = computed(() => {
  const pooled = answer.value?.pooled
  return pooled ? whole(pooled.diseased + pooled.non_diseased) : ''
})
/** Results in the pool that count a person's sides: their people are more than persons. */
const sides = computed(
  () => rows.value.filter(({ row, result }) => !row.out && result.unit === 'side').length,
)
const marked = ref('')
const askAhead = usePoolAhead()
const rested = useTimeoutFn((choice: Choice) => askAhead(state.inputWith(choice)), REST_MILLISECONDS, {
  immediate: false,
})
/** A hand or the keyboard rests on a choice: what it would answer is asked before it is made. */
const near = (choice: Choice | null) => (choice ? rested.start(choice) : rested.stop())
const freezing = ref(false)
const { copy, copied } = useClipboard({ legacy: true })
const orders = Object.entries(text.pool.orders).map(([value, title]) => ({ value: value as RowOrder, title }))
const FIGURES = ['pdf', 'svg', 'png', 'csv'] as const
const figure = (format: string) =>
  `/api/v1/pools/figure/${format}?${new URLSearchParams({ pool: JSON.stringify(state.input.value) })}`
const empty = computed(() => {
  switch (answer.value?.not_pooled) {
    case 'no_results':
      return { title: text.pool.none, detail: text.pool.noneDetail }
    case 'not_identified':
      return { title: text.pool.notIdentified, detail: text.pool.notIdentifiedDetail }
    case 'no_interval':
      return { title: text.pool.noInterval, detail: text.pool.noIntervalDetail }
    case 'too_many':
      return { title: text.pool.tooMany, detail: text.pool.tooManyDetail }
    default:
      return null
  }
})
watchEffect(() => (document.title = `${text.pool.title} – Pruvex`))
// Tests of another region are another question.
watch(
  () => address.one('region'),
  (now, before) =>
    before && now && now !== before && route.name === 'pooling' && state.choose(state.ofTests([])),
)
</script>

<template>
  <div>
    <h1>
      {{ text.pool.title }}
      <SampleMark v-if="answer?.sample" />
    </h1>
    <p class="muted about no-print">{{ text.pool.about }}</p>
    <PoolChoice :state="state" :tests="tests" :answer="answer" @near="near" />
    <WaitLine class="wait" :active="list.isPending.value || pool.isFetching.value || found.pending" />

    <StateNotice
      v-if="!state.tests.value.length && list.isSuccess.value"
      :title="studied.length ? text.pool.choose : text.pool.noTests"
      :detail="studied.length ? text.pool.chooseDetail(condition?.name ?? '') : text.pool.noTestsDetail"
    >
      <div class="offers">
        <v-btn
          v-for="test in studied"
          :key="test.id"
          v-bind="nearBy(near, () => state.ofTests([test.id]))"
          data-test="pool-offer"
          @click="state.choose(state.ofTests([test.id]))"
        >
          {{ test.name }} · {{ text.pool.results(test.studies) }}
        </v-btn>
      </div>
    </StateNotice>
    <FailureNotice v-else-if="pool.isError.value && !answer" :query="pool" :title="text.pool.failed" />

    <template v-else-if="answer">
      <p class="count" aria-live="polite" data-test="pool-count">
        {{ text.pool.kept(kept, answer.rows.length, people, sides) }}
        <v-btn
          v-if="answer.pooled && may('write_studies')"
          size="small"
          class="no-print"
          data-test="freeze"
          @click="freezing = true"
        >
          {{ text.pool.snapshot.freeze }}
        </v-btn>
        <v-btn
          v-if="state.off.value.length"
          size="small"
          data-test="pool-all-on"
          v-bind="nearBy(near, () => ({ off: [] }))"
          @click="state.choose({ off: [] })"
        >
          {{ text.pool.allOn }}
        </v-btn>
      </p>
      <StateNotice v-if="empty" :title="empty.title" :detail="empty.detail" data-test="pool-empty" />
      <template v-if="answer.pooled">
        <PoolReading v-if="answer.reading" :reading="answer.reading" :pooled="answer.pooled" />
        <div class="answer">
          <div>
            <PooledFigures :pooled="answer.pooled" :sample="answer.sample" :ahead="answer.prediction" />
            <SpreadPanel v-if="answer.heterogeneity" :of="answer.heterogeneity" :pooled="answer.pooled" />
            <AgreementBeside :of="answer.agreement" :tests="tests" :several="state.tests.value.length > 1" />
          </div>
          <RocPanel :answer="answer" :rows="rows" :tests="tests" :marked="marked" @mark="marked = $event" />
        </div>
      </template>
      <div class="order no-print">
        <v-select
          :model-value="state.order.value"
          :items="orders"
          :label="text.pool.order"
          data-test="pool-order"
          @update:model-value="state.setOrder"
        />
        <p v-if="kept" class="small files">
          {{ text.pool.figure }}
          <a
            v-for="format in FIGURES"
            :key="format"
            :href="figure(format)"
            download
            :data-test="`figure-${format}`"
            >{{ format.toUpperCase() }}</a
          >
        </p>
      </div>
      <PoolForest
        :answer="answer"
        :rows="rows"
        :order="state.order.value"
        :marked="marked"
        :tests="tests"
        @toggle="state.choose(state.switched($event))"
        @mark="marked = $event"
        @near="near($event ? state.switched($event) : null)"
      />
      <ComparePanel v-if="answer.compared" class="section" :of="answer.compared" :tests="tests" />
      <details v-if="answer.methods" class="methods small" data-test="methods">
        <summary>{{ text.pool.methods }}</summary>
        <p class="copied">{{ answer.methods }}</p>
        <v-btn size="small" class="no-print" :prepend-icon="mdiContentCopy" @click="copy(answer.methods)">
          {{ copied ? text.pool.copied : text.pool.copy }}
        </v-btn>
      </details>
      <ReferencePanel
        v-if="answer.pooled"
        class="section"
        :input="state.input.value"
        :pooled="answer.pooled"
        :results="found.results"
        :tests="tests"
      />
      <SensitivityPanel
        v-if="answer.pooled"
        class="section"
        :input="state.input.value"
        :answer="answer"
        :results="found.results"
      />
    </template>
    <SnapshotList class="section" :region="region" />
    <FreezeDialog
      v-if="freezing"
      v-model:open="freezing"
      :pool="state.input.value"
      :kept="kept"
      :reference="reference.errors.value"
    />
    <CautionLine />
  </div>
</template>

<style scoped>
.about {
  max-width: 72ch;
  margin: 6px 0 14px;
}
.wait {
  margin-bottom: 12px;
}
.offers {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.count {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px 12px;
  margin: 2px 0 0;
  font-weight: 600;
}
.answer {
  display: grid;
  grid-template-columns: minmax(0, 1.35fr) minmax(0, 1fr);
  gap: 20px 36px;
  align-items: start;
}
.answer > div {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 20px;
}
.order {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px 24px;
  margin: 20px 0 6px;
}
.order > :first-child {
  flex: 0 1 220px;
}
.files a {
  margin-left: 8px;
}
.section,
.methods {
  margin-top: 30px;
}
.methods summary {
  cursor: pointer;
}
.copied {
  max-width: 80ch;
  margin: 8px 0;
}
@media (max-width: 900px) {
  .answer {
    grid-template-columns: minmax(0, 1fr);
  }
}
/* On paper one part follows the other over the pages; across a sheet in landscape there is room for both. */
@media print {
  .answer,
  .answer > div {
    display: block;
    break-inside: auto;
  }
  .answer > div > *,
  .answer > :last-child {
    margin-top: 16px;
  }
}
@media print and (orientation: landscape) {
  .answer {
    columns: 2;
    column-gap: 36px;
  }
}
</style>
