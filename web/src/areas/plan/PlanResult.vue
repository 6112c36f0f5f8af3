<script setup lang="ts">
import { computed } from 'vue'

import type { PlanStandingAnswer } from '@/shared/api/types'
import { percentPoint } from '@/shared/format'
import { text } from '@/shared/text'
import { atLevel, type PlanResult, RESULTS } from './usePlanResults'

/** The result of one test of a plan, and what it did or would still do. */
const props = defineProps<{
  name: string
  place: number
  result: PlanResult | undefined
  /** Levels of its finding for which studies tell what they are worth. */
  levels: string[]
  standing: PlanStandingAnswer | null
}>()
const emit = defineEmits<{ say: [result: PlanResult] }>()

const words = text.plan.standing
const { actions, undecided } = text.plan.questions
const choices = computed<{ value: PlanResult; title: string }[]>(() => [
  ...RESULTS.map((value) => ({ value, title: words.results[value] })),
  ...props.levels.map((name) => ({ value: atLevel(name), title: name })),
])
const lines = computed(() =>
  (props.standing?.questions ?? []).flatMap((it) => {
    const step = it.steps.find((one) => one.test === props.place)
    if (step?.after)
      return words.afterResult(
        it.condition,
        percentPoint(step.after),
        step.action ? actions[step.action] : undecided,
      )
    const open = it.open.find((one) => one.test === props.place)
    if (!open || it.state !== 'open') return []
    const minutes = props.standing?.minutes[props.place] ?? null
    const condition = props.standing!.questions.length > 1 ? it.condition : ''
    return words.open(condition, minutes, open.information.toFixed(2), open.changes)
  }),
)
</script>

<template>
  <div class="result" :class="{ next: standing?.next === place }" data-test="plan-result">
    <span class="no-print choices" role="group" :aria-label="words.result(name)">
      <label v-for="it in choices" :key="it.value">
        <input
          type="radio"
          :name="`result-${place}`"
          :value="it.value"
          :checked="result === it.value"
          :data-test="`result-${it.value}`"
          @click="emit('say', it.value)"
        />
        <span dir="auto">{{ it.title }}</span>
      </label>
    </span>
    <p v-for="line in lines" :key="line" class="small" dir="auto" data-test="result-said">{{ line }}</p>
  </div>
</template>

<style scoped>
.result {
  display: grid;
  gap: 2px;
  margin-top: 4px;
}
.next {
  padding-left: 8px;
  border-left: 3px solid rgb(var(--v-theme-primary));
}
.choices {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
}
label {
  display: flex;
  align-items: center;
  gap: 6px;
  min-height: 32px;
}
input {
  width: 18px;
  height: 18px;
  accent-color: rgb(var(--v-theme-primary));
}
@media screen and (max-width: 600px) {
  label {
    min-height: 44px;
  }
}
</style>
