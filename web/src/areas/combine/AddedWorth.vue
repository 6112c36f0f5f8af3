<script setup lang="ts">
import { computed } from 'vue'

import { lr, share } from '@/areas/evidence/resultWords'
import type { BatteryAnswer } from '@/shared/api/types'
import WideBlock from '@/shared/layout/WideBlock.vue'
import { text } from '@/shared/text'

/** The rule with each test left out in turn. */
const props = defineProps<{ answer: BatteryAnswer }>()

const words = text.combine.added
const columns = Object.values(text.combine.columns)
const rows = computed(() => {
  const whole = props.answer.dependent.rules[props.answer.at_least - 1]!
  return props.answer.without.map(({ test, rule }) => {
    const points = (name: 'sensitivity' | 'specificity') =>
      words.points(Math.round(100 * (whole[name].estimate - rule[name].estimate)))
    return {
      name: props.answer.tests[test]!.name,
      adds: words.change(points('sensitivity'), points('specificity')),
      // The interval below its figure: side by side they do not fit.
      said: [
        share(rule.sensitivity),
        share(rule.specificity),
        lr(rule.lr_positive),
        lr(rule.lr_negative),
      ].map((figure) => figure.replace(' (', '\n(')),
    }
  })
})
</script>

<template>
  <section v-if="rows.length" data-test="added-worth">
    <h2>{{ words.title }}</h2>
    <p class="small">{{ words.about }}</p>
    <WideBlock :label="words.title">
      <table class="plain-table stacked small">
        <thead>
          <tr>
            <th scope="col">{{ words.test }}</th>
            <th v-for="title in columns" :key="title" scope="col">{{ title }}</th>
            <th scope="col">{{ words.adds }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in rows" :key="row.name">
            <th scope="row" dir="auto">{{ row.name }}</th>
            <td v-for="(figure, at) in row.said" :key="at" class="figure" :data-label="columns[at]">
              {{ figure }}
            </td>
            <td :data-label="words.adds">{{ row.adds }}</td>
          </tr>
        </tbody>
      </table>
    </WideBlock>
  </section>
</template>

<style scoped>
@media print, (min-width: 601px) {
  .figure {
    white-space: pre;
  }
}
</style>
