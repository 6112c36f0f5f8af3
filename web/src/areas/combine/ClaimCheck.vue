<script setup lang="ts">
import { mdiClose, mdiPlus } from '@mdi/js'
import { computed, reactive, ref, watch } from 'vue'

import { checkClaims } from '@/shared/api/queries'
import type { BatteryTest, ClaimsAnswer, ClaimsInput, FigureCheck } from '@/shared/api/types'
import { percent, typedPercent } from '@/shared/format'
import IconButton from '@/shared/layout/IconButton.vue'
import { options } from '@/shared/question/useListPage'
import { text } from '@/shared/text'
import { useLiveAnswer } from '@/shared/useLiveAnswer'

/** Whether what somebody claims of these tests read together can be true, whatever the dependence between them. */
const props = defineProps<{ tests: BatteryTest[]; rule: number }>()

const words = text.combine.claim
const rules = text.combine.rule
type Figure = 'sensitivity' | 'specificity'
const FIGURES = ['sensitivity', 'specificity'] as const
interface Claim {
  at_least: number
  sensitivity: string
  specificity: string
}
const n = computed(() => props.tests.length)
const blank = (): Claim => ({ at_least: props.rule, sensitivity: '', specificity: '' })
const filled = ({ sensitivity, specificity }: Claim) => !!sensitivity.trim() || !!specificity.trim()
const claims = reactive<Claim[]>([blank()])
const singles = ref<'catalogue' | 'typed'>('catalogue')
/** What the source of the claim says of each test; the figures of the catalogue until somebody types. */
const typed = reactive<Record<Figure, string>[]>([])
watch(
  () => props.tests.map((test) => test.test).join(),
  () => {
    const said = props.tests.map((test) => ({
      sensitivity: typedPercent(test.sensitivity.estimate, 0),
      specificity: typedPercent(test.specificity.estimate, 0),
    }))
    typed.splice(0, typed.length, ...said)
    for (const claim of claims) claim.at_least = Math.min(claim.at_least, n.value)
  },
  { immediate: true },
)
// What nobody has typed into yet is about the rule that the page shows.
watch(
  () => props.rule,
  (to) => claims.filter((claim) => !filled(claim)).forEach((claim) => (claim.at_least = to)),
)
const ruleItems = computed(() =>
  Array.from({ length: n.value }, (_, at) => ({ title: rules.short(at + 1, n.value), value: at + 1 })),
)
/** Claims by their place in the form: what is not filled in yet is not asked. */
const asked = computed(() => claims.map((_, at) => at).filter((at) => filled(claims[at]!)))
const question = computed<ClaimsInput>(() => ({
  tests: props.tests.map((test, at) =>
    singles.value === 'typed'
      ? { sensitivity: typed[at]?.sensitivity.trim() ?? '', specificity: typed[at]?.specificity.trim() ?? '' }
      : { sensitivity: test.sensitivity, specificity: test.specificity },
  ),
  claims: asked.value.map((at) => ({
    at_least: claims[at]!.at_least,
    sensitivity: claims[at]!.sensitivity.trim() || null,
    specificity: claims[at]!.specificity.trim() || null,
  })),
}))
const { answer, faults } = useLiveAnswer<ClaimsInput, ClaimsAnswer>(
  question,
  (asking) => asking.claims.length > 0,
  checkClaims,
)
const fault = (field: string) => {
  const found = faults.value.find((it) => it.field === field)
  return found ? [`${found.message} ${found.remedy}`] : []
}
const claimFault = (at: number, name: Figure) => fault(`claims.${asked.value.indexOf(at)}.${name}`)
const what = { sensitivity: words.sens, specificity: words.spec }
const titled = { sensitivity: text.combine.sens, specificity: text.combine.spec }
function figureWords(name: Figure, check: FigureCheck | null | undefined): string[] {
  if (!check) return []
  const [low, high] = check.possible.map(percent) as [string, string]
  if (!check.fault) {
    return [words.within(titled[name], low, high), ...(check.only_half_even ? [words.halfEven] : [])]
  }
  const bound =
    check.fault === 'too_high' ? words.tooHigh(titled[name], high) : words.tooLow(titled[name], low)
  const by = check.shift
  return [
    bound,
    by == null
      ? words.never
      : words.shift(what[name], text.combine.figures.points(Math.ceil(1000 * Math.abs(by)) / 10), by > 0),
  ]
}
/** What is said of each claim that was asked. */
const verdicts = computed(() => {
  const found = answer.value
  if (!found) return []
  return found.exactly.claims.map((exact, nth) => {
    const loose = found.loosely.claims[nth]!.possible
    const state = exact.possible ? 'possible' : loose ? 'loosely' : 'impossible'
    const view = found.claims[nth]!
    const [se, sp] = view.independent as [number, number]
    const needs = FIGURES.flatMap((name) => {
      const needed = view[`needed_${name}`]
      if (!needed) return []
      return needed.code === 'otherwise'
        ? [words.needsOther(what[name])]
        : [words.needs(what[name], needed.from.toFixed(2), needed.to.toFixed(2))]
    })
    const why = singles.value === 'typed' ? words.looseRounding : words.looseInterval
    return {
      state,
      said: [
        ...FIGURES.flatMap((name) => figureWords(name, exact[name])),
        ...(state === 'loosely' ? [why] : []),
        words.independent(`${percent(se)} / ${percent(sp)}`),
        ...needs,
      ],
    }
  })
})
const together = computed(() => {
  const found = answer.value?.exactly
  if (!found || found.claims.length < 2) return ''
  if (found.together_possible) return words.together
  // What is impossible by itself was said.
  if (found.claims.some((it) => !it.possible)) return ''
  const [name, slack] =
    found.sensitivity_slack >= found.specificity_slack
      ? [words.sens, found.sensitivity_slack]
      : [words.spec, found.specificity_slack]
  return words.apart(name, text.combine.figures.points(Math.ceil(1000 * slack) / 10))
})
</script>

