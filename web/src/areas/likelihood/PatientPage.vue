<script setup lang="ts">
import { computed, watch, watchEffect } from 'vue'
import { useRoute } from 'vue-router'

import { useConditions, usePatient, usePatientBackground } from '@/shared/api/queries'
import CautionLine from '@/shared/layout/CautionLine.vue'
import FailureNotice from '@/shared/layout/FailureNotice.vue'
import PartNav from '@/shared/layout/PartNav.vue'
import SampleMark from '@/shared/layout/SampleMark.vue'
import StateNotice from '@/shared/layout/StateNotice.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { useAddress } from '@/shared/question/useAddress'
import { text } from '@/shared/text'
import ActionThresholds from './ActionThresholds.vue'
import DependencePanel from './DependencePanel.vue'
import GuardNotes from './GuardNotes.vue'
import PatientTests from './PatientTests.vue'
import PatientWalk from './PatientWalk.vue'
import SpectrumPanel from './SpectrumPanel.vue'
import TestWorth from './TestWorth.vue'
import { usePatientState } from './usePatientState'

/** From before testing over what was found to what is done, for one patient. */
const words = text.likelihood.patient
const route = useRoute()
const address = useAddress()
const state = usePatientState()
const patient = usePatient(state.input)
// Where no condition is asked about nothing is answered, nor does the answer of before stay.
const answer = computed(() => (state.input.value.condition ? (patient.data.value ?? null) : null))
const conditions = useConditions()
const none = computed(() =>
  answer.value ? !answer.value.tests.length : conditions.isSuccess.value && !state.input.value.condition,
)
const studied = computed(() => answer.value?.tests.filter((test) => test.information != null) ?? [])
/** The test that is looked at; the most informative one until somebody chooses. */
const looked = computed(() => {
  const known = answer.value?.tests.find((test) => test.test === state.look.value)
  const most = studied.value.reduce<(typeof studied.value)[number] | null>(
    (best, test) => (best && best.information! >= test.information! ? best : test),
    null,
  )
  return known ?? most
})
// Whoever opens the page looks at some test already; its figures are asked for with it.
watch(
  () => (looked.value?.test === state.look.value ? null : looked.value?.test),
  (test) => test && route.name === 'patient' && void state.setLook(test),
  { immediate: true },
)
const found = computed(() => state.findings.value.length > 0)
const isFound = (test: string) => state.findings.value.some((it) => it.test === test)
const thought = computed(() => (looked.value && !isFound(looked.value.test) ? looked.value : null))
const background = usePatientBackground(state.input, () => found.value || !!state.look.value)
const here = computed(() => ({
  share: answer.value?.pre_test.estimate ?? 0,
  after: found.value
    ? [answer.value?.chain.end ?? null]
    : [looked.value?.after_positive ?? null, looked.value?.after_negative ?? null],
}))
const sample = computed(() =>
  (answer.value?.tests ?? []).some((test) => test.sample && (isFound(test.test) || test === looked.value)),
)
const lead = computed(() => {
  const last = answer.value?.crossings.findLast((crossing) => crossing)
  if (!answer.value?.before) return ''
  if (!last) return words.thresholds.stands[answer.value.before]
  const said = last.crosses
    ? words.thresholds.lead(words.zones[last.to], last.whole_interval)
    : words.thresholds.stay
  const { dependent_zone: otherwise } = answer.value
  return otherwise && otherwise !== last.to
    ? `${said} ${words.thresholds.otherwise(words.zones[otherwise])}`
    : said
})
watchEffect(() => (document.title = `${words.title} – Pruvex`))
// Results of tests for another condition answer another question. By the address: what it stands for is known only by and by.
watch(
  () => [address.one('region'), address.one('condition')].join('/'),
  () => route.name === 'patient' && void state.leave(),
)
</script>

<template>
  <div>
    <PartNav :label="text.layout.likelihood" :parts="text.layout.likelihoodParts" />
    <h1>{{ words.title }} <SampleMark v-if="sample" /></h1>
    <p class="muted about no-print">{{ words.about }}</p>
    <WaitLine :active="patient.isFetching.value" />
    <FailureNotice v-if="patient.isError.value" :query="patient" :title="words.failed">
      <v-btn v-if="found" @click="state.clear">{{ words.clear }}</v-btn>
    </FailureNotice>
    <StateNotice v-else-if="none" :title="words.none" :detail="words.noneDetail" data-test="patient-none" />
    <template v-else-if="answer">
      <PatientWalk :answer="answer" :thought="thought" @remove="state.remove" />
      <p v-if="lead" class="lead" aria-live="polite" data-test="lead">{{ lead }}</p>
      <ActionThresholds />
      <v-btn v-if="found" class="no-print clear" size="small" data-test="clear-found" @click="state.clear">
        {{ words.clear }}
      </v-btn>
      <div class="halves-of-page">
        <div>
          <PatientTests
            :tests="answer.tests"
            :findings="state.findings.value"
            :looked="looked?.test ?? null"
            @found="state.setFound"
            @look="state.setLook"
          />
          <p v-if="!studied.length" class="small">{{ words.noneStudied }}</p>
          <DependencePanel
            :answer="answer"
            :correlation="state.correlation.value"
            @correlation="state.setCorrelation"
          />
          <SpectrumPanel
            v-if="background.data.value"
            :background="background.data.value"
            :here="here"
            :found="found"
          />
        </div>
        <div>
          <GuardNotes
            v-if="background.data.value"
            :background="background.data.value"
            :tests="answer.tests"
            :pre-test="answer.pre_test.estimate"
          />
          <TestWorth v-if="looked" :test="looked" :answer="answer" />
        </div>
      </div>
      <CautionLine />
    </template>
  </div>
</template>

<style scoped>
.about {
  max-width: 72ch;
  margin: 6px 0 12px;
}
.lead {
  margin-top: 10px;
  font-weight: 600;
}
.clear {
  margin-bottom: 12px;
}
.halves-of-page {
  display: grid;
  grid-template-columns: minmax(0, 1.25fr) minmax(0, 1fr);
  gap: 24px 40px;
  align-items: start;
}
.halves-of-page > div {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 24px;
}
@media (max-width: 900px) {
  .halves-of-page {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
