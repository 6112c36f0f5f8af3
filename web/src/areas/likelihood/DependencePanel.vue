<script setup lang="ts">
import { computed } from 'vue'

import CrowdPicture from '@/figures/CrowdPicture.vue'
import type { PatientAnswer } from '@/shared/api/types'
import { percent } from '@/shared/format'
import DegreeSlider from '@/shared/question/DegreeSlider.vue'
import { text } from '@/shared/text'

/** What several results are worth together if the tests know of each other's results, and why they may. */
const props = defineProps<{ answer: PatientAnswer; correlation: number }>()
const emit = defineEmits<{ correlation: [to: number] }>()

const words = text.likelihood.patient.dependence
const of = computed(() => props.answer.chain.dependence ?? null)
const nameAt = (nth: number) =>
  props.answer.tests.find((test) => test.test === props.answer.findings[nth]?.test)?.name ?? ''
const shared = computed(() =>
  props.answer.shared.map(({ tests, structures }) =>
    words.shared(nameAt(tests[0]!), nameAt(tests[1]!), structures.join(', ')),
  ),
)
const compared = computed(() => {
  const { independent, dependent, correlation } = of.value ?? {}
  if (independent == null) return ''
  return dependent == null || !correlation
    ? words.same(percent(independent))
    : words.compare(percent(independent), percent(dependent), words.degree(correlation))
})
const parts = text.likelihood.patient
const crowdWords = {
  groups: parts.chainGroups,
  positive: parts.chainPositive,
  negative: parts.chainNegative,
}
</script>

<template>
  <section v-if="of" data-test="dependence">
    <h2>{{ words.title }}</h2>
    <p class="small">{{ words.about }}</p>
    <ul class="small">
      <li v-for="line in shared" :key="line">{{ line }}</li>
      <li v-if="!shared.length">{{ words.noShared }}</li>
    </ul>
    <DegreeSlider
      :label="words.slider"
      :said="words.degree(correlation)"
      :model-value="correlation"
      test="correlation"
      @update:model-value="emit('correlation', $event)"
    />
    <p aria-live="polite" data-test="dependence-answer">
      <b>{{ compared }}</b>
    </p>
    <p class="small muted">{{ words.hint(String(correlation)) }}</p>
    <p class="small">{{ words.crowd }}</p>
    <CrowdPicture :frequencies="of.crowd" :words="crowdWords" />
  </section>
</template>

<style scoped>
ul {
  margin: 4px 0 8px;
  padding-left: 1.2em;
}
p {
  margin-bottom: 6px;
}
</style>
