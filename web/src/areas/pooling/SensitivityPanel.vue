<script setup lang="ts">
import { refDebounced, useWindowSize } from '@vueuse/core'
import { computed, toRef } from 'vue'

import { label, lr, share } from '@/areas/evidence/resultWords'
import { usePoolSensitivity } from '@/shared/api/queries'
import LadderAxis from '@/figures/LadderAxis.vue'
import LadderRung from '@/figures/LadderRung.vue'
import { ladderScale } from '@/figures/logScale'
import type { PoolAnswer, PoolInput, ResultView, Summary } from '@/shared/api/types'
import { withDecimals, ratioPoint } from '@/shared/format'
import FailureNotice from '@/shared/layout/FailureNotice.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import WideBlock from '@/shared/layout/WideBlock.vue'
import { text } from '@/shared/text'
import { pValue, uninterpretableWords } from './words'

/** What the answer depends on: the model, part of the results, single results. */
const props = defineProps<{ input: PoolInput; answer: PoolAnswer; results: ResultView[] }>()

type Line = Summary & { k: number }

const words = text.pool.sensitivity
// Who switches several results off is not kept waiting by what takes longer.
const asked = refDebounced(toRef(props, 'input'), 400)
const tried = usePoolSensitivity(asked)
const line = (title: string, pooled: Line | null | undefined, note = '') => ({
  title,
  note,
  pooled: pooled ?? null,
})
const blocks = computed(() => {
  const found = tried.data.value
  if (!found) return []
  const models = found.alternatives
    .filter(({ choice }) => choice !== props.input.model)
    .map(({ choice, pooled }) => {
      const stepped =
        pooled && choice !== 'auto' && pooled.model !== choice && pooled.model !== 'single_study'
      return line(text.pool.choices[choice]!, pooled, stepped ? words.stepped(text.models[pooled.model]) : '')
    })
  const k = props.answer.pooled?.k ?? 0
  const intervals = found.intervals
    .filter(({ interval }) => interval !== props.answer.pooled?.interval)
    .map(({ interval, summary }) => ({
      title: text.pooled.intervals[interval],
      note: '',
      pooled: { k, ...summary },
    }))
  const sides = found.sides_as_people.map(({ correlation, pooled }) => line(words.alike(correlation), pooled))
  const taken = found.uninterpretable_taken.map(({ taken, pooled }) => line(words.taken[taken], pooled))
  const verified = found.corrected_verification
  const corrected = verified
    ? [
        line(
          words.corrected(verified.results),
          verified.pooled,
          verified.not_corrected ? words.notCorrected(verified.not_corrected) : '',
        ),
      ]
    : []
  const [safer, whole] = [found.without_high_risk, found.without_one_armed]
  const parts = [
    ...(safer.left_out ? [line(words.withoutHighRisk(safer.left_out), safer.pooled)] : []),
    ...(whole.left_out ? [line(words.withoutOneArmed(whole.left_out), whole.pooled)] : []),
  ]
  return [
    { title: '', lines: [line(words.as, props.answer.pooled)] },
    ...(intervals.length ? [{ title: words.intervals, lines: intervals }] : []),
    { title: words.models, lines: models },
    ...(parts.length ? [{ title: words.parts, lines: parts }] : []),
    ...(taken.length ? [{ title: uninterpretableWords(found.uninterpretable), lines: taken }] : []),
    ...(corrected.length ? [{ title: words.verification, lines: corrected }] : []),
    ...(sides.length ? [{ title: words.sides(found.sides_as_people[0]?.results ?? 0), lines: sides }] : []),
  ]
})
const priors = computed(() => {
  const { pooled } = props.answer
  const [half, double] = tried.data.value?.other_scales ?? []
  if (!pooled?.posterior || !half || !double) return []
  return [half, { ...pooled, prior_scale: pooled.posterior.prior_scale }, double].map((of) => ({
    name: words.scale(of.prior_scale),
    of,
  }))
})
/** The page's margins take the rest of a phone. */
const { width: page } = useWindowSize()
const width = computed(() => Math.min(420, page.value - 36))
const axis = computed(() =>
  ladderScale(
    priors.value.flatMap(({ of }) => [of.lr_positive, of.lr_negative]).filter((it) => it != null),
    width.value,
  ),
)
const labels = computed(() => new Map(props.results.map((result) => [result.id, label(result)])))
const influence = computed(() => {
  const found = (tried.data.value?.without ?? []).map((one) => ({
    ...one,
    label: labels.value.get(one.result) ?? '',
    distance: one.cook_distance ?? null,
  }))
  return found.sort((a, b) => (b.distance ?? -1) - (a.distance ?? -1))
})
const largest = computed(() => Math.max(1, ...influence.value.map(({ distance }) => distance ?? 0)))
const first = computed(() => {
  const [one] = influence.value
  const [all, rest] = [props.answer.pooled?.lr_positive, one?.summary.lr_positive]
  return one?.distance != null && all && rest
    ? words.matters(one.label, ratioPoint(all), ratioPoint(rest))
    : ''
})
</script>

