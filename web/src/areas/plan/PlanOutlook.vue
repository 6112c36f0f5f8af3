<script setup lang="ts">
import type { PlanOrderAnswer } from '@/shared/api/types'
import { thresholdWords } from '@/shared/actionWords'
import { text } from '@/shared/text'
import type { PlanQuestion } from './planDraft'

/** What an examination decides, and what becomes of patients who are examined in its order. */
defineProps<{ title: string; questions: PlanQuestion[]; answer: PlanOrderAnswer | null }>()

const words = text.plan.questions
</script>

<template>
  <section data-test="outlook">
    <h2>{{ title }}</h2>
    <div v-for="(question, nth) in questions" :key="nth" class="question">
      <h3 dir="auto">{{ question.condition }}</h3>
      <p class="small muted">
        {{ thresholdWords(question) }}
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
              words.enough(
                answer.questions[nth]!.sequence!.enough_negative ?? null,
                answer.questions[nth]!.sequence!.enough_positive ?? null,
                words.actions[question.above ?? 'treat'],
              )
            }}
          </p>
          <p>{{ words.ends }}</p>
          <dl data-test="ends">
            <template v-for="end in answer.questions[nth]!.ends" :key="end.action ?? ''">
              <template v-if="end.action || end.share > 0">
                <dt>{{ words.end(end.share) }}</dt>
                <dd>{{ end.action ? words.actions[end.action] : words.undecided }}</dd>
              </template>
            </template>
          </dl>
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
dl {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  gap: 0 10px;
  margin: 2px 0 0;
}
dt {
  min-width: 2.2em;
  text-align: right;
  font-weight: 600;
  font-variant-numeric: tabular-nums;
}
dd {
  margin: 0;
}
</style>
