<script setup lang="ts">
import { mdiClose } from '@mdi/js'
import { computed } from 'vue'

import { lr, share } from '@/areas/evidence/resultWords'
import { useAnswers } from '@/shared/api/queries'
import type { TestRow } from '@/shared/api/types'
import { percent, percentInterval, percentPoint, ratioInterval, whole } from '@/shared/format'
import IconButton from '@/shared/layout/IconButton.vue'
import SampleMark from '@/shared/layout/SampleMark.vue'
import WideBlock from '@/shared/layout/WideBlock.vue'
import SheetLink from '@/shared/question/SheetLink.vue'
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'

/** Tests beside each other, figure by figure. */
const props = defineProps<{ rows: TestRow[] }>()
const emit = defineEmits<{ remove: [test: string] }>()

const words = text.likelihood.ladder
const { condition, preTest } = useQuestion()
const asked = (row: TestRow) => row.condition === condition.value?.name
const answers = useAnswers(preTest, () =>
  props.rows.flatMap((row) => (row.summary && asked(row) ? [{ test: row.id, figures: row.figures }] : [])),
)
function after(row: TestRow, result: 'after_positive' | 'after_negative'): string {
  if (!asked(row)) return words.otherQuestion
  const found = answers.data.value?.find((answer) => answer.test === row.id)?.[result]
  return found ? `${percentPoint(found)} (${percentInterval(found)})` : text.unknown
}
const lines = computed(() => {
  const from = words.from(percent(preTest.value))
  const of: [string, (row: TestRow) => string][] = [
    [words.rows.condition, (row) => row.condition],
    [
      words.rows.evidence,
      (row) =>
        row.studies
          ? words.studied(text.catalogue.studies(row.studies), whole(row.patients))
          : text.evidence[row.evidence],
    ],
    [words.rows.sensitivity, (row) => (row.summary ? share(row.summary.sensitivity) : text.unknown)],
    [words.rows.specificity, (row) => (row.summary ? share(row.summary.specificity) : text.unknown)],
    [words.rows.lr_positive, (row) => lr(row.summary?.lr_positive)],
    [words.rows.ahead_positive, (row) => (row.ahead_positive ? ratioInterval(row.ahead_positive) : '–')],
    [words.rows.lr_negative, (row) => lr(row.summary?.lr_negative)],
    [words.rows.ahead_negative, (row) => (row.ahead_negative ? ratioInterval(row.ahead_negative) : '–')],
    [`${words.rows.after_positive}, ${from}`, (row) => after(row, 'after_positive')],
    [`${words.rows.after_negative}, ${from}`, (row) => after(row, 'after_negative')],
    [
      words.rows.irritation,
      (row) => (row.irritation == null ? '–' : (text.filters.irritations[String(row.irritation)] ?? '–')),
    ],
    [words.rows.equipment, (row) => row.equipment.join(', ') || words.nothing],
  ]
  return of.map(([name, say]) => ({ name, said: props.rows.map(say) }))
})
</script>

<template>
  <section data-test="pinned">
    <h2>{{ words.pinned }}</h2>
    <WideBlock :label="words.pinned">
      <table class="plain-table">
        <thead>
          <tr>
            <td></td>
            <th v-for="row in rows" :key="row.id" scope="col">
              <SheetLink dir="auto" :test="row.id">{{ row.name }}</SheetLink>
              <IconButton
                class="no-print"
                :icon="mdiClose"
                :label="words.unpin(row.name)"
                @click="emit('remove', row.id)"
              />
              <SampleMark v-if="row.sample" />
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="line in lines" :key="line.name">
            <th scope="row">{{ line.name }}</th>
            <td v-for="(said, nth) in line.said" :key="nth">{{ said }}</td>
          </tr>
        </tbody>
      </table>
    </WideBlock>
  </section>
</template>

<style scoped>
td,
th {
  vertical-align: top;
}
</style>
