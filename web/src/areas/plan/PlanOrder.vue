<script setup lang="ts">
import { computed } from 'vue'

import type { PlanOrderAnswer } from '@/shared/api/types'
import { text } from '@/shared/text'
import { costWords, isProposed } from './planWords'

/** What the present order costs, in words, beside the proposed one. */
const props = defineProps<{ answer: PlanOrderAnswer; name: (test: string) => string }>()

const words = text.plan.cost
/** Of the tests that were asked about: the plan may have changed since. */
const named = (place: number) => props.name(props.answer.tests[place]?.test ?? '')
const proposed = computed(() => isProposed(props.answer))
const costs = computed(() => costWords(props.answer))
/** How far a better order may be away, where not every order was tried. */
const gap = computed(() => {
  const { exact, cost, bound } = props.answer.proposed
  return exact ? null : (cost.total - bound).toFixed(1)
})
</script>

<template>
  <section data-test="order-cost">
    <h2>{{ words.title }}</h2>
    <p>{{ words.summary(answer.own.cost.changes, answer.minutes) }}</p>
    <template v-if="proposed">
      <p v-if="gap === null" class="small muted">{{ words.proposed }}</p>
      <p v-else class="small muted">{{ words.good }} {{ words.difference(gap) }}.</p>
    </template>
    <template v-else>
      <p
        v-for="[first = 0, second = 0] in answer.own.broken"
        :key="`${first} ${second}`"
        class="failure small"
      >
        {{ words.broken(named(first), named(second)) }}
      </p>
      <template v-if="costs.length">
        <p class="small">{{ words.instead }}</p>
        <ul class="small" data-test="costs">
          <li v-for="said in costs" :key="said">{{ said }}</li>
        </ul>
      </template>
    </template>
    <slot :proposed="proposed" />
    <details class="small no-print" data-test="bits">
      <summary>{{ words.bits }}</summary>
      <p class="muted">{{ words.bitsAbout }}</p>
      <ul>
        <li v-for="test in answer.tests" :key="test.test" dir="auto">
          {{ words.bitsOf(name(test.test), test.bits.toFixed(2)) }}
        </li>
      </ul>
    </details>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: 6px;
}
ul {
  padding-left: 20px;
}
</style>