<template>
  <section class="no-print" data-test="claim-check">
    <h2>{{ words.title }}</h2>
    <p class="small">{{ words.about }}</p>
    <div v-for="(claim, at) in claims" :key="at" class="claim" data-test="claim">
      <v-select v-model="claim.at_least" :items="ruleItems" :label="words.rule" density="compact" />
      <v-text-field
        v-for="name in FIGURES"
        :key="name"
        v-model="claim[name]"
        :label="words[name]"
        :error-messages="claimFault(at, name)"
        inputmode="decimal"
        density="compact"
        :data-test="`claim-${name}`"
      />
      <IconButton
        v-if="claims.length > 1"
        :icon="mdiClose"
        :label="words.remove"
        @click="claims.splice(at, 1)"
      />
      <div
        v-if="verdicts[asked.indexOf(at)]"
        class="verdict"
        :class="verdicts[asked.indexOf(at)]!.state"
        aria-live="polite"
        data-test="claim-verdict"
      >
        <b>{{ words[verdicts[asked.indexOf(at)]!.state as 'possible' | 'loosely' | 'impossible'] }}</b>
        <ul class="small">
          <li v-for="line in verdicts[asked.indexOf(at)]!.said" :key="line">{{ line }}</li>
        </ul>
      </div>
    </div>
    <p v-if="together" aria-live="polite" data-test="claims-together">
      <b>{{ together }}</b>
    </p>
    <div class="buttons">
      <v-btn size="small" :prepend-icon="mdiPlus" data-test="add-claim" @click="claims.push(blank())">
        {{ words.add }}
      </v-btn>
      <v-select
        v-model="singles"
        class="singles"
        :items="options(words.singlesOf)"
        :label="words.singles"
        density="compact"
        hide-details
        data-test="claim-singles"
      />
    </div>
    <div v-if="singles === 'typed'" class="typed">
      <template v-for="(test, at) in tests" :key="test.test">
        <span class="small" dir="auto">{{ words.single(test.name) }}</span>
        <v-text-field
          v-for="name in FIGURES"
          :key="name"
          v-model="typed[at]![name]"
          :label="words[name]"
          :aria-label="`${test.name}: ${words[name]}`"
          :error-messages="fault(`tests.${at}.${name}`)"
          inputmode="decimal"
          density="compact"
          :data-test="`single-${name}`"
        />
      </template>
    </div>
  </section>
</template>

<style scoped>
.claim,
.typed {
  display: grid;
  grid-template-columns: minmax(0, 1.4fr) minmax(0, 1fr) minmax(0, 1fr) 40px;
  gap: 0 10px;
  align-items: start;
  margin-top: 8px;
}
.typed {
  grid-template-columns: minmax(0, 1.4fr) minmax(0, 1fr) minmax(0, 1fr);
}
.typed > span {
  align-self: center;
}
.singles {
  max-width: 320px;
}
.verdict {
  grid-column: 1 / -1;
  margin-bottom: 8px;
  padding: 6px 12px;
  border-left: 4px solid var(--muted);
}
.verdict.impossible {
  border-color: rgb(var(--v-theme-error));
}
.verdict.loosely {
  border-left-style: dashed;
}
ul {
  margin: 2px 0 0;
  padding-left: 1.2em;
}
@media screen and (max-width: 600px) {
  .claim {
    grid-template-columns: 1fr 1fr;
  }
  .claim > :first-child {
    grid-column: 1 / -1;
  }
  .typed {
    grid-template-columns: 1fr 1fr;
  }
  .typed > span {
    grid-column: 1 / -1;
  }
}
</style>
