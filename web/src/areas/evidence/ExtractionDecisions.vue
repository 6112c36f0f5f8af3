<script setup lang="ts">
import { computed } from 'vue'

import type { DoubleExtractionView } from '@/shared/api/types'
import { moment } from '@/shared/format'
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'
import { fieldLabel, valueWords } from './extractionWords'

/** How it was settled: what each of the two said, what stands, and why. */
const props = defineProps<{ view: DoubleExtractionView }>()

const words = text.extraction
const { carried } = useQuestion()
const settled = computed(() => props.view.settled)
const others = computed(() => props.view.compared?.others ?? [])
const name = (index: number) => {
  const reader = props.view.readers[index]
  return reader?.you ? words.you : (reader?.name ?? words.file)
}
</script>

<template>
  <section v-if="settled" data-test="decisions">
    <h2>{{ words.settledHow }}</h2>
    <p class="small muted">{{ words.settledBy(settled.by ?? words.file, moment(settled.at)) }}</p>
    <p v-if="!settled.decisions.length">{{ words.noDecision }}</p>
    <table v-else class="plain-table">
      <thead>
        <tr class="small">
          <th scope="col">{{ words.field }}</th>
          <th scope="col">{{ words.first }} ({{ name(0) }})</th>
          <th scope="col">{{ words.second }} ({{ name(1) }})</th>
          <th scope="col">{{ words.stands }}</th>
          <th scope="col">{{ words.reason }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="decision in settled.decisions" :key="decision.field">
          <th scope="row">{{ fieldLabel(decision.field) }}</th>
          <td v-for="said in ['first', 'second', 'settled'] as const" :key="said" dir="auto">
            {{ valueWords(decision.field, decision[said], others) }}
          </td>
          <td dir="auto">{{ decision.reason }}</td>
        </tr>
      </tbody>
    </table>
    <v-btn
      class="no-print"
      :to="{ name: 'sheet', params: { id: view.test.id }, query: carried }"
      data-test="to-sheet"
      >{{ words.sheet }}</v-btn
    >
  </section>
</template>

<style scoped>
p {
  margin: 6px 0 12px;
}
</style>
