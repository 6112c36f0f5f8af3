<script setup lang="ts">
import type { PlanFitAnswer, ScreeningAnswer } from '@/shared/api/types'
import { text } from '@/shared/text'

/** Screening questions with large answers. */
defineProps<{ questions: PlanFitAnswer['questions']; answers: Record<string, ScreeningAnswer> }>()
const emit = defineEmits<{ say: [key: string, answer: ScreeningAnswer] }>()

const words = text.plan.fit.answers
const ANSWERS = Object.keys(words) as ScreeningAnswer[]
</script>

<template>
  <div
    v-for="it in questions"
    :key="it.key"
    class="question"
    role="group"
    :aria-label="it.question"
    data-test="examine-question"
  >
    <p>
      <span dir="auto">{{ it.question }}</span>
      <span v-if="it.help" class="small muted help" dir="auto">{{ it.help }}</span>
    </p>
    <span class="answers">
      <v-btn
        v-for="option in ANSWERS"
        :key="option"
        :variant="answers[it.key] === option ? 'flat' : 'outlined'"
        :color="
          answers[it.key] !== option ? undefined : it.unsafe_answers.includes(option) ? 'error' : 'primary'
        "
        :aria-pressed="answers[it.key] === option"
        size="large"
        :data-test="`answer-${option}`"
        @click="emit('say', it.key, option)"
        >{{ words[option] }}</v-btn
      >
    </span>
  </div>
</template>

<style scoped>
.question {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 6px 20px;
  align-items: center;
  padding: 10px 0;
  border-bottom: 1px solid var(--line);
}
.help {
  display: block;
}
.answers {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
@media (max-width: 700px) {
  .question {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
