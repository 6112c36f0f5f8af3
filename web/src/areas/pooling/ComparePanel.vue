<script setup lang="ts">
import { computed } from 'vue'

import { lr, share } from '@/areas/evidence/resultWords'
import type { PoolLevels, TestRow } from '@/shared/api/types'
import SampleMark from '@/shared/layout/SampleMark.vue'
import { text } from '@/shared/text'
import { facetWords } from './facetWords'
import { pValue } from './words'

/** Values of a facet in one model: what each answers, and how it compares with the first. */
const props = defineProps<{ of: PoolLevels; tests: TestRow[] }>()

const words = text.pool.compare
const name = (level: number) => facetWords(props.of.facet, props.of.levels[level]?.value ?? '', props.tests)
const rows = computed(() => {
  const { comparison } = props.of
  return (comparison?.levels ?? []).map((level) => ({
    ...level,
    name: name(level.level),
    sample: props.of.levels[level.level]?.sample ?? false,
    contrast: comparison?.contrasts.find((it) => it.level === level.level),
  }))
})
const tested = computed(() => {
  const found = props.of.comparison
  if (!found) return ''
  const parts = [found.test_sensitivity, found.test_specificity]
  const [se, sp] = parts.map((part) => (part ? pValue(part.p) : ''))
  return words.test(pValue(found.test.p)) + (se && sp ? words.testParts(se, sp) : '') + '.'
})
</script>

<template>
  <section data-test="compare">
    <h2>{{ words.title(text.pool.facets[of.facet]) }}</h2>
    <p v-if="of.not_compared">{{ words.why[of.not_compared] }}</p>
    <template v-if="of.comparison">
      <table class="plain-table stacked">
        <thead>
          <tr class="small">
            <th scope="col">{{ words.value }}</th>
            <th scope="col">{{ words.k }}</th>
            <th scope="col">{{ text.study.sensitivity }}</th>
            <th scope="col">{{ text.study.specificity }}</th>
            <th scope="col">{{ words.relativeSe }}</th>
            <th scope="col">{{ words.relativeSp }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in rows" :key="row.level">
            <th scope="row">{{ row.name }} <SampleMark v-if="row.sample" /></th>
            <td :data-label="words.k">{{ row.k }}</td>
            <td :data-label="text.study.sensitivity">
              {{ row.sensitivity ? share(row.sensitivity) : text.unknown }}
            </td>
            <td :data-label="text.study.specificity">
              {{ row.specificity ? share(row.specificity) : text.unknown }}
            </td>
            <template v-if="row.contrast">
              <td :data-label="words.relativeSe">{{ lr(row.contrast.relative_sensitivity, '–') }}</td>
              <td :data-label="words.relativeSp">{{ lr(row.contrast.relative_specificity, '–') }}</td>
            </template>
            <td v-else colspan="2" class="muted">{{ words.reference }}</td>
          </tr>
        </tbody>
      </table>
      <p>{{ tested }}</p>
      <ul v-if="of.same_people.length" class="small">
        <li v-for="pair in of.same_people" :key="pair.levels.join()">
          {{ words.direct(name(pair.levels[0]!), name(pair.levels[1]!), pair.pairs) }}
        </li>
      </ul>
      <p class="small">{{ of.same_people.length ? words.independent : words.noDirect }}</p>
      <p class="small muted">
        {{ words.source }} {{ of.comparison.interval === 'posterior' ? words.posterior : words.wald }}
      </p>
    </template>
  </section>
</template>

<style scoped>
ul {
  padding-left: 1.2em;
}
</style>
