<script setup lang="ts">
import { computed } from 'vue'

import { outcomes } from '@/areas/catalogue/sheetWords'
import type { ExaminationConduct, ExaminationOutcome, OutcomeTest } from '@/shared/api/types'
import { percentPoint, ratioInterval, ratioPoint } from '@/shared/format'
import SheetLink from '@/shared/question/SheetLink.vue'
import { text } from '@/shared/text'
import { attemptNotes, causeWords, leftOut, leftWords, shownWords } from './examinationWords'

/** What each test of a finished examination showed, what that was worth on that day, and what was left out. */
const props = defineProps<{ outcome: ExaminationOutcome; conduct: ExaminationConduct }>()

const words = text.examination.record
const { run } = text.examination
const done = computed(() => props.outcome.tests.filter((it) => it.reading.outcome))
const left = computed(() => leftOut(props.outcome))
const of = (test: string) => props.conduct.tests.find((it) => it.test === test)
const attempts = (it: OutcomeTest) =>
  (of(it.test)?.attempts ?? []).map((attempt, nth) => {
    const cause = it.reading.attempts[nth]?.cause
    const notes = [...attemptNotes(attempt), cause ? causeWords(cause) : ''].filter(Boolean)
    const side = attempt.side ? `${text.examination.attemptSides[attempt.side]}: ` : ''
    return { said: side + shownWords(attempt), notes: notes.join('; ') }
  })
const worth = (it: OutcomeTest) =>
  props.outcome.questions.flatMap((question) => {
    const step = question.steps.find((one) => one.test === it.test)
    if (!step) return []
    const ratio = step.ratio
      ? words.ratio(ratioPoint(step.ratio), ratioInterval(step.ratio), step.studies)
      : words.noRatio
    const after = step.after ? words.after(percentPoint(step.after)) : ''
    const condition = props.outcome.questions.length > 1 ? `${question.condition}: ` : ''
    return [condition + [ratio, after].filter(Boolean).join(', ')]
  })
</script>

<template>
  <section>
    <h2>{{ words.tests }}</h2>
    <p v-if="!done.length" class="muted">{{ words.noTests }}</p>
    <div v-for="it in done" :key="it.test" class="test" data-test="record-test">
      <div>
        <h3>
          <SheetLink :test="it.test">{{ it.name }}</SheetLink>
          <span v-if="it.variant" class="small muted" dir="auto"> · {{ it.variant }}</span>
          <span v-if="it.sheet" class="small muted"> · {{ words.sheet(it.sheet) }}</span>
        </h3>
        <p v-for="(one, nth) in attempts(it)" :key="nth" class="small" dir="auto">
          {{ one.said }} <span v-if="one.notes" class="muted">({{ one.notes }})</span>
        </p>
      </div>
      <div>
        <p>
          <b v-if="it.reading.outcome">{{ outcomes[it.reading.outcome] }}</b>
          <span v-if="it.reading.level" dir="auto"> ({{ it.reading.level }})</span>
        </p>
        <p v-if="it.reading.after_repeats" class="small failure">{{ run.afterRepeats }}</p>
        <p v-if="it.reading.sound_side_too" class="small failure">{{ run.soundToo }}</p>
        <p v-for="line in worth(it)" :key="line" class="small muted" dir="auto">{{ line }}</p>
      </div>
    </div>
    <template v-if="left.length">
      <h2>{{ words.left }}</h2>
      <p v-for="it in left" :key="it.test" class="small" dir="auto" data-test="record-left">
        <b>{{ it.name || text.plan.list.gone }}:</b> {{ leftWords(it, of(it.test)) }}
      </p>
    </template>
  </section>
</template>

<style scoped>
.test {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 4px 24px;
  padding: 8px 0;
  border-bottom: 1px solid var(--line);
}
h2 {
  margin-top: 14px;
}
h3 {
  font-size: 1rem;
}
@media (max-width: 600px) {
  .test {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
