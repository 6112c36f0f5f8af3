<script setup lang="ts">
import type { PlanStandingAnswer } from '@/shared/api/types'
import { percentInterval, percentPoint } from '@/shared/format'
import { text } from '@/shared/text'

/** Each condition's probability as the results so far leave it. */
defineProps<{ standing: PlanStandingAnswer; behind: boolean }>()

const words = text.examination.run
const { actions, undecided } = text.plan.questions
</script>

<template>
  <section class="row" :aria-label="words.probabilities" aria-live="polite" data-test="probability-row">
    <p v-for="it in standing.questions" :key="it.condition">
      <span class="condition" dir="auto">{{ it.condition }}</span>
      <b>{{ percentPoint(it.now) }}</b>
      <span v-if="it.steps.some((step) => step.after)" class="small muted">{{
        percentInterval(it.now)
      }}</span>
      <span class="small">{{ it.action ? actions[it.action] : undecided }}</span>
    </p>
    <p v-if="behind" class="small muted">{{ words.asOf }}</p>
  </section>
</template>

<style scoped>
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 28px;
  align-items: baseline;
}
p {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 8px;
  align-items: baseline;
}
b {
  font-size: 1.35rem;
  font-variant-numeric: tabular-nums;
}
.condition {
  font-weight: 600;
}
</style>
