<script setup lang="ts">
import { mdiFilterVariant } from '@mdi/js'
import { replaceEqualDeep } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

import type { Facet, IntervalChoice, ModelChoice, PoolAnswer, TestRow } from '@/shared/api/types'
import { text } from '@/shared/text'
import FacetFilter from './FacetFilter.vue'
import { nearBy, turned } from './nearBy'
import type { Choice, PoolState } from './usePoolState'

/** Whose results are pooled, which of them, what they are compared by, by which model and with which intervals. */
const props = defineProps<{ state: PoolState; tests: TestRow[]; answer: PoolAnswer | null }>()
const emit = defineEmits<{ near: [choice: Choice | null] }>()

const { tests: chosen, only, by, model, interval, from, until, narrowed } = props.state
const open = ref(narrowed.value > 0)
/** What an entry of a list would choose. */
const near = (choice: () => Choice) => nearBy<Choice>((it) => emit('near', it), choice)
const items = computed(() =>
  props.tests
    .filter((test) => test.studies > 0 || chosen.value.includes(test.id))
    .map((test) => ({
      value: test.id,
      title: test.name,
      props: {
        subtitle: text.pool.results(test.studies),
        ...near(() => props.state.ofTests(turned(chosen.value, test.id))),
      },
    })),
)
/** A switch changes nothing of what all results say, and the lists of values stay as they are. */
const facets = computed<PoolAnswer['facets']>((before) =>
  replaceEqualDeep(before, props.answer?.facets ?? []),
)
/** Facets in which the results differ, and those that are filtered though they no longer do. */
const offered = computed(() => {
  const stale = (Object.keys(only.value) as Facet[]).filter(
    (facet) => !facets.value.some((it) => it.facet === facet),
  )
  return [...facets.value, ...stale.map((facet) => ({ facet, values: [] }))].filter(
    ({ facet }) => facet !== 'test',
  )
})
/** One and the same for every facet that is not filtered, so that none is drawn anew. */
const ANY: string[] = []
const comparable = computed(() => [
  { value: null, title: text.pool.nothingToCompare, props: near(() => ({ by: null })) },
  ...facets.value.map(({ facet }) => ({
    value: facet,
    title: text.pool.facets[facet],
    props: near(() => ({ by: facet })),
  })),
])
const models = (Object.keys(text.pool.choices) as ModelChoice[]).map((value) => ({
  value,
  title: text.pool.choices[value],
  props: near(() => ({ model: value })),
}))
const intervals = [
  { value: null, title: text.pool.usualIntervals, props: near(() => ({ interval: null })) },
  ...(Object.keys(text.pooled.intervals) as IntervalChoice[]).map((value) => ({
    value,
    title: text.pooled.intervals[value],
    props: near(() => ({ interval: value })),
  })),
]
</script>

<template>
  <div class="choice no-print">
    <div class="line">
      <v-autocomplete
        class="tests"
        :model-value="chosen"
        :items="items"
        :label="text.pool.tests"
        multiple
        chips
        closable-chips
        :no-data-text="text.pool.noTests"
        data-test="pool-tests"
        @update:model-value="state.choose(state.ofTests($event))"
      />
      <v-select
        class="short"
        :model-value="by"
        :items="comparable"
        :label="text.pool.by"
        data-test="pool-by"
        @update:model-value="state.choose({ by: $event })"
      />
      <v-select
        class="short"
        :model-value="model"
        :items="models"
        :label="text.pool.model"
        data-test="pool-model"
        @update:model-value="state.choose({ model: $event })"
      />
      <v-select
        class="short"
        :model-value="interval"
        :items="intervals"
        :label="text.pool.intervals"
        data-test="pool-interval"
        @update:model-value="state.choose({ interval: $event })"
      />
      <v-btn
        :prepend-icon="mdiFilterVariant"
        :aria-expanded="open"
        data-test="pool-which"
        @click="open = !open"
      >
        {{ text.pool.which }}<template v-if="narrowed"> · {{ text.pool.active(narrowed) }}</template>
      </v-btn>
    </div>
    <div v-if="open && chosen.length" class="facets">
      <FacetFilter
        v-for="{ facet, values } in offered"
        :key="facet"
        :facet="facet"
        :values="values"
        :chosen="only[facet] ?? ANY"
        :data-test="`only-${facet}`"
        @choose="state.choose(state.narrowedTo(facet, $event))"
        @near="emit('near', $event && state.narrowedTo(facet, $event))"
      />
      <div class="years">
        <v-text-field
          :model-value="from ?? ''"
          :label="text.pool.from"
          inputmode="numeric"
          maxlength="4"
          data-test="pool-from"
          @change="state.setYear('from', ($event.target as HTMLInputElement).value.trim())"
        />
        <v-text-field
          :model-value="until ?? ''"
          :label="text.pool.until"
          inputmode="numeric"
          maxlength="4"
          @change="state.setYear('until', ($event.target as HTMLInputElement).value.trim())"
        />
      </div>
      <v-btn v-if="narrowed" data-test="pool-clear" @click="state.clear">{{ text.pool.clear }}</v-btn>
    </div>
  </div>
</template>

<style scoped>
.line,
.facets {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 10px 12px;
}
.facets {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(220px, 1fr));
  margin-top: 12px;
  padding: 12px;
  border: 1px solid var(--line);
  border-radius: 8px;
}
.tests {
  flex: 3 1 320px;
}
.short {
  flex: 1 1 150px;
  max-width: 230px;
}
.years {
  display: flex;
  gap: 8px;
}
</style>
