<script setup lang="ts">
import type { PlanOrderAnswer } from '@/shared/api/types'
import { percent } from '@/shared/format'
import { text } from '@/shared/text'
import type { PlanQuestion } from './planDraft'

/** What an examination decides, and what becomes of patients who are examined in its order. */
defineProps<{ title: string; questions: PlanQuestion[]; answer: PlanOrderAnswer | null }>()

const words = text.plan.questions
const share = (value: number | null | undefined) => (value == null ? '–' : percent(value))
</script>

<template>
  <section data-test="outlook">
    <h2>{{ title }}</h2>
    <div v-for="(question, nth) in questions" :key="nth" class="question">
      <h3 dir="auto">{{ question.condition }}</h3>
      <p class="small muted">
        {{
          words.thresholds(
            share(question.pre_test),
            share(question.reassure_below),
            share(question.treat_above),
          )
        }}
      </p>
      <template v-if="answer?.questions[nth]">
        <template v-if="answer.questions[nth]?.sequence">
          <p>
            {{
              words.outlook(
                answer.questions[nth]!.tests,
                answer.questions[nth]!.sequence!.expected_tests.toFixed(1),
              )
            }}
            {{
              words.ends(
                answer.questions[nth]!.sequence!.reassured,
                answer.questions[nth]!.sequence!.treated,
                answer.questions[nth]!.sequence!.undecided,
              )
            }}
          </p>
        </template>
        <p v-else class="muted">{{ answer.questions[nth]!.tests ? words.tooMany : words.noTest }}</p>
      </template>
    </div>
    <p v-if="answer" class="small muted">{{ words.independent }}</p>
    <p v-if="questions.length > 1" class="small muted">{{ words.several }}</p>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: 10px;
}
</style>
