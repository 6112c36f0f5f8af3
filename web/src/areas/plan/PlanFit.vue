<script setup lang="ts">
import { computed } from 'vue'

import { positions } from '@/areas/catalogue/sheetWords'
import type { PlanFitAnswer, ScreeningAnswer } from '@/shared/api/types'
import { text } from '@/shared/text'
import { typedNumber } from '@/shared/typedNumber'
import { deadline } from './planWords'
import type { usePlanFit } from './usePlanFit'

/** What is asked once before the examination, and what is known of the patient and at hand. */
const props = defineProps<{
  fit: PlanFitAnswer
  state: ReturnType<typeof usePlanFit>
  /** Optional tests of the plan. */
  optional: { value: string; title: string }[]
}>()

const words = text.plan.fit
const ANSWERS = Object.keys(words.answers) as ScreeningAnswer[]
const { answers, input, answer, setList, setNumber, clear } = props.state
const unsafe = (key: string) => {
  const said = answers.value.get(key)
  const asked = props.fit.questions.find((it) => it.key === key)
  return !!said && !!asked?.unsafe_answers.includes(said)
}
/** How many tests that are to be done a question decides about. */
const decided = (places: number[]) => {
  const asked = new Set(props.fit.tests.filter((it) => !it.left_out).map((it) => it.test))
  return places.filter((place) => asked.has(props.fit.screened[place] ?? '')).length
}
const open = computed(() => props.fit.questions.filter((it) => !answers.value.has(it.key)).length)
const IRRITABLE = words.irritable.map((title, value) => ({ title, value }))
const minutes = (typed: string) => {
  const number = typedNumber(typed)
  setNumber('minutes', number !== null && number >= 0 && number <= 600 ? number : null)
}
</script>

<template>
  <section class="fit" data-test="plan-fit">
    <h2>{{ words.title }}</h2>
    <p class="small muted">{{ words.about }}</p>
    <div v-if="fit.stop" class="stop" role="alert" data-test="fit-stop">
      <h3>{{ words.stop }}</h3>
      <p dir="auto">{{ fit.stop.caution }}</p>
      <p dir="auto">
        <b>{{ fit.stop.instead }}</b>
        {{ deadline(fit.stop.within_hours) }}
      </p>
    </div>
    <p v-else-if="!fit.anything" class="failure" role="status" data-test="fit-nothing">
      {{ open ? words.nothingYet(open) : words.nothing }}
    </p>
    <fieldset v-if="fit.questions.length">
      <legend>
        {{ words.questions }} <span v-if="open" class="small muted">{{ words.open(open) }}</span>
      </legend>
      <div
        v-for="it in fit.questions"
        :key="it.key"
        class="question"
        role="group"
        :aria-label="it.question"
        data-test="fit-question"
      >
        <p>
          <span dir="auto">{{ it.question }}</span>
          <span v-if="it.help" class="small muted help" dir="auto">{{ it.help }}</span>
        </p>
        <span class="answers">
          <label v-for="option in ANSWERS" :key="option">
            <input
              type="radio"
              :name="`fit-${it.key}`"
              :value="option"
              :checked="answers.get(it.key) === option"
              @click="answer(it.key, option)"
            />
            {{ words.answers[option] }}
          </label>
        </span>
        <p v-if="unsafe(it.key)" class="small unsafe" data-test="fit-unsafe">
          {{ words.unsafe(decided(it.tests)) }} <span dir="auto">{{ it.about.join('; ') }}</span>
        </p>
      </div>
    </fieldset>
    <div class="known">
      <v-select
        :model-value="input.irritable ?? null"
        :items="IRRITABLE"
        :label="words.irritability"
        clearable
        density="compact"
        hide-details
        data-test="fit-irritable"
        @update:model-value="setNumber('irritable', $event)"
      />
      <v-select
        :model-value="input.cannot_take"
        :items="fit.positions.map((value) => ({ value, title: positions[value] }))"
        :label="words.cannot"
        multiple
        density="compact"
        hide-details
        data-test="fit-cannot"
        @update:model-value="setList('cannot', $event)"
      />
      <v-select
        v-if="fit.equipment.length"
        :model-value="input.lacking"
        :items="fit.equipment"
        :label="words.lacking"
        multiple
        density="compact"
        hide-details
        data-test="fit-lacking"
        @update:model-value="setList('lacking', $event)"
      />
      <v-select
        v-if="fit.situations.length"
        :model-value="input.situations"
        :items="fit.situations.map(({ key, situation }) => ({ value: key, title: situation }))"
        :label="words.situations"
        multiple
        density="compact"
        hide-details
        data-test="fit-situations"
        @update:model-value="setList('holds', $event)"
      />
      <v-select
        v-if="optional.length"
        :model-value="input.wished"
        :items="optional"
        :label="words.wished"
        multiple
        density="compact"
        hide-details
        data-test="fit-wished"
        @update:model-value="setList('wish', $event)"
      />
      <v-text-field
        :model-value="input.minutes ?? ''"
        :label="words.minutes"
        inputmode="decimal"
        density="compact"
        hide-details
        data-test="fit-minutes"
        @update:model-value="minutes(String($event))"
      />
    </div>
    <v-btn class="clear no-print" size="small" variant="text" data-test="fit-clear" @click="clear">
      {{ words.clear }}
    </v-btn>
  </section>
</template>

<style scoped>
.fit {
  display: grid;
  gap: 10px;
  margin: 14px 0;
  padding: 12px 16px;
  border: 1px solid var(--line);
  border-radius: 8px;
}
.stop {
  padding: 10px 14px;
  border: 2px solid rgb(var(--v-theme-error));
  border-radius: 6px;
}
fieldset {
  min-width: 0;
  padding: 0;
  border: 0;
}
legend {
  padding: 0;
  font-weight: 600;
}
.question {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 2px 20px;
  align-items: center;
  padding: 6px 0;
  border-bottom: 1px solid var(--line);
}
.help {
  margin-left: 8px;
}
.unsafe {
  grid-column: 1 / -1;
  color: rgb(var(--v-theme-error));
}
.answers {
  display: flex;
  gap: 16px;
}
.answers label {
  display: flex;
  align-items: center;
  gap: 6px;
}
.answers input {
  width: 18px;
  height: 18px;
  accent-color: rgb(var(--v-theme-primary));
}
.known {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(200px, 1fr));
  gap: 10px;
}
.clear {
  justify-self: start;
}
@media screen and (max-width: 600px) {
  .question {
    grid-template-columns: minmax(0, 1fr);
  }
  .answers label {
    min-height: 44px;
  }
}
</style>
