<script setup lang="ts">
import { computed, reactive, ref, watch, watchEffect } from 'vue'

import { askStudySizes, useTests } from '@/shared/api/queries'
import type { StudyPlan, StudySizes } from '@/shared/api/types'
import { typedPercent, whole } from '@/shared/format'
import CautionLine from '@/shared/layout/CautionLine.vue'
import PartNav from '@/shared/layout/PartNav.vue'
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'
import { typedNumber } from '@/shared/typedNumber'
import { useLiveAnswer } from '@/shared/useLiveAnswer'

/** How many people a study needs so that its intervals are as narrow as is wanted. */
const words = text.likelihood.study
const { region, condition, preTest } = useQuestion()

const accuracy = reactive({
  sensitivity: '80',
  specificity: '80',
  prevalence: '',
  unusable: '0',
  width: '15',
})
/** The question's own probability, until somebody types another. */
const fromQuestion = ref('')
watch(
  preTest,
  (now) => {
    if (accuracy.prevalence !== fromQuestion.value) return
    fromQuestion.value = accuracy.prevalence = typedPercent(now)
  },
  { immediate: true },
)
const agreement = reactive({ kappa: '0.6', positive: '50', width: '0.3' })
const SHARES = [
  { name: 'sensitivity', label: words.sensitivity, hint: '' },
  { name: 'specificity', label: words.specificity, hint: '' },
  { name: 'prevalence', label: words.prevalence, hint: words.prevalenceHint },
  { name: 'unusable', label: words.unusable, hint: words.unusableHint },
  { name: 'width', label: words.width, hint: words.widthHint },
] as const

const number = (typed: string) => typedNumber(typed) ?? NaN
const inside = (name: keyof typeof accuracy) => {
  const value = number(accuracy[name])
  const ends = name === 'sensitivity' || name === 'specificity' || name === 'unusable'
  return ends
    ? value >= 0 && value <= 100 && !(name === 'unusable' && value === 100)
    : value > 0 && value < 100
}
const faults = computed<Record<string, string>>(() => ({
  ...Object.fromEntries(SHARES.map(({ name }) => [name, inside(name) ? '' : words.share])),
  kappa: number(agreement.kappa) >= 0 && number(agreement.kappa) < 1 ? '' : words.kappaLimit,
  positive: number(agreement.positive) > 0 && number(agreement.positive) < 100 ? '' : words.share,
  kappaWidth: number(agreement.width) > 0 && number(agreement.width) < 2 ? '' : words.widthLimit,
}))
const sound = (names: string[]) => names.every((name) => !faults.value[name])
const share = (typed: string) => number(typed) / 100
const plan = computed<StudyPlan>(() => ({
  accuracy: sound(SHARES.map(({ name }) => name))
    ? {
        sensitivity: share(accuracy.sensitivity),
        specificity: share(accuracy.specificity),
        prevalence: share(accuracy.prevalence),
        unusable: share(accuracy.unusable),
        width: share(accuracy.width),
      }
    : null,
  agreement: sound(['kappa', 'positive', 'kappaWidth'])
    ? {
        kappa: number(agreement.kappa),
        positive: share(agreement.positive),
        width: number(agreement.width),
      }
    : null,
}))
const { answer } = useLiveAnswer(plan, (asked) => !!(asked.accuracy || asked.agreement), askStudySizes)
type AccuracySize = StudySizes['accuracy'][number]
const wanted = computed<AccuracySize | null>(() => answer.value?.accuracy[0] ?? null)
const wantedAgreement = computed(() => answer.value?.agreement[0] ?? null)
const byWidth = <T extends { width: number }>(of: T[] | undefined) =>
  [...(of ?? [])].sort((a, b) => a.width - b.width)
const perCent = (value: number) => Number(typedPercent(value))

const list = useTests(() => ({
  region: region.value,
  // A test for several conditions is offered with its figures for the one that is asked about.
  asked: condition.value?.name,
  search: '',
  sort: 'name' as const,
  reverse: false,
}))
const tests = computed(() =>
  (list.data.value?.rows ?? []).filter((row) => row.summary?.sensitivity && row.summary.specificity),
)
const from = ref<string | null>(null)
watch(from, (id) => {
  const summary = tests.value.find((row) => row.id === id)?.summary
  if (!summary?.sensitivity || !summary.specificity) return
  accuracy.sensitivity = typedPercent(summary.sensitivity.estimate, 0)
  accuracy.specificity = typedPercent(summary.specificity.estimate, 0)
})
watchEffect(() => (document.title = `${words.title} – Pruvex`))
</script>

