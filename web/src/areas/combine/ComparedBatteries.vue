<script setup lang="ts">
import { computed } from 'vue'

import { lr, share } from '@/areas/evidence/resultWords'
import type { BatteryAnswer } from '@/shared/api/types'
import { percentInterval, percentPoint } from '@/shared/format'
import WideBlock from '@/shared/layout/WideBlock.vue'
import { text } from '@/shared/text'

/** Two batteries side by side, with the same dependence and the same pre-test probability. */
const props = defineProps<{ answer: BatteryAnswer; kept: BatteryAnswer }>()
const emit = defineEmits<{ swap: []; drop: [] }>()

const words = text.combine.compare
const columns = computed(() => [props.answer, props.kept])
/** Studies of the very rule outrank the calculation, here too. */
const rule = (it: BatteryAnswer) => it.published.summary ?? it.dependent.rules[it.at_least - 1]!
const from = (it: BatteryAnswer) =>
  it.published.summary ? text.combine.figures.published(it.published.studies) : words.calculated
const after = (it: BatteryAnswer, count: number) => {
  const found = it.dependent.counts[count]?.after
  return found ? `${percentPoint(found)} (${percentInterval(found)})` : text.unknown
}
const lines = computed(() => {
  const of: [string, (it: BatteryAnswer) => string][] = [
    [words.rows.tests, (it) => it.tests.map((test) => test.name).join(', ')],
    [words.rows.rule, (it) => text.combine.rule.short(it.at_least, it.tests.length)],
    [words.from, from],
    [words.rows.sensitivity, (it) => share(rule(it).sensitivity)],
    [words.rows.specificity, (it) => share(rule(it).specificity)],
    [words.rows.lr_positive, (it) => lr(rule(it).lr_positive)],
    [words.rows.lr_negative, (it) => lr(rule(it).lr_negative)],
    [words.rows.all_positive, (it) => after(it, it.tests.length)],
    [words.rows.all_negative, (it) => after(it, 0)],
  ]
  return of.map(([name, say]) => ({ name, said: columns.value.map(say) }))
})
</script>

<template>
  <section data-test="compared-batteries">
    <h2>{{ words.title }}</h2>
    <WideBlock :label="words.title">
      <table class="plain-table">
        <thead>
          <tr>
            <td></td>
            <th scope="col">{{ words.this }}</th>
            <th scope="col">{{ words.kept }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="line in lines" :key="line.name">
            <th scope="row">{{ line.name }}</th>
            <td v-for="(said, at) in line.said" :key="at">{{ said }}</td>
          </tr>
        </tbody>
      </table>
    </WideBlock>
    <div class="buttons no-print">
      <v-btn size="small" data-test="swap-batteries" @click="emit('swap')">{{ words.swap }}</v-btn>
      <v-btn size="small" data-test="drop-battery" @click="emit('drop')">{{ words.drop }}</v-btn>
    </div>
  </section>
</template>
