<script setup lang="ts">
import { computed } from 'vue'

import { limitWords } from '@/areas/pooling/words'
import BenefitCurve from '@/figures/BenefitCurve.vue'
import CrowdPicture from '@/figures/CrowdPicture.vue'
import type { PatientAnswer, PatientTest } from '@/shared/api/types'
import { withDecimals, percent } from '@/shared/format'
import SampleMark from '@/shared/layout/SampleMark.vue'
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'

/** One test for this patient: 1 000 people like them, when it can change what is done, and what acting on it is worth. */
const props = defineProps<{ test: PatientTest; answer: PatientAnswer }>()

const words = text.likelihood.patient
const { thresholds } = useQuestion()
const now = computed(() => props.answer.focus_at)
const said = (ranges: number[][]) =>
  ranges.map(([from, to]) => words.useful.range(percent(from!), percent(to!))).join(words.useful.or)
const inside = computed(() => props.test.useful.some(([from, to]) => from! < now.value && now.value < to!))
/** Where the test's line lies above both others. */
const best = computed(() => {
  const worth = props.answer.benefit.filter((it) => it.by_test > it.treat_all && it.by_test > 0)
  const [first, last] = [worth[0], worth.at(-1)]
  return first && last
    ? words.benefit.best(percent(first.threshold), percent(last.threshold))
    : words.benefit.neverBest
})
const table = computed(() =>
  props.answer.benefit.filter((point) => Math.round(100 * point.threshold) % 10 === 0),
)
const hundred = (value: number) => withDecimals(100 * value, 1)
</script>

<template>
  <section data-test="test-worth">
    <h2>
      <span dir="auto">{{ test.name }}</span> <SampleMark v-if="test.sample" />
    </h2>
    <template v-if="answer.frequencies">
      <p class="small">{{ words.crowd(test.name, percent(now)) }}</p>
      <CrowdPicture :frequencies="answer.frequencies" />
      <p v-for="limit in limitWords(test.warnings)" :key="limit" class="small limit">{{ limit }}</p>
    </template>
    <template v-if="thresholds && (test.lr_positive || test.lr_negative)">
      <h3>{{ words.useful.title }}</h3>
      <p class="small" data-test="useful">
        <b>{{ test.useful.length ? words.useful.ranges(said(test.useful)) : words.useful.never }}</b>
        {{ test.useful.length ? words.useful.here(percent(now), inside) : '' }}
        <span class="muted">{{
          test.useful_surely.length ? words.useful.surely(said(test.useful_surely)) : words.useful.surelyNever
        }}</span>
      </p>
    </template>
    <template v-if="answer.benefit.length">
      <h3>{{ words.benefit.title }}</h3>
      <BenefitCurve :curve="answer.benefit" :thresholds="thresholds" :said="words.benefit.said(test.name)" />
      <p class="small keys">
        <span class="line test" aria-hidden="true"></span>{{ words.benefit.byTest }}
        <template v-if="answer.benefit.some((point) => point.interval)"
          ><span class="line band" aria-hidden="true"></span>{{ words.benefit.band }}</template
        >
        <span class="line all" aria-hidden="true"></span>{{ words.benefit.treatAll }}
        <span class="line nobody" aria-hidden="true"></span>{{ words.benefit.nobody }}
      </p>
      <p class="small">
        <b>{{ best }}</b>
      </p>
      <details class="small">
        <summary>{{ text.pool.roc.table }}</summary>
        <table class="plain-table" data-test="benefit-table">
          <thead>
            <tr>
              <th scope="col">{{ words.benefit.threshold }}</th>
              <th scope="col">{{ words.benefit.byTest }}</th>
              <th scope="col">{{ words.benefit.treatAll }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="point in table" :key="point.threshold">
              <th scope="row">{{ percent(point.threshold) }}</th>
              <td>
                {{ hundred(point.by_test)
                }}<span v-if="point.interval" class="muted">
                  ({{ hundred(point.interval[0]!) }}–{{ hundred(point.interval[1]!) }})</span
                >
              </td>
              <td>{{ hundred(point.treat_all) }}</td>
            </tr>
          </tbody>
        </table>
        <p class="muted">{{ words.benefit.y }}. {{ words.benefit.source }}</p>
      </details>
    </template>
  </section>
</template>

<style scoped>
h3 {
  margin: 16px 0 4px;
}
.limit {
  margin-top: 4px;
  font-weight: 600;
}
.keys {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 2px 6px;
  margin: 4px 0;
}
.line.band {
  height: 12px;
  border: 0;
  background: rgba(var(--v-theme-primary), 0.16);
}
.line {
  display: inline-block;
  width: 26px;
  margin-left: 8px;
  border-top: 3px solid rgb(var(--v-theme-primary));
}
.line:first-child {
  margin-left: 0;
}
.line.all {
  border-top: 2px dashed var(--muted);
}
.line.nobody {
  border-top: 1px solid currentColor;
}
</style>
