<script setup lang="ts">
import { computed, ref, watchEffect } from 'vue'

import { useSnapshot, useSnapshotDifference } from '@/shared/api/queries'
import type { Pooled } from '@/shared/api/types'
import { moment } from '@/shared/format'
import CautionLine from '@/shared/layout/CautionLine.vue'
import FailureNotice from '@/shared/layout/FailureNotice.vue'
import SampleMark from '@/shared/layout/SampleMark.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { useQuestion } from '@/shared/question/useQuestion'
import { cells, lr, rowId, share } from '@/areas/evidence/resultWords'
import { text } from '@/shared/text'
import { typedNumber } from '@/shared/typedNumber'
import SheetLink from '@/shared/question/SheetLink.vue'
import PooledFigures from './PooledFigures.vue'
import ReferenceTable from './ReferenceTable.vue'
import SnapshotChanges from './SnapshotChanges.vue'
import StaleMark from './StaleMark.vue'
import { whyWords } from './facetWords'

/** A pool as it was frozen, and what has changed since. */
const props = defineProps<{ snapshot: string }>()

const words = text.pool.snapshot
const { carried } = useQuestion()
const frozen = useSnapshot(() => props.snapshot)
const thresholds = ref({ lr_positive: 5, lr_negative: 0.2 })
/** The field that holds no threshold; the answer stays with the last one. */
const refused = ref('')
function setThreshold(name: 'lr_positive' | 'lr_negative', typed: string) {
  const value = typedNumber(typed) ?? NaN
  refused.value = value > 0 && Number.isFinite(value) ? '' : name
  if (!refused.value) thresholds.value = { ...thresholds.value, [name]: value }
}
const difference = useSnapshotDifference(() => props.snapshot, thresholds)
const view = computed(() => frozen.data.value ?? null)
const content = computed(() => view.value?.snapshot ?? null)
const answer = computed(() => (content.value?.answer ?? null) as Pooled | null)
const now = computed(() => difference.data.value?.now ?? null)
watchEffect(() => (document.title = `${content.value?.title ?? words.title} – Pruvex`))

const several = computed(() => (content.value?.tests.length ?? 0) > 1)
const nameOf = (id: string) => content.value?.tests.find((test) => test.id === id)?.name ?? ''
const asItStands = computed(() => {
  const { tests = [], selection, model, interval } = content.value ?? {}
  return {
    name: 'pooling',
    query: {
      ...carried.value,
      condition: content.value?.condition,
      tests: tests.map((test) => test.id),
      ...selection?.only,
      from: selection?.from ?? undefined,
      until: selection?.until ?? undefined,
      off: selection?.off,
      model: model === 'auto' ? undefined : model,
      interval: interval ?? undefined,
    },
  }
})
const corrected = computed(() => content.value?.reference?.corrected ?? null)
const correctedFor = computed(() => {
  const errors = content.value?.reference?.errors
  return errors ? text.pool.referenceErrors.frozen(share(errors.sensitivity), share(errors.specificity)) : ''
})
const otherInterval = computed(() => {
  const { frozen: then, now: today } = difference.data.value?.interval ?? {}
  const called = text.pooled.intervals
  return then && today && then !== today ? words.otherInterval(called[then], called[today]) : ''
})
const figures = computed(() => {
  const lines = [
    [text.pooled.measures.sensitivity, (of: Pooled) => share(of.sensitivity)],
    [text.pooled.measures.specificity, (of: Pooled) => share(of.specificity)],
    [text.pooled.measures.lr_positive, (of: Pooled) => lr(of.lr_positive)],
    [text.pooled.measures.lr_negative, (of: Pooled) => lr(of.lr_negative)],
    [text.pool.compare.k, (of: Pooled) => String(of.k)],
  ] as const
  return lines.map(([name, show]) => ({
    name,
    before: answer.value ? show(answer.value) : '',
    now: now.value ? show(now.value) : '–',
  }))
})
</script>

