<script setup lang="ts">
import { computed, watch, watchEffect } from 'vue'
import { useRoute } from 'vue-router'

import CountStaircase from '@/figures/CountStaircase.vue'
import { useBattery, useConditions, useRegions, useTests } from '@/shared/api/queries'
import { percent, percentPoint } from '@/shared/format'
import CautionLine from '@/shared/layout/CautionLine.vue'
import FailureNotice from '@/shared/layout/FailureNotice.vue'
import PartNav from '@/shared/layout/PartNav.vue'
import SampleMark from '@/shared/layout/SampleMark.vue'
import StateNotice from '@/shared/layout/StateNotice.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { useAddress } from '@/shared/question/useAddress'
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'
import AddedWorth from './AddedWorth.vue'
import BatteryDependence from './BatteryDependence.vue'
import BatteryTests from './BatteryTests.vue'
import ClaimCheck from './ClaimCheck.vue'
import ComparedBatteries from './ComparedBatteries.vue'
import CountTable from './CountTable.vue'
import RuleFigures from './RuleFigures.vue'
import { useBatteryState } from './useBatteryState'

/** Several tests for one condition read together: what is chosen, what it is worth, what somebody claims of it. */
const words = text.combine
const route = useRoute()
const address = useAddress()
const { region, condition, preTest, thresholds } = useQuestion()
const state = useBatteryState()
const regions = useRegions()
const conditions = useConditions()
const tests = useTests(
  computed(() => ({
    region: region.value,
    ...(condition.value ? { condition: condition.value.name } : {}),
    search: '',
    kind: 'special',
    sort: 'name' as const,
    reverse: false,
    limit: 500,
  })),
)
const rows = computed(() => tests.data.value?.rows ?? [])
/** Whether the list is there, and has all tests that the address names. */
const known = computed(
  () => tests.isSuccess.value && state.tests.value.every((id) => rows.value.some((row) => row.id === id)),
)
const enough = computed(() => !!condition.value && known.value && state.tests.value.length >= 2)
const battery = useBattery(state.input, enough)
const answer = computed(() => (enough.value ? (battery.data.value ?? null) : null))
const kept = useBattery(
  computed(() => state.againstInput.value ?? state.input.value),
  computed(() => !!condition.value && !!state.againstInput.value),
)
const none = computed(
  () => (tests.isSuccess.value && !rows.value.length) || (conditions.isSuccess.value && !condition.value),
)
const n = computed(() => state.tests.value.length)
const rules = computed(() =>
  Array.from({ length: n.value }, (_, at) => at + 1).map((k) => ({
    k,
    title: k === 1 ? words.rule.any : k === n.value ? words.rule.all : words.rule.atLeast(k),
  })),
)
const afters = (view: NonNullable<typeof answer.value>['dependent']) =>
  view.counts.map((count) => count.after ?? null)
const said = computed(() =>
  words.stairs.said(
    (answer.value?.dependent.counts ?? [])
      .flatMap((count) => (count.after ? [words.stairs.step(count.positive, percentPoint(count.after))] : []))
      .join('; '),
  ),
)
const degree = computed(() => {
  const { kind, with: both, without } = state.dependence.value
  if (kind === 'covariance') return words.figures.covariance
  const of = text.likelihood.patient.dependence.degree
  return words.figures.dependent(both === without ? of(both) : `${of(both)} / ${of(without)}`)
})
// A link may name a test that is gone meanwhile: nobody could take it out of the list. Before regions and conditions are known the list may be that of
// another question, and nothing is gone.
const asked = computed(() => regions.isSuccess.value && conditions.isSuccess.value)
watch(
  () => asked.value && tests.isSuccess.value && !tests.isFetching.value && !known.value,
  (gone) => gone && route.name === 'battery' && void state.keepOnly(rows.value.map((row) => row.id)),
  { immediate: true },
)
watchEffect(() => (document.title = `${words.title} – Pruvex`))
// Tests for another condition are another battery. By the address: what it stands for is known only by and by.
watch(
  () => [address.one('region'), address.one('condition')].join('/'),
  () => route.name === 'battery' && void state.leave(),
)
</script>

