<script setup lang="ts">
import type { OrderWeights } from '@/shared/api/types'
import { text } from '@/shared/text'
import { USUAL_WEIGHTS } from './planDraft'

/** How much each wish for the order counts; teachers differ. */
const weights = defineModel<OrderWeights>({ required: true })

const words = text.plan.cost
type Wish = keyof typeof USUAL_WEIGHTS
const WISHES = Object.keys(USUAL_WEIGHTS) as Wish[]
const times = (wish: Wish) => weights.value[wish] / USUAL_WEIGHTS[wish]
const set = (wish: Wish, to: number) =>
  (weights.value = { ...weights.value, [wish]: to * USUAL_WEIGHTS[wish] })
</script>

<template>
  <details class="no-print" data-test="wishes">
    <summary class="small">{{ words.wishes }}</summary>
    <label v-for="wish in WISHES" :key="wish" class="small">
      {{ words.wish[wish] }}
      <span class="amount muted">{{ words.amount(times(wish)) }}</span>
      <input
        type="range"
        min="0"
        max="4"
        step="0.5"
        :value="times(wish)"
        :aria-valuetext="words.amount(times(wish))"
        :data-test="`wish-${wish}`"
        @input="set(wish, Number(($event.target as HTMLInputElement).value))"
      />
    </label>
    <v-btn size="small" variant="text" @click="weights = { ...USUAL_WEIGHTS }">{{ words.usual }}</v-btn>
  </details>
</template>

<style scoped>
label {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 0 10px;
  margin-top: 8px;
}
input {
  grid-column: 1 / -1;
  width: 100%;
  accent-color: rgb(var(--v-theme-primary));
}
@media screen and (max-width: 600px) {
  input {
    height: 44px;
  }
}
</style>
