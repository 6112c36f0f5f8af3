<script setup lang="ts">
import { reactive, watch } from 'vue'

import { lr } from '@/areas/evidence/resultWords'
import type { BatteryTest, FacetView, TestRow } from '@/shared/api/types'
import SheetLink from '@/shared/question/SheetLink.vue'
import { text } from '@/shared/text'
import { MOST_TESTS, type ResultFilter } from './useBatteryState'

/** Which tests are in the battery, and which of their results count. */
const props = defineProps<{
  rows: TestRow[]
  chosen: string[]
  /** What was answered of those that are in. */
  answered: BatteryTest[]
  filtered: (name: ResultFilter, test: string) => string | null
}>()
const emit = defineEmits<{
  toggle: [test: string]
  filter: [name: ResultFilter, test: string, to: string | null]
}>()

const words = text.combine.tests
const usable = (row: TestRow) => !!row.summary?.sensitivity && !!row.summary?.specificity
const isIn = (row: TestRow) => props.chosen.includes(row.id)
/** What was answered last of each test: a choice that leaves no figures has no answer, and must be taken back. */
const facets = reactive(new Map<string, FacetView[]>())
watch(
  () => props.answered,
  (all) => all.forEach((it) => facets.set(it.test, it.facets)),
  { immediate: true },
)
/** What its results tell apart, where they say more than one thing; and what was chosen, so that it can be taken back. */
const offered = (test: string): { name: ResultFilter; values: FacetView['values'] }[] =>
  (['variant', 'criterion'] as const).flatMap((name) => {
    const chosen = props.filtered(name, test)
    const values = facets.get(test)?.find((it) => it.facet === name)?.values ?? []
    const known = chosen == null || values.some(({ value }) => value === chosen)
    const all = known ? values : [...values, { value: chosen, results: 0 }]
    return all.length > 1 || chosen != null ? [{ name, values: all }] : []
  })
const items = (values: FacetView['values']) => [
  { title: words.every, value: null },
  ...values.map(({ value }) => ({ title: value || words.unsaid, value })),
]
</script>

<template>
  <section>
    <h2>{{ words.title }}</h2>
    <ul class="tests">
      <li v-for="row in rows" :key="row.id" data-test="battery-test">
        <label :class="{ muted: !usable(row) }">
          <input
            type="checkbox"
            :checked="isIn(row)"
            :disabled="!isIn(row) && (!usable(row) || chosen.length >= MOST_TESTS)"
            @change="emit('toggle', row.id)"
          />
          <span>
            <b dir="auto">{{ row.name }}</b>
            <small v-if="usable(row)" class="muted">
              {{ words.studies(row.studies) }} · LR+ {{ lr(row.summary?.lr_positive) }} · LR−
              {{ lr(row.summary?.lr_negative) }}
            </small>
            <small v-else>{{ words.noFigures }}</small>
          </span>
        </label>
        <SheetLink class="small no-print" :test="row.id" :aria-label="words.sheetOf(row.name)">{{
          words.sheet
        }}</SheetLink>
        <div v-if="isIn(row) && offered(row.id).length" class="which no-print">
          <v-select
            v-for="facet in offered(row.id)"
            :key="facet.name"
            :model-value="filtered(facet.name, row.id)"
            :items="items(facet.values)"
            :label="words[facet.name]"
            :aria-label="`${words.which(row.name)}: ${words[facet.name]}`"
            density="compact"
            hide-details
            :data-test="`only-${facet.name}`"
            @update:model-value="emit('filter', facet.name, row.id, $event)"
          />
        </div>
      </li>
    </ul>
    <p v-if="chosen.length >= MOST_TESTS" class="small muted">{{ words.full }}</p>
  </section>
</template>

<style scoped>
.tests {
  padding: 0;
  list-style: none;
}
li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  align-items: start;
  gap: 0 8px;
  padding: 5px 0;
  border-bottom: 1px solid var(--line);
}
label {
  display: flex;
  gap: 10px;
  cursor: pointer;
}
input {
  flex: none;
  width: 18px;
  height: 18px;
  margin-top: 2px;
  accent-color: rgb(var(--v-theme-primary));
}
small {
  display: block;
  font-size: 0.75rem;
}
.which {
  display: grid;
  grid-column: 1 / -1;
  grid-template-columns: repeat(auto-fit, minmax(160px, 1fr));
  gap: 8px;
  padding: 8px 0 4px 28px;
}
@media screen and (max-width: 600px) {
  label {
    min-height: 44px;
  }
}
</style>