<template>
  <div>
    <p class="small no-print">
      <router-link class="alone" :to="{ name: 'pooling', query: carried }">{{ words.back }}</router-link>
    </p>
    <WaitLine :active="frozen.isPending.value" />
    <FailureNotice v-if="frozen.isError.value" :query="frozen" :title="words.failed" />
    <template v-if="view && content && answer">
      <h1 dir="auto">{{ content.title }} <SampleMark v-if="content.sample" /></h1>
      <p class="small muted">
        {{ content.tests.map((test) => test.name).join(', ') }} · {{ content.condition }} ·
        {{ words.by(view.by ?? words.nobody, moment(view.at)) }}
      </p>
      <StaleMark v-if="difference.data.value" :stale="difference.data.value.stale" />
      <p v-if="content.note" class="pre-line note" dir="auto">{{ content.note }}</p>
      <div class="parts">
        <PooledFigures :pooled="answer" :sample="content.sample" />
        <section data-test="difference">
          <h2>{{ words.difference }}</h2>
          <WaitLine :active="difference.isFetching.value" />
          <template v-if="difference.data.value">
            <p v-if="!difference.data.value.stale">{{ words.upToDate }}</p>
            <template v-else>
              <SnapshotChanges :of="difference.data.value" />
              <table class="plain-table">
                <thead>
                  <tr class="small">
                    <td></td>
                    <th scope="col">{{ words.before }}</th>
                    <th scope="col">{{ words.now }}</th>
                  </tr>
                </thead>
                <tbody>
                  <tr v-for="line in figures" :key="line.name">
                    <th scope="row">{{ line.name }}</th>
                    <td>{{ line.before }}</td>
                    <td>{{ line.now }}</td>
                  </tr>
                </tbody>
              </table>
              <p v-if="!now" class="small">{{ words.nothingNow }}</p>
              <v-btn class="no-print" :to="asItStands" data-test="pool-now">{{ words.again }}</v-btn>
            </template>
            <p v-if="otherInterval" class="small" data-test="other-interval">{{ otherInterval }}</p>
            <div class="thresholds no-print">
              <v-text-field
                v-for="name in ['lr_positive', 'lr_negative'] as const"
                :key="name"
                :model-value="thresholds[name]"
                type="number"
                step="any"
                min="0"
                :label="words.threshold(text.pooled.measures[name])"
                :data-test="`threshold-${name}`"
                :error-messages="refused === name ? words.noThreshold : ''"
                @change="setThreshold(name, ($event.target as HTMLInputElement).value)"
              />
            </div>
            <ul class="small" data-test="crossings">
              <li v-for="name in ['lr_positive', 'lr_negative'] as const" :key="name">
                {{
                  difference.data.value[name].before === difference.data.value[name].now
                    ? words.same(
                        text.pooled.measures[name],
                        String(difference.data.value[name].threshold),
                        words.sides[difference.data.value[name].now ?? ''] ?? words.noSide,
                      )
                    : words.moved(
                        text.pooled.measures[name],
                        String(difference.data.value[name].threshold),
                        words.sides[difference.data.value[name].before ?? ''] ?? words.noSide,
                        words.sides[difference.data.value[name].now ?? ''] ?? words.noSide,
                      )
                }}
              </li>
            </ul>
          </template>
        </section>
      </div>
      <section v-if="corrected" class="section" data-test="frozen-correction">
        <h2>{{ text.pool.referenceErrors.title }}</h2>
        <p class="small">{{ correctedFor }}</p>
        <ReferenceTable :found="answer" :corrected="corrected" :of="text.pool.referenceErrors.asPooled" />
      </section>
      <section class="section">
        <h2>{{ words.results }}</h2>
        <table class="plain-table" data-test="snapshot-results">
          <thead>
            <tr class="small">
              <th scope="col">{{ text.study.study }}</th>
              <th scope="col">{{ words.counts }}</th>
              <th scope="col">{{ text.pool.inPool }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="result in content.results" :key="result.id">
              <th scope="row" dir="auto">
                <SheetLink :test="result.test" :hash="`#${rowId(result.id)}`">{{
                  result.report
                }}</SheetLink><span v-if="several" class="small muted"> · {{ nameOf(result.test) }}</span>
              </th>
              <td>{{ cells(result.counts) }}</td>
              <td :class="{ muted: result.out }">{{ result.out ? whyWords(result.out) : '✓' }}</td>
            </tr>
          </tbody>
        </table>
      </section>
      <p class="small muted proof wrap-anywhere">
        {{ words.engine }} {{ content.engine }}. {{ words.hash }}: <code>{{ view.hash }}</code>.
        <a :href="`/api/v1/snapshots/${view.id}/file`" download data-test="snapshot-file">{{
          words.file
        }}</a>. {{ words.verify }} <code>pruvex verify pruvex-pool-{{ view.id }}.json</code>
      </p>
      <CautionLine />
    </template>
  </div>
</template>

<style scoped>
h1 {
  margin: 8px 0 4px;
}
.note {
  max-width: 72ch;
  margin: 10px 0;
}
.parts {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 24px 40px;
  margin-top: 16px;
}
.thresholds {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
  margin: 16px 0 8px;
}
.section {
  margin-top: 28px;
}
.proof {
  margin: 20px 0;
}
ul {
  padding-left: 1.2em;
}
@media (max-width: 900px) {
  .parts {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
