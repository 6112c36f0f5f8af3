<script setup lang="ts">
import { computed } from 'vue'

import { label } from '@/areas/evidence/resultWords'
import RocPlot, { type RocStudy } from '@/figures/RocPlot.vue'
import type { PoolAnswer, TestRow } from '@/shared/api/types'
import { percent, whole } from '@/shared/format'
import { text } from '@/shared/text'
import { facetWords } from './facetWords'
import { people, type Row } from './poolRows'

/** The pool in ROC space, with what its marks mean and the figures behind it. */
const props = defineProps<{ answer: PoolAnswer; rows: Row[]; tests: TestRow[]; marked: string }>()
const emit = defineEmits<{ mark: [id: string] }>()

const words = text.pool.roc
const part = computed(() =>
  props.rows.filter(({ row }) =>
    props.answer.compared ? row.level != null && row.out?.code !== 'switched_off' : !row.out,
  ),
)
const studies = computed<RocStudy[]>(() =>
  part.value.flatMap(({ result, row }) => {
    const { sensitivity, specificity } = result.accuracy
    if (!sensitivity || !specificity) return []
    const { diseased, others } = people(result)
    const point = { sensitivity: sensitivity.estimate, specificity: specificity.estimate }
    const level = row.level ?? null
    return [{ id: result.id, label: label(result), point, diseased, people: diseased + others, level }]
  }),
)
const levels = computed(() => {
  const { compared } = props.answer
  return (compared?.levels ?? []).map(({ pooled }, level) =>
    pooled?.sensitivity && pooled.specificity
      ? {
          level,
          point: { sensitivity: pooled.sensitivity.estimate, specificity: pooled.specificity.estimate },
        }
      : null,
  )
})
const names = computed(() => {
  const { compared } = props.answer
  return compared?.levels.map(({ value }) => facetWords(compared.facet, value, props.tests)) ?? []
})
const oneArmed = computed(() => part.value.length - studies.value.length)
const roc = computed(() => (props.answer.compared ? null : (props.answer.roc ?? null)))
const SHAPES = ['●', '■', '◆', '▲', '▼', '▬']
</script>

<template>
  <section data-test="roc-panel">
    <h2>{{ words.title }}</h2>
    <RocPlot
      :studies="studies"
      :roc="roc"
      :levels="levels"
      :marked="marked"
      :said="words.said(studies.length)"
      @mark="emit('mark', $event)"
    />
    <ul class="keys small muted">
      <li v-for="(name, index) in names" :key="index" :class="`level-${index % 6}`">
        <span class="shape" aria-hidden="true">{{ SHAPES[index % 6] }}</span> {{ name }}
      </li>
      <li>
        {{ words.keys.study
        }}<template v-if="roc || levels.some(Boolean)">; + {{ words.keys.summary }}</template>
      </li>
      <li v-if="roc">
        <svg width="26" height="10" aria-hidden="true">
          <rect class="confidence" x="1" y="1" width="24" height="8" />
        </svg>
        {{ words.keys.confidence }}
        <svg width="26" height="10" aria-hidden="true"><path class="prediction" d="M0 5H26" /></svg>
        {{ words.keys.prediction }}
        <template v-if="roc.curve.length">
          <svg width="26" height="10" aria-hidden="true"><path class="curve" d="M0 5H26" /></svg>
          {{ words.keys.curve }}
        </template>
      </li>
      <li v-else-if="!answer.compared">{{ words.noRegion }}</li>
      <li v-if="oneArmed">{{ words.onlyOne(oneArmed) }}</li>
    </ul>
    <details class="small">
      <summary>{{ words.table }}</summary>
      <table class="plain-table">
        <thead>
          <tr>
            <th scope="col">{{ text.study.study }}</th>
            <th scope="col">{{ text.study.sensitivity }}</th>
            <th scope="col">1 − {{ text.study.specificity }}</th>
            <th scope="col">n</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="study in studies" :key="study.id">
            <th scope="row">{{ study.label }}</th>
            <td>{{ percent(study.point.sensitivity) }}</td>
            <td>{{ percent(1 - study.point.specificity) }}</td>
            <td>{{ whole(study.diseased) }} + {{ whole(study.people - study.diseased) }}</td>
          </tr>
        </tbody>
      </table>
    </details>
  </section>
</template>

<style scoped>
.keys {
  margin: 8px 0;
  padding: 0;
  list-style: none;
}
.keys svg {
  margin-left: 4px;
  color: rgb(var(--v-theme-on-background));
}
.confidence {
  fill: rgb(var(--v-theme-primary));
  fill-opacity: 0.16;
  stroke: rgb(var(--v-theme-primary));
}
.prediction,
.curve {
  fill: none;
  stroke: rgb(var(--v-theme-primary));
  stroke-width: 1.6;
}
.prediction {
  stroke-dasharray: 6 4;
}
.curve {
  stroke: currentColor;
}
.shape {
  display: inline-block;
  width: 16px;
}
.level-0 .shape {
  color: rgb(var(--v-theme-on-background));
}
.level-1 .shape {
  color: rgb(var(--v-theme-raises));
}
.level-2 .shape {
  color: rgb(var(--v-theme-lowers));
}
.level-3 .shape {
  color: rgb(var(--v-theme-primary));
}
td {
  text-align: right;
}
@media print {
  section {
    max-width: 110mm;
    break-inside: avoid;
  }
  details:not([open]) {
    display: none;
  }
}
</style>
