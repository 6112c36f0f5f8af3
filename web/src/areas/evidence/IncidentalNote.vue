<script setup lang="ts">
import { computed } from 'vue'

import type { PooledPrevalence } from '@/shared/api/types'
import { percentInterval, percentPoint } from '@/shared/format'
import SampleMark from '@/shared/layout/SampleMark.vue'
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'

/** Whether a true positive may be an incidental finding, or that nobody can say. */
const props = defineProps<{ prevalence: PooledPrevalence; condition: { id: string } }>()

const { carried } = useQuestion()
const words = text.prevalence
const said = computed(() => {
  const { incidental, without_symptoms: without } = props.prevalence
  if (incidental === 'not_known' || !without) return words.notKnown
  const share = `${percentPoint(without)} (${percentInterval(without)})`
  return words[incidental](share)
})
const page = computed(() => ({
  name: 'prevalence',
  params: { id: props.condition.id },
  query: carried.value,
}))
</script>

<template>
  <p class="small incidental" data-test="incidental">
    <SampleMark v-if="prevalence.sample" />
    {{ ' ' }}
    <b v-if="prevalence.incidental === 'possible'">{{ said }}</b>
    <template v-else>{{ said }}</template>
    {{ ' ' }}
    <router-link class="no-print" :to="page">{{ words.more }}</router-link>
  </p>
</template>

<style scoped>
.incidental {
  margin-top: 8px;
}
</style>
