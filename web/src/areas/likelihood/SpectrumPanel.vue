<script setup lang="ts">
import { computed } from 'vue'

import { facetWords } from '@/areas/pooling/facetWords'
import type { PatientBackground, ShareEstimate, SpectrumRow } from '@/shared/api/types'
import { percent, percentInterval, percentPoint, whole } from '@/shared/format'
import { text } from '@/shared/text'

/** What the same results would mean where the condition is as common as among the people studied. */
const props = defineProps<{
  background: PatientBackground
  /** This patient's own line: before, and after the same results. */
  here: { share: number; after: (ShareEstimate | null)[] }
  /** Results were found; otherwise both results of one test are looked at. */
  found: boolean
}>()

const words = text.likelihood.patient.spectrum
const inWhom = ({ studied }: SpectrumRow) => {
  if (!studied) return words.usual
  const setting = studied.setting ? facetWords('setting', studied.setting) : words.unknownSetting
  return words.studied(setting, whole(studied.people), text.catalogue.studies(studied.studies))
}
const columns = computed(() => (props.found ? [words.after] : [words.positive, words.negative]))
const lines = computed(() => [
  { name: words.here, share: props.here.share, after: props.here.after, own: true },
  ...props.background.spectrum.map((row) => ({
    name: inWhom(row),
    share: row.share,
    after: row.after,
    own: false,
  })),
])
const studied = computed(() => props.background.spectrum.some((row) => row.studied))
</script>

<template>
  <section data-test="spectrum">
    <h2>{{ words.title }}</h2>
    <p class="small">{{ words.about }}</p>
    <table class="plain-table">
      <thead>
        <tr class="small">
          <th scope="col">{{ words.people }}</th>
          <th scope="col">{{ words.share }}</th>
          <th v-for="column in columns" :key="column" scope="col">{{ column }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="line in lines" :key="line.name" :class="{ own: line.own }">
          <th scope="row">{{ line.name }}</th>
          <td>{{ percent(line.share) }}</td>
          <td v-for="(after, nth) in line.after" :key="nth">
            <template v-if="after">
              <b>{{ percentPoint(after) }}</b> <small class="muted">{{ percentInterval(after) }}</small>
            </template>
            <template v-else>{{ text.unknown }}</template>
          </td>
        </tr>
      </tbody>
    </table>
    <p class="small muted">{{ studied ? words.chosen : words.none }}</p>
  </section>
</template>

<style scoped>
.own th,
.own td {
  font-weight: 700;
}
p {
  margin: 4px 0;
}
</style>
