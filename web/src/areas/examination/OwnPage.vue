<script setup lang="ts">
import { computed, ref, watchEffect } from 'vue'

import { useOwnExaminations } from '@/shared/api/queries'
import type { CorrectedShare, Holds, OwnTest, OwnTestView } from '@/shared/api/types'
import {
  percent,
  percentInterval,
  percentPoint,
  ratioInterval,
  ratioPoint,
  withDecimals,
} from '@/shared/format'
import CautionLine from '@/shared/layout/CautionLine.vue'
import FailureNotice from '@/shared/layout/FailureNotice.vue'
import PartNav from '@/shared/layout/PartNav.vue'
import SampleMark from '@/shared/layout/SampleMark.vue'
import StateNotice from '@/shared/layout/StateNotice.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import SheetLink from '@/shared/question/SheetLink.vue'
import { useQuestion } from '@/shared/question/useQuestion'
import { may } from '@/shared/session/session'
import { text } from '@/shared/text'
import CalibrationFigure from './CalibrationFigure.vue'
import LocalResultDialog from './LocalResultDialog.vue'

/** What one's own finished examinations say of the condition in question, beside the published figures. */
const words = text.examination.own
const { region, condition, carried } = useQuestion()
const asked = useOwnExaminations(
  () => ({ region: region.value, condition: condition.value?.name ?? '' }),
  () => !!condition.value,
)
const own = computed(() => asked.data.value ?? null)
const calibration = computed(() => own.value?.calibration ?? null)
const line = computed(() => calibration.value?.penalised ?? null)
const verdict = (it: Holds | null | undefined) => (it ? words.holds[it] : words.unknown)
const cells = (it: OwnTest) => {
  const { positive_with, positive_without, positive_unverified } = it.counts
  const { negative_with, negative_without, negative_unverified } = it.counts
  return {
    positive: [positive_with, positive_without, positive_unverified],
    negative: [negative_with, negative_without, negative_unverified],
  }
}
/** What can be had of both, each with what stands in for it where it is 0 or 1. */
function shares({ accuracy: it }: OwnTest) {
  return [
    [words.sensitivity, it.sensitivity, it.sensitivity_half_added] as const,
    [words.specificity, it.specificity, it.specificity_half_added] as const,
  ].flatMap(([name, share, half]) => (share ? [[name, share, half ?? null] as const] : []))
}
/** None counted wrongly is no certainty: the interval is that with half a person added to each cell then. */
function interval(share: CorrectedShare, half: CorrectedShare | null) {
  const said = share.interval ?? half?.interval
  return said ? percentInterval(said) : words.noInterval
}
const entering = ref<OwnTestView | null>(null)
const dialog = ref(false)
function enter(test: OwnTestView) {
  entering.value = test
  dialog.value = true
}
/** Somebody of those with a result was followed up. */
function verified({ counts: it }: OwnTest): boolean {
  return it.positive_with + it.positive_without + it.negative_with + it.negative_without > 0
}
const entered = (test: string) => own.value?.local?.results.some((it) => it.test === test) ?? false
watchEffect(() => (document.title = `${words.title} – Pruvex`))
</script>

