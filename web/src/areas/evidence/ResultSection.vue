<script setup lang="ts">
import { mdiPlus } from '@mdi/js'
import { computed, defineAsyncComponent, nextTick, watch } from 'vue'
import { useRoute } from 'vue-router'

import { useResults } from '@/shared/api/queries'
import type { PooledAnswer, ResultView, StudyView } from '@/shared/api/types'
import { whole } from '@/shared/format'
import FailureNotice from '@/shared/layout/FailureNotice.vue'
import SampleMark from '@/shared/layout/SampleMark.vue'
import StateNotice from '@/shared/layout/StateNotice.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { may } from '@/shared/session/session'
import { text } from '@/shared/text'
import { useShortcuts } from '@/shared/useShortcuts'
import { useShown } from '@/shared/useShown'
import AppraisalSummary from './AppraisalSummary.vue'
import LevelRatios from './LevelRatios.vue'
import { preferResult, removeResult } from './resultActions'
import ResultForest from './ResultForest.vue'

// Who reads must not wait for the form.
const AppraisalDialog = defineAsyncComponent(() => import('./AppraisalDialog.vue'))
const ResultDialog = defineAsyncComponent(() => import('./ResultDialog.vue'))
const props = defineProps<{ testId: string; condition: string | undefined; pooled: PooledAnswer | null }>()

const results = useResults(
  () => props.testId,
  () => props.condition,
)
/** Nobody's study is here, but the sheet says that somebody looked. */
const lookedFor = computed(() => props.pooled?.evidence === 'nothing_usable')
const rows = computed(() => results.data.value ?? [])
const patients = computed(() => {
  const pooled = props.pooled?.pooled
  return pooled ? whole(pooled.diseased + pooled.non_diseased) : ''
})

// Whoever comes for one result is led to it, as soon as it is there.
const route = useRoute()
watch(
  () => (rows.value.length ? route.hash : ''),
  async (hash) => {
    if (!hash.startsWith('#result-')) return
    await nextTick()
    document.getElementById(hash.slice(1))?.scrollIntoView({ block: 'center' })
  },
  { immediate: true },
)

const editing = useShown<ResultView>()
const judging = useShown<StudyView>()
useShortcuts({ a: () => may('write_studies') && editing.show(null) })
</script>

<template>
  <section class="results">
    <header>
      <h2>
        {{ text.study.title }}
        <SampleMark v-if="rows.some((row) => row.sample)" />
        <span v-if="rows.length && patients" class="small muted count">
          {{ text.study.count(pooled?.pooled?.k ?? 0, patients) }}
        </span>
      </h2>
      <v-btn
        v-if="may('write_studies')"
        class="no-print"
        :prepend-icon="mdiPlus"
        data-test="add-result"
        @click="editing.show(null)"
      >
        {{ text.study.add }}
      </v-btn>
    </header>
    <FailureNotice v-if="results.isError.value && !rows.length" :query="results" :title="text.study.failed" />
    <WaitLine v-else-if="results.isPending.value" />
    <StateNotice
      v-else-if="!rows.length"
      :title="lookedFor ? text.study.unusable : text.study.none"
      :detail="lookedFor ? text.study.unusableDetail : text.study.noneDetail"
    >
      <v-btn v-if="may('write_studies')" @click="editing.show(null)">{{ text.study.add }}</v-btn>
    </StateNotice>
    <ResultForest
      v-else
      :results="rows"
      :pooled="pooled?.pooled ?? null"
      :editable="may('write_studies')"
      @edit="editing.show"
      @appraise="judging.show"
      @prefer="preferResult($event)"
      @remove="removeResult($event)"
    />
    <LevelRatios
      :test-id="testId"
      :condition="condition"
      :given="rows.some((row) => row.levels.length > 0)"
    />
    <AppraisalSummary aspect="accuracy" :studies="rows.map((row) => row.study)" />
    <AppraisalDialog
      v-if="judging.shown.value"
      v-model:open="judging.open.value"
      :study="judging.shown.value"
      aspect="accuracy"
    />
    <ResultDialog
      v-if="editing.asked.value"
      v-model:open="editing.open.value"
      :test-id="testId"
      :result="editing.shown.value"
    />
  </section>
</template>

<style scoped>
.results {
  margin-top: 26px;
}
header {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  justify-content: space-between;
  margin-bottom: 8px;
}
.count {
  margin-left: 8px;
  font-family: var(--font-text);
  font-weight: 400;
}
</style>