<template>
  <div>
    <PartNav :label="text.layout.likelihood" :parts="text.layout.likelihoodParts" />
    <h1>{{ words.title }}</h1>
    <p class="muted about">{{ words.about }}</p>
    <div class="halves">
      <section data-test="plan-accuracy">
        <h2>{{ words.accuracy }}</h2>
        <v-select
          v-model="from"
          :items="tests.map((test) => ({ value: test.id, title: test.name }))"
          :label="words.from"
          clearable
          data-test="plan-from"
        />
        <div class="fields">
          <v-text-field
            v-for="field in SHARES"
            :key="field.name"
            v-model="accuracy[field.name]"
            inputmode="decimal"
            suffix="%"
            :label="field.label"
            :hint="field.hint"
            :persistent-hint="!!field.hint"
            :error-messages="faults[field.name]"
            :data-test="`plan-${field.name}`"
          />
        </div>
        <div v-if="wanted && plan.accuracy" aria-live="polite" data-test="plan-answer">
          <template v-if="wanted.size">
            <p class="large">{{ words.answer(whole(wanted.size.examined)) }}</p>
            <p class="small">
              {{ words.parts(whole(wanted.size.with_condition), whole(wanted.size.without_condition)) }}
            </p>
          </template>
          <p v-else class="failure">{{ words.impossible }}</p>
          <table class="plain-table small">
            <caption>
              {{
                words.otherWidths
              }}
            </caption>
            <thead>
              <tr>
                <th v-for="column in words.columns" :key="column" scope="col">{{ column }}</th>
              </tr>
            </thead>
            <tbody>
              <tr
                v-for="line in byWidth(answer?.accuracy)"
                :key="line.width"
                :class="{ wanted: line.width === wanted.width }"
              >
                <th scope="row">{{ perCent(line.width) }} %</th>
                <template v-if="line.size">
                  <td>{{ whole(line.size.with_condition) }}</td>
                  <td>{{ whole(line.size.without_condition) }}</td>
                  <td>{{ whole(line.size.examined) }}</td>
                </template>
                <td v-else colspan="3">–</td>
              </tr>
            </tbody>
          </table>
        </div>
        <p v-else-if="!plan.accuracy" class="small">{{ words.unusableValues }}</p>
      </section>
      <section data-test="plan-agreement">
        <h2>{{ words.agreement }}</h2>
        <div class="fields">
          <v-text-field
            v-model="agreement.kappa"
            inputmode="decimal"
            :label="words.kappa"
            :error-messages="faults.kappa"
            data-test="plan-kappa"
          />
          <v-text-field
            v-model="agreement.positive"
            inputmode="decimal"
            suffix="%"
            :label="words.positive"
            :error-messages="faults.positive"
          />
          <v-text-field
            v-model="agreement.width"
            inputmode="decimal"
            :label="words.kappaWidth"
            :hint="words.kappaWidthHint"
            persistent-hint
            :error-messages="faults.kappaWidth"
          />
        </div>
        <div v-if="wantedAgreement && plan.agreement" aria-live="polite" data-test="plan-agreement-answer">
          <p v-if="wantedAgreement.size" class="large">{{ words.subjects(whole(wantedAgreement.size)) }}</p>
          <p v-else class="failure">{{ words.impossible }}</p>
          <table class="plain-table small">
            <caption>
              {{
                words.otherWidths
              }}
            </caption>
            <thead>
              <tr>
                <th v-for="column in words.agreementColumns" :key="column" scope="col">{{ column }}</th>
              </tr>
            </thead>
            <tbody>
              <tr
                v-for="line in byWidth(answer?.agreement)"
                :key="line.width"
                :class="{ wanted: line.width === wantedAgreement.width }"
              >
                <th scope="row">{{ line.width }}</th>
                <td>{{ line.size ? whole(line.size) : '–' }}</td>
              </tr>
            </tbody>
          </table>
        </div>
        <p v-else-if="!plan.agreement" class="small">{{ words.unusableValues }}</p>
      </section>
    </div>
    <p class="small muted method">{{ words.method }}</p>
    <CautionLine />
  </div>
</template>

<style scoped>
.about {
  margin: 6px 0 0;
}
.fields {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(170px, 1fr));
  gap: 10px 12px;
  align-items: start;
}
.large {
  font-size: 1.5rem;
  font-weight: 700;
}
caption {
  padding: 8px 0 2px;
  color: var(--muted);
  text-align: left;
}
.wanted th,
.wanted td {
  font-weight: 700;
}
.method {
  max-width: 90ch;
  margin: 20px 0;
}
</style>
