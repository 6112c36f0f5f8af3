<script setup lang="ts">
import { computed } from 'vue'

import type { Pooled, Prediction } from '@/shared/api/types'
import { whole } from '@/shared/format'
import SampleMark from '@/shared/layout/SampleMark.vue'
import { text } from '@/shared/text'
import MeasureTable from './MeasureTable.vue'
import { warningWords, workingWords } from './words'

/** A pooled answer: the measures at the summary point, the model used and why, and what limits it. */
const props = defineProps<{ pooled: Pooled; sample: boolean; ahead?: Prediction | null }>()

const single = computed(() => props.pooled.model === 'single_study')
</script>

<template>
  <section class="pooled" data-test="pooled">
    <h2>{{ single ? text.pooled.single : text.pooled.title }} <SampleMark v-if="sample" /></h2>
    <p class="small muted">
      {{ text.pooled.from(pooled.k, whole(pooled.diseased), whole(pooled.non_diseased)) }}
    </p>
    <p v-if="!pooled.converged" class="broken" role="alert">{{ text.pooled.notConverged }}</p>
    <MeasureTable
      :summary="pooled"
      :beside="pooled.simpler ?? null"
      :ahead="ahead"
      :workings="workingWords(pooled.workings, pooled.method)"
      :level="pooled.level"
    />
    <p class="small">
      {{
        single
          ? text.pooled.notPooled
          : text.pooled.why(text.models[pooled.model], text.reasons[pooled.reason])
      }}
      <span v-if="pooled.nodes" class="muted">{{ text.pooled.fit(pooled.iterations, pooled.nodes) }}</span>
    </p>
    <ul v-if="pooled.warnings.length" class="small notes">
      <li v-for="(warning, index) in pooled.warnings" :key="index">{{ warningWords(warning) }}</li>
    </ul>
  </section>
</template>

<style scoped>
h2 {
  font-size: 1.05rem;
}
.notes {
  margin-top: 6px;
  padding-left: 1.2em;
}
.broken {
  color: rgb(var(--v-theme-error));
  font-weight: 700;
}
</style>