<template>
  <div>
    <PartNav :label="text.layout.plan" :parts="text.layout.planParts" />
    <h1>{{ words.title }} <SampleMark v-if="answer?.sample" /></h1>
    <p class="muted about no-print">{{ words.about }}</p>
    <WaitLine :active="battery.isFetching.value || tests.isFetching.value" />
    <FailureNotice v-if="tests.isError.value" :query="tests" :title="words.failed" />
    <StateNotice v-else-if="none" :title="words.none" :detail="words.noneDetail" data-test="battery-none" />
    <div v-else-if="tests.data.value" class="sides">
      <div>
        <BatteryTests
          :rows="rows"
          :chosen="state.tests.value"
          :answered="answer?.tests ?? []"
          :filtered="state.filtered"
          @toggle="state.toggle"
          @filter="state.filter"
        />
        <fieldset v-if="n >= 2" class="rules" data-test="rules">
          <legend>{{ words.rule.title }}</legend>
          <label v-for="rule in rules" :key="rule.k">
            <input
              type="radio"
              name="rule"
              :value="rule.k"
              :checked="rule.k === state.rule.value"
              @change="state.setRule(rule.k)"
            />
            {{ rule.title }}
          </label>
        </fieldset>
        <BatteryDependence
          v-if="answer"
          :key="answer.tests.length"
          :answer="answer"
          :dependence="state.dependence.value"
          @change="state.setDependence"
        />
      </div>
      <div>
        <FailureNotice v-if="battery.isError.value" :query="battery" :title="words.failed" />
        <StateNotice
          v-else-if="!enough"
          :title="words.choose"
          :detail="words.chooseDetail"
          data-test="choose-tests"
        />
        <template v-else-if="answer">
          <section>
            <h2>{{ words.stairs.title }}</h2>
            <CountStaircase
              :steps="afters(answer.dependent)"
              :independent="afters(answer.independent)"
              :pre-test="preTest"
              :at-least="answer.at_least"
              :thresholds="thresholds"
              :said="said"
            />
            <p class="small muted">{{ words.stairs.legend(percent(preTest)) }}</p>
            <details data-test="counts">
              <summary>{{ words.stairs.table }}</summary>
              <CountTable :counts="answer.dependent.counts" />
            </details>
          </section>
          <RuleFigures :answer="answer" :degree="degree" />
          <v-btn class="no-print keep" size="small" data-test="keep-battery" @click="state.keep">
            {{ words.compare.keep }}
          </v-btn>
          <FailureNotice
            v-if="state.against.value && kept.isError.value"
            :query="kept"
            :title="words.compare.failed"
          >
            <v-btn @click="state.dropKept">{{ words.compare.drop }}</v-btn>
          </FailureNotice>
          <ComparedBatteries
            v-else-if="state.against.value && kept.data.value"
            :answer="answer"
            :kept="kept.data.value"
            @swap="state.swap"
            @drop="state.dropKept"
          />
          <AddedWorth :answer="answer" />
          <ClaimCheck :tests="answer.tests" :rule="answer.at_least" />
        </template>
      </div>
    </div>
    <CautionLine />
  </div>
</template>

<style scoped>
.about {
  max-width: 80ch;
  margin: 6px 0 12px;
}
.sides {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.7fr);
  gap: 24px 40px;
  align-items: start;
  margin-bottom: 20px;
}
.sides > div {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 22px;
}
.rules {
  display: grid;
  gap: 4px;
  padding: 0;
  border: 0;
}
.rules legend {
  margin-bottom: 4px;
  font-weight: 650;
}
.rules label {
  display: flex;
  gap: 8px;
  align-items: center;
}
.rules input {
  width: 18px;
  height: 18px;
  accent-color: rgb(var(--v-theme-primary));
}
.keep {
  justify-self: start;
}
@media (max-width: 900px) {
  .sides {
    grid-template-columns: minmax(0, 1fr);
  }
}
@media screen and (max-width: 600px) {
  .rules label {
    min-height: 44px;
  }
}
</style>
