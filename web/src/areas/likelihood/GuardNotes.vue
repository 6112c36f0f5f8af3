<script setup lang="ts">
import { computed } from 'vue'

import IncidentalNote from '@/areas/evidence/IncidentalNote.vue'
import { limitSentence } from '@/areas/pooling/words'
import type { PatientBackground, PatientTest } from '@/shared/api/types'
import { percent } from '@/shared/format'
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'

/** What limits the figures, test by test: from the studies' data, never a fixed text. */
const props = defineProps<{ background: PatientBackground; tests: PatientTest[]; preTest: number }>()

const words = text.likelihood.patient.guards
const { condition } = useQuestion()
const spectrum = computed(() => {
  const found = props.background.other_spectrum
  return found ? words.spectrum(percent(props.preTest), percent(found[0]!), percent(found[1]!)) : ''
})
const parts = computed(() =>
  props.background.limits.map(({ test, limits }) => ({
    test,
    name: props.tests.find((one) => one.test === test)?.name ?? '',
    said: limits.map(limitSentence),
  })),
)
</script>

<template>
  <section class="guards" data-test="guards">
    <h2>{{ words.title }}</h2>
    <p v-if="spectrum" class="small">
      <b>{{ spectrum }}</b>
    </p>
    <IncidentalNote
      v-if="condition && background.prevalence"
      :prevalence="background.prevalence"
      :condition="condition"
    />
    <div v-for="part in parts" :key="part.test">
      <h3 dir="auto">{{ part.name }}</h3>
      <ul class="small">
        <li v-for="line in part.said" :key="line">{{ line }}</li>
        <li v-if="!part.said.length" class="muted">{{ words.none }}</li>
      </ul>
    </div>
  </section>
</template>

<style scoped>
.guards {
  min-width: 0;
  padding-left: 12px;
  border-left: 3px solid rgb(var(--v-theme-warning));
}
h3 {
  margin-top: 8px;
}
ul {
  padding-left: 1.2em;
}
</style>
