<script setup lang="ts">
import { computed } from 'vue'

import type { AffectedSide } from '@/shared/api/types'
import { text } from '@/shared/text'
import ExamineQuestions from './ExamineQuestions.vue'
import type { Running } from './useExamination'

/** What is asked before the first hand is laid on. */
const props = defineProps<{ running: Running }>()

const words = text.examination.run
const { view, entries } = props.running
const stands = computed(() => view.value?.stands ?? null)
const SIDES = Object.keys(text.examination.affectedSides) as AffectedSide[]
</script>

<template>
  <section v-if="view && entries" data-test="examine-before">
    <h2>{{ words.beforeTitle }}</h2>
    <p class="muted">{{ words.beforeAbout }}</p>
    <p class="affected">
      <span :id="`affected-${view.id}`">{{ text.examination.affected }}</span>
      <v-btn-toggle
        :model-value="entries.conduct.affected_side ?? undefined"
        :aria-labelledby="`affected-${view.id}`"
        color="primary"
        divided
        @update:model-value="running.change(({ conduct }) => (conduct.affected_side = $event ?? null))"
      >
        <v-btn v-for="it in SIDES" :key="it" :value="it" :data-test="`affected-${it}`">{{
          text.examination.affectedSides[it]
        }}</v-btn>
      </v-btn-toggle>
    </p>
    <ExamineQuestions
      v-if="stands?.fit.questions.length"
      :questions="stands.fit.questions"
      :answers="entries.patient.answers"
      @say="running.answer"
    />
    <p v-else class="muted">{{ words.noQuestions }}</p>
  </section>
</template>

<style scoped>
.affected {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 16px;
  align-items: center;
  margin: 10px 0;
}
</style>