<template>
  <div>
    <PartNav :label="text.layout.plan" :parts="text.layout.planParts" />
    <h1>{{ words.of(condition?.name ?? '') }} <SampleMark v-if="own?.sample && own.finished" /></h1>
    <p class="muted about">{{ words.about }}</p>
    <WaitLine :active="asked.isFetching.value" />
    <FailureNotice v-if="asked.isError.value && !own" :query="asked" :title="words.failed" />
    <StateNotice
      v-else-if="own && !own.closed"
      :title="words.none"
      :detail="words.noneDetail(own.finished)"
      data-test="own-none"
    >
      <v-btn :to="{ name: 'examinations', query: { ...carried, state: 'awaiting' } }">{{
        words.awaiting
      }}</v-btn>
    </StateNotice>
    <template v-else-if="own && calibration">
      <p data-test="own-closed">
        {{ words.closed(own.closed, own.finished) }}
        <router-link :to="{ name: 'examinations', query: { ...carried, state: 'awaiting' } }">{{
          words.awaiting
        }}</router-link>
      </p>
      <div class="sides">
        <section>
          <h2>{{ words.calibration }}</h2>
          <p class="small muted">{{ words.calibrationAbout }}</p>
          <CalibrationFigure :bins="calibration.bins" />
          <dl>
            <dt>{{ words.meanGiven }}</dt>
            <dd>{{ percent(calibration.mean) }}</dd>
            <dt>{{ words.cameTrue }}</dt>
            <dd>
              {{ percentPoint(calibration.observed) }}
              <span class="small muted">{{ percentInterval(calibration.observed) }}</span>
            </dd>
            <dt>{{ words.brier }}</dt>
            <dd>{{ withDecimals(calibration.brier, 3) }}</dd>
            <dt>{{ words.slope }}</dt>
            <dd v-if="line" data-test="own-slope">
              {{ withDecimals(line.slope, 2) }}
              <span class="small muted">± {{ withDecimals(1.96 * line.slope_se, 2) }}</span>
            </dd>
            <dd v-else class="muted">{{ words.noSlope }}</dd>
          </dl>
          <p class="small muted">{{ words.slopeAbout }}</p>
        </section>
        <section v-if="own.prevalence">
          <h2>{{ words.prevalence }}</h2>
          <p>
            <b class="share">{{ percentPoint(own.prevalence) }}</b>
            <span class="small muted">{{ percentInterval(own.prevalence) }}</span>
          </p>
          <p v-if="own.clinic" data-test="clinic-prevalence">
            {{ words.clinic }} <b class="share">{{ percentPoint(own.clinic.share) }}</b>
            <span class="small muted"
              >{{ percentInterval(own.clinic.share) }}, {{ words.clinicOf(own.clinic.records) }}</span
            >
          </p>
          <p class="small muted">{{ words.prevalenceAbout }}</p>
        </section>
      </div>
      <h2>{{ words.tests }}</h2>
      <p class="small muted about">{{ words.testsAbout }}</p>
      <div v-for="it in own.tests" :key="it.test" class="test" data-test="own-test">
        <h3>
          <SheetLink :test="it.test">{{ it.name || text.plan.list.gone }}</SheetLink>
        </h3>
        <p class="small">
          {{ words.positive(cells(it).positive) }}; {{ words.negative(cells(it).negative) }}
        </p>
        <p class="small">
          <span v-for="[name, share, half] in shares(it)" :key="name" class="share">
            {{ name }} {{ percent(share.estimate) }}
            <span class="muted">{{ interval(share, half) }}</span>
          </span>
        </p>
        <p
          v-for="[sign, lr, expected, holds] in [
            ['LR+', it.lr_positive, it.expected_positive, it.holds_positive] as const,
            ['LR−', it.lr_negative, it.expected_negative, it.holds_negative] as const,
          ]"
          :key="sign"
          class="small"
          data-test="own-ratio"
        >
          {{ sign }} {{ lr ? `${ratioPoint(lr)} (${ratioInterval(lr)})` : words.noRatio }};
          {{ expected ? words.expected(ratioInterval(expected)) : words.expectedNothing }}
          <b>{{ verdict(holds) }}</b>
        </p>
        <p v-if="may('write_studies') && it.name && verified(it)" class="small no-print enter">
          <span v-if="entered(it.test)">{{ text.examination.local.inCatalogue }}</span>
          <v-btn size="small" variant="outlined" data-test="enter-local" @click="enter(it)">{{
            entered(it.test) ? text.examination.local.openAgain : text.examination.local.open
          }}</v-btn>
        </p>
      </div>
      <CautionLine />
      <LocalResultDialog
        v-if="entering"
        v-model:open="dialog"
        :of="entering"
        :local="own.local ?? null"
        :region="region"
        :condition="own.condition"
      />
    </template>
  </div>
</template>

<style scoped>
.about {
  max-width: 80ch;
  margin: 4px 0 12px;
}
.sides {
  display: grid;
  grid-template-columns: minmax(0, 1.4fr) minmax(0, 1fr);
  gap: 16px 40px;
  margin: 12px 0;
}
dl {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 2px 18px;
  margin: 8px 0;
}
.share {
  margin-right: 10px;
}
.enter {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: center;
  margin-top: 4px;
}
.test {
  padding: 8px 0;
  border-bottom: 1px solid var(--line);
}
h3 {
  font-size: 1rem;
}
@media (max-width: 900px) {
  .sides {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
