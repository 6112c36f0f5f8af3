<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Pooled, Prediction } from '@/shared/api/types'
import { whole } from '@/shared/format'
import SampleMark from '@/shared/layout/SampleMark.vue'
import { text } from '@/shared/text'
import MeasureTable from './MeasureTable.vue'
import { warningWords, workingWords } from './words'

/** A pooled answer: the measures at the summary point, the model used and why, and what limits it. */
const props = defineProps<{ pooled: Pooled; sample: boolean; ahead?: Prediction | null }>()

const words = text.pooled
const single = computed(() => props.pooled.model === 'single_study')
/** The maximum-likelihood answer beside another one. */
const classical = ref(false)
const beside = computed(() => {
  if (classical.value && props.pooled.classical) return { title: words.classical, of: props.pooled.classical }
  return props.pooled.simpler && !props.pooled.classical
    ? { title: words.beside, of: props.pooled.simpler }
    : null
})
const why = computed(() => {
  const { pooled } = props
  const fit = words.why(text.models[pooled.model], text.reasons[pooled.reason])
  return pooled.interval === 'posterior' ? words.posterior(pooled.posterior?.prior_scale ?? 0, fit) : fit
})
</script>

<template>
  <section class="pooled" data-test="pooled">
    <h2>{{ single ? words.single : words.title }} <SampleMark v-if="sample" /></h2>
    <p class="small muted">
      {{ words.from(pooled.k, whole(pooled.diseased), whole(pooled.non_diseased)) }}
    </p>
    <p v-if="!pooled.converged" class="broken" role="alert">{{ words.notConverged }}</p>
    <MeasureTable
      :summary="pooled"
      :beside="beside"
      :ahead="ahead"
      :workings="workingWords(pooled.workings, pooled.method)"
      :level="pooled.level"
    />
    <p v-if="pooled.classical" class="no-print beside">
      <v-btn size="small" :aria-pressed="classical" data-test="classical" @click="classical = !classical">
        {{ classical ? words.hideClassical : words.showClassical }}
      </v-btn>
    </p>
    <p v-if="classical && pooled.posterior && pooled.boundary !== 'none'" class="small">
      {{ text.boundaries[pooled.boundary] }}
    </p>
    <p class="small">
      {{ single ? words.notPooled : why }}
      <span v-if="pooled.nodes" class="muted">{{ words.fit(pooled.iterations, pooled.nodes) }}</span>
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
.beside {
  margin: 6px 0;
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
