<script setup lang="ts">
import { computed, type Ref } from 'vue'

import type { PlanAction, PlanStandingAnswer } from '@/shared/api/types'
import { percentInterval, percentPoint } from '@/shared/format'
import { text } from '@/shared/text'

/** Where an examination stands after some results: each condition, what is done at its probability, and whether enough is known. */
const props = defineProps<{
  standing: PlanStandingAnswer
  state: {
    /** Conditions that must not be missed and were asked about otherwise. */
    asked: Readonly<Ref<string[]>>
    setAsked: (condition: string, on: boolean) => unknown
    /** Results that are only tried can be cleared. */
    clear?: () => unknown
  }
  /** Name of a test by its place in the plan. */
  name: (place: number) => string
  /** A question about it is open that must be answered first. */
  locked: (place: number) => boolean
}>()

const words = text.plan.standing
const { actions } = text.plan.questions
const action = (it: PlanAction | null | undefined) => (it ? words.action(actions[it]) : words.undecided)
const next = computed(() => props.standing.next)
</script>

<template>
  <section class="standing" data-test="plan-standing">
    <h2>{{ words.title }}</h2>
    <p v-if="state.clear" class="small muted">{{ words.about }}</p>
    <p class="end" role="status" data-test="standing-end">
      <b>{{ words.ends[standing.end] }}</b>
      {{ next == null ? '' : locked(next) ? words.nextLocked(name(next)) : words.next(name(next)) }}
    </p>
    <div class="questions">
      <div v-for="it in standing.questions" :key="it.condition" data-test="standing-question">
        <h3 dir="auto">{{ it.condition }}</h3>
        <p class="now">
          <b>{{ percentPoint(it.now) }}</b>
          <span v-if="it.steps.some((step) => step.after)" class="small muted interval">{{
            percentInterval(it.now)
          }}</span>
        </p>
        <p>
          {{ action(it.action) }} <template v-if="!it.whole_interval">{{ words.notWhole }}</template>
        </p>
        <p class="small">{{ words.states[it.state] }}</p>
      </div>
    </div>
    <fieldset v-if="standing.must_not_miss.length" data-test="must-not-miss">
      <legend>{{ words.mustNotMiss }}</legend>
      <template v-for="it in standing.must_not_miss" :key="it.condition">
        <label>
          <input
            type="checkbox"
            :checked="it.asked"
            :disabled="it.asked && !state.asked.value.includes(it.condition)"
            @change="state.setAsked(it.condition, ($event.target as HTMLInputElement).checked)"
          />
          <span dir="auto">{{
            it.asked && !state.asked.value.includes(it.condition)
              ? words.askedByTest(it.condition)
              : words.asked(it.condition)
          }}</span>
          <span v-if="it.in_plan && !it.asked" class="small muted">{{ words.inPlan }}</span>
        </label>
      </template>
    </fieldset>
    <v-btn
      v-if="state.clear"
      class="clear no-print"
      size="small"
      variant="text"
      data-test="standing-clear"
      @click="state.clear"
    >
      {{ words.clear }}
    </v-btn>
  </section>
</template>

<style scoped>
.standing {
  display: grid;
  gap: 10px;
  margin: 14px 0;
  padding: 12px 16px;
  border: 1px solid var(--line);
  border-radius: 8px;
}
.questions {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(240px, 1fr));
  gap: 12px 28px;
}
.now b {
  font-size: 1.5rem;
  font-variant-numeric: tabular-nums;
}
.interval {
  margin-left: 8px;
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
label {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 8px;
  align-items: center;
  min-height: 32px;
}
input {
  width: 18px;
  height: 18px;
  accent-color: rgb(var(--v-theme-primary));
}
.clear {
  justify-self: start;
}
@media screen and (max-width: 600px) {
  label {
    min-height: 44px;
  }
}
</style>
