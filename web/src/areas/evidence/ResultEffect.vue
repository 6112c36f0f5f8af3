<script setup lang="ts">
import { computed } from 'vue'

import { askEffect } from '@/shared/api/queries'
import type { Pooled, ResultBody, Worth } from '@/shared/api/types'
import { percentPoint, ratioPoint } from '@/shared/format'
import { text } from '@/shared/text'
import { useLiveAnswer } from '@/shared/useLiveAnswer'

/** What saving would change in the test's own answer, told while the result is typed. */
const props = defineProps<{ testId: string; correcting?: string; body: ResultBody }>()

const words = text.result.effect
const sayable = ({ result, study }: ResultBody) =>
  (result.tp != null || result.tn != null) && Boolean(props.correcting || study?.reference)
/** As long as nothing is typed nothing changes. */
const begun = JSON.stringify(props.body)
const { answer } = useLiveAnswer(
  computed(() => props.body),
  (body) => JSON.stringify(body) !== begun && sayable(body),
  (body, signal) => askEffect(props.testId, props.correcting, body, signal),
)
function figures(pooled?: Pooled | null): string[] {
  if (!pooled) return ['–', '–', '–', '–', '0']
  const share = (value?: Pooled['sensitivity']) => (value ? percentPoint(value) : text.unknown)
  const ratio = (value?: Pooled['lr_positive']) => (value ? ratioPoint(value) : text.unknown)
  return [
    share(pooled.sensitivity),
    share(pooled.specificity),
    ratio(pooled.lr_positive),
    ratio(pooled.lr_negative),
    String(pooled.k),
  ]
}
function grade(worth?: Worth | null): string {
  if (!worth) return text.unknown
  const said = words.grade[worth.shift]
  return worth.at_least === worth.shift ? said : words.atLeast(said, words.grade[worth.at_least])
}
/** What a result is worth by the bands of its ratio: numbers may change and this may not. */
const grades = computed(() =>
  (['positive', 'negative'] as const).flatMap((result) => {
    const worth = answer.value?.[result]
    if (!worth?.before && !worth?.after) return []
    const [from, to] = [grade(worth.before), grade(worth.after)]
    const name = words.grades[result]
    return [{ result, said: from === to ? words.sameGrade(name, to) : words.otherGrade(name, from, to) }]
  }),
)
const changes = computed(() => {
  if (!answer.value) return null
  const [before, after] = [figures(answer.value.before.pooled), figures(answer.value.after.pooled)]
  return words.figures.flatMap((name, index) => {
    const [from = '', to = ''] = [before[index], after[index]]
    return from === to ? [] : [{ name, from, to }]
  })
})
</script>

<template>
  <p v-if="changes" class="small effect" aria-live="polite" data-test="effect">
    <b>{{ words.title }}</b>
    <span v-if="!changes.length">{{ words.nothing }}</span>
    <span v-for="{ name, from, to } in changes" :key="name">{{ words.change(name, from, to) }}</span>
    <template v-if="changes.length">
      <span v-for="{ result, said } in grades" :key="result">{{ said }}</span>
    </template>
    <span v-for="frozen in answer?.stale" :key="frozen.id">{{ words.stale(frozen.title) }}</span>
  </p>
</template>

<style scoped>
.effect {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  padding-top: 10px;
  margin-top: 14px;
  border-top: 1px solid var(--line);
}
</style>
