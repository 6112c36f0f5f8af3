<script setup lang="ts">
import { computed } from 'vue'

import type { AgreementAnswer, FigureEstimate } from '@/shared/api/types'
import { coefficient, coefficientInterval, percent, percentInterval, quantity } from '@/shared/format'
import { text } from '@/shared/text'

/** Everything that an agreement result's figures say, as a list of names and values. */
const props = defineProps<{ answer: AgreementAnswer; unit?: string }>()

const words = text.agreement
const both = (value?: FigureEstimate | null) =>
  value ? `${coefficient(value.estimate)} (${coefficientInterval(value)})` : words.notEstimable
const measured = (value: number) => [quantity(value), props.unit].filter(Boolean).join(' ')
const limit = (value: FigureEstimate) =>
  `${measured(value.estimate)} (${quantity(value.lower)} ${words.to} ${quantity(value.upper)})`

const lines = computed<[string, string][]>(() => {
  const { detail, categories } = props.answer
  const category = (index: number) => categories[index] ?? words.category(index + 1)
  if (detail.kind === 'two_raters') {
    const share = detail.percent_agreement
    return [
      [words.percent, share ? `${percent(share.estimate)} (${percentInterval(share)})` : words.notEstimable],
      [words.measures.kappa, both(detail.kappa?.value)],
      ...(detail.kappa_linear
        ? ([
            [words.measures.kappa_linear, both(detail.kappa_linear.value)],
            [words.measures.kappa_quadratic, both(detail.kappa_quadratic?.value)],
          ] as [string, string][])
        : []),
      [words.ac1, both(detail.ac1?.value)],
      [words.pabak, coefficient(detail.pabak)],
      ...(detail.max_kappa == null
        ? []
        : [[words.maxKappa, coefficient(detail.max_kappa)] as [string, string]]),
      ...(detail.prevalence_index == null
        ? []
        : ([
            [words.prevalence, coefficient(detail.prevalence_index)],
            [words.bias, coefficient(detail.bias_index ?? 0)],
          ] as [string, string][])),
      ...detail.specific_agreement.map(
        (value, index) =>
          [words.specific(category(index)), value == null ? words.unused : percent(value)] as [
            string,
            string,
          ],
      ),
    ]
  }
  if (detail.kind === 'several_raters') {
    return [
      [words.measures.fleiss_kappa, both(detail.kappa?.value)],
      [words.ac1, both(detail.ac1.value)],
      ...detail.category_kappa.map(
        (value, index) =>
          [words.ownKappa(category(index)), value == null ? words.unused : coefficient(value)] as [
            string,
            string,
          ],
      ),
    ]
  }
  if (detail.kind === 'measured') {
    const { repeatability, bland_altman: limits } = detail
    return [
      ...detail.icc.map(({ form, value }) => [words.forms[form], both(value)] as [string, string]),
      [words.sem, measured(repeatability.sem_agreement)],
      [words.mdc, measured(repeatability.mdc_agreement)],
      ...(limits
        ? ([
            [words.meanDifference, limit(limits.bias)],
            [words.lowerLimit, limit(limits.lower_limit_exact)],
            [words.upperLimit, limit(limits.upper_limit_exact)],
          ] as [string, string][])
        : []),
    ]
  }
  return []
})
</script>

<template>
  <div class="figures small">
    <dl v-if="lines.length">
      <template v-for="[label, value] in lines" :key="label">
        <dt>{{ label }}</dt>
        <dd>{{ value }}</dd>
      </template>
    </dl>
    <p v-else class="muted">{{ words.printedOnly }}</p>
  </div>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: minmax(50%, 1fr) minmax(0, auto);
  gap: 2px 18px;
}
dt {
  color: var(--muted);
  overflow-wrap: anywhere;
}
dd {
  text-align: right;
}
</style>
