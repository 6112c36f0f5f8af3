<script setup lang="ts">
import { computed } from 'vue'

import type { Heterogeneity, Pooled } from '@/shared/api/types'
import { withDecimals, percent } from '@/shared/format'
import { text } from '@/shared/text'
import { pValue } from './words'

/** How much studies differ beyond chance. */
const props = defineProps<{ of: Heterogeneity; pooled: Pooled }>()

const words = text.pool.spread
const signed = (value: number) => withDecimals(value, 2)
const figure = (value: number | null | undefined, show: (value: number) => string) =>
  value == null ? '–' : show(value)
const q = (of: Heterogeneity['q_sensitivity']) =>
  of ? words.qSaid(withDecimals(of.q, 1), of.df, pValue(of.p)) : '–'
const rows = computed(() => {
  const { of, pooled } = props
  return [
    { title: words.tau2, se: figure(pooled.tau2.sens, signed), sp: figure(pooled.tau2.spec, signed) },
    { title: words.i2, se: figure(of.i2_sensitivity, percent), sp: figure(of.i2_specificity, percent) },
    { title: words.q, se: q(of.q_sensitivity), sp: q(of.q_specificity) },
  ]
})
</script>

<template>
  <section data-test="spread">
    <h2>{{ words.title }}</h2>
    <table class="plain-table">
      <thead>
        <tr class="small">
          <th v-for="(column, index) in words.columns" :key="index" scope="col">{{ column }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in rows" :key="row.title">
          <th scope="row">{{ row.title }}</th>
          <td>{{ row.se }}</td>
          <td>{{ row.sp }}</td>
        </tr>
      </tbody>
    </table>
    <p class="small">
      <template v-if="pooled.rho != null">{{ words.rho(signed(pooled.rho)) }}{{ ' ' }}</template>
      <template v-if="of.i2_bivariate != null">{{ words.both(percent(of.i2_bivariate)) }}{{ ' ' }}</template>
      <template v-if="of.threshold">
        {{ words.threshold(signed(of.threshold.rho), of.threshold.p == null ? '' : pValue(of.threshold.p)) }}
      </template>
      <span class="muted">{{ ` ${words.source}` }}</span>
    </p>
  </section>
</template>