<template>
  <section data-test="sensitivity">
    <h2>{{ words.title }}</h2>
    <WaitLine :active="tried.isFetching.value" />
    <FailureNotice v-if="tried.isError.value" :query="tried" :title="text.pool.failed" />
    <template v-else-if="tried.data.value">
      <WideBlock :label="words.title">
        <table class="plain-table">
          <thead>
            <tr class="small">
              <th v-for="(column, index) in words.columns" :key="index" scope="col">{{ column }}</th>
            </tr>
          </thead>
          <tbody v-for="(block, index) in blocks" :key="index">
            <tr v-if="block.title">
              <th scope="rowgroup" colspan="6" class="block small muted">{{ block.title }}</th>
            </tr>
            <tr v-for="row in block.lines" :key="row.title" :class="{ as: !index }">
              <th scope="row">
                {{ row.title }}<span v-if="row.note" class="small muted note">{{ row.note }}</span>
              </th>
              <template v-if="row.pooled">
                <td>{{ row.pooled.k }}</td>
                <td>{{ row.pooled.sensitivity ? share(row.pooled.sensitivity) : text.unknown }}</td>
                <td>{{ row.pooled.specificity ? share(row.pooled.specificity) : text.unknown }}</td>
                <td>{{ lr(row.pooled.lr_positive) }}</td>
                <td>{{ lr(row.pooled.lr_negative) }}</td>
              </template>
              <td v-else colspan="5" class="muted">{{ words.nothing }}</td>
            </tr>
          </tbody>
        </table>
      </WideBlock>
      <div v-if="priors.length" class="priors" data-test="priors">
        <h3>{{ words.priors }}</h3>
        <p class="small">{{ words.priorsAbout(answer.pooled?.k ?? 0) }}</p>
        <WideBlock :label="words.title">
          <div v-for="row in priors" :key="row.name" class="prior">
            <span class="small">{{ row.name }}</span>
            <LadderRung
              :axis="axis"
              :width="width"
              :name="row.name"
              :evidence="answer.evidence"
              :positive="row.of.lr_positive"
              :negative="row.of.lr_negative"
            />
          </div>
          <div class="prior">
            <span></span>
            <LadderAxis :axis="axis" :width="width" />
          </div>
        </WideBlock>
      </div>
      <div class="halves">
        <div>
          <h3 :title="words.influenceHint">{{ words.influence }}</h3>
          <p v-if="!influence.length" class="small">{{ words.none }}</p>
          <template v-else>
            <p v-if="first" class="small">{{ first }}</p>
            <table class="influence small" data-test="influence">
              <thead class="visually-hidden">
                <tr>
                  <th scope="col">{{ text.study.study }}</th>
                  <th scope="col">{{ words.distance }}</th>
                  <th scope="col">LR+</th>
                </tr>
              </thead>
              <tbody>
                <tr v-for="one in influence" :key="one.result">
                  <th scope="row" dir="auto">{{ one.label }}</th>
                  <td class="bar">
                    <span :style="{ width: `${((one.distance ?? 0) / largest) * 100}%` }"></span>
                  </td>
                  <td>{{ one.distance == null ? '–' : withDecimals(one.distance, 2) }}</td>
                  <td class="muted">
                    LR+ {{ one.summary.lr_positive ? ratioPoint(one.summary.lr_positive) : '–' }}
                  </td>
                </tr>
              </tbody>
            </table>
            <p class="small muted">{{ words.influenceHint }}</p>
          </template>
        </div>
        <div>
          <h3>{{ words.small }}</h3>
          <p class="small">
            {{
              tried.data.value.small_studies?.p != null
                ? words.smallSaid(pValue(tried.data.value.small_studies.p), tried.data.value.small_studies.k)
                : words.untested[tried.data.value.small_studies_untested ?? 'no_spread']
            }}
          </p>
        </div>
      </div>
    </template>
  </section>
</template>

<style scoped>
.block {
  padding-top: 10px;
}
.note {
  margin-left: 8px;
}
.plain-table tbody th {
  font-weight: 400;
}
.plain-table .as th,
.plain-table .as td {
  font-weight: 600;
}
.halves,
.priors {
  margin-top: 16px;
}
.prior {
  display: grid;
  grid-template-columns: 150px 420px;
  align-items: center;
}
@media (max-width: 700px) {
  .prior {
    grid-template-columns: minmax(0, 1fr);
  }
}
.influence {
  width: 100%;
  border-collapse: collapse;
}
.influence th {
  max-width: 220px;
  overflow: hidden;
  text-align: left;
  text-overflow: ellipsis;
  white-space: nowrap;
  font-weight: 400;
}
.influence td {
  padding: 2px 0 2px 8px;
  text-align: right;
  white-space: nowrap;
}
.influence .bar {
  width: 45%;
}
.bar span {
  display: block;
  height: 10px;
  min-width: 1px;
  background: rgb(var(--v-theme-primary));
}
</style>
