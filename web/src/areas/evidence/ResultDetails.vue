<script setup lang="ts">
import { computed, ref } from 'vue'

import { useConditions, useTest, useTests } from '@/shared/api/queries'
import type { AccuracyInput, AccuracyResult, NamedTest, Rule } from '@/shared/api/types'
import { text } from '@/shared/text'
import { RESULT_FIELDS } from './resultFields'
import { resultWords, togetherWords } from './resultWords'

/** In what a result differs from what the sheet teaches; folded away until somebody wants to say it. */
const details = defineModel<AccuracyInput>({ required: true })
const props = defineProps<{ testId: string; others: NamedTest[]; of: (field: string) => string[] }>()

const words = text.result
const sheet = useTest(() => props.testId)
const conditions = useConditions()
const region = computed(() => sheet.data.value?.region)
const baseline = computed(() => sheet.data.value?.variants[0]?.name ?? '')
const variants = computed(() => (sheet.data.value?.variants ?? []).slice(1).map((variant) => variant.name))
const named = computed(() =>
  (conditions.data.value ?? [])
    .filter((it) => it.region === region.value && it.name !== sheet.data.value?.condition)
    .map((it) => it.name),
)
const othersLabel = RESULT_FIELDS.find(({ kind }) => kind === 'tests')?.label
const FOLDED = RESULT_FIELDS.filter((field) => field.differs)

const search = ref('')
const found = useTests(
  computed(() => ({ region: region.value, search: search.value, reverse: false, limit: 20 })),
)
/** Those that were chosen keep their names, whatever is searched for. */
const chosen = ref<NamedTest[]>(props.others)
const offered = computed<NamedTest[]>(() => {
  const rows = (found.data.value?.rows ?? []).filter((row) => row.id !== props.testId)
  const more = rows.filter((row) => !chosen.value.some((it) => it.id === row.id))
  return [...chosen.value, ...more.map(({ id, name }) => ({ id, name }))]
})

type Way = 'any' | 'all' | 'at_least'
const way = computed<Way>(() => {
  const rule = details.value.together?.rule ?? 'any'
  return typeof rule === 'string' ? rule : 'at_least'
})
const least = computed(() => {
  const rule = details.value.together?.rule
  return typeof rule === 'object' ? rule.at_least : 2
})
const ways = computed(() => [
  ...Object.entries(words.rules).map(([value, title]) => ({ value, title })),
  { value: 'at_least', title: words.some },
])

function set(change: Partial<AccuracyInput>) {
  // In place: two changes at once must not undo each other.
  Object.assign(details.value, change)
}
function choose(tests: NamedTest[]) {
  // Tests that may not be seen here have no name to be chosen by; they stay.
  const unseen = (details.value.together?.tests ?? []).filter(
    (id) => !chosen.value.some((it) => it.id === id),
  )
  chosen.value = tests
  const rule: Rule = details.value.together?.rule ?? 'any'
  const all = [...unseen, ...tests.map((test) => test.id)]
  set({ together: all.length ? { tests: all, rule } : null })
}
function read(chosenWay: Way, n: number) {
  const { together } = details.value
  if (!together) return
  const rule: Rule = chosenWay === 'at_least' ? { at_least: n } : chosenWay
  set({ together: { ...together, rule } })
}
const said = computed(() => {
  const { together } = details.value
  const named = chosen.value.map((test) => test.name)
  return [
    ...resultWords(details.value as Partial<AccuracyResult>),
    together ? togetherWords(named, together.rule) : '',
  ]
    .filter(Boolean)
    .join(' · ')
})
const PLACES = [...FOLDED.map(({ name }) => name), 'together.tests', 'together.rule']
const wrong = computed(() => PLACES.some((place) => props.of(`result.${place}`).length))
</script>

<template>
  <details :open="wrong" data-test="result-details">
    <summary>{{ words.title }}</summary>
    <p class="small muted">{{ words.about }}</p>
    <div class="grid">
      <template v-for="{ name, label, hint, choices } in FOLDED" :key="name">
        <v-select
          v-if="name === 'variant'"
          :model-value="details.variant || null"
          :items="variants"
          :label="label"
          :placeholder="baseline"
          persistent-placeholder
          clearable
          :no-data-text="words.noVariant"
          data-test="variant"
          @update:model-value="set({ variant: $event ?? '' })"
        />
        <v-combobox
          v-else-if="name === 'condition'"
          :model-value="details.condition || null"
          :items="named"
          :label="label"
          :placeholder="sheet.data.value?.condition"
          persistent-placeholder
          clearable
          :error-messages="of('result.condition')"
          dir="auto"
          @update:model-value="set({ condition: $event ?? '' })"
        />
        <v-select
          v-else-if="choices"
          :model-value="details[name] ?? null"
          :items="Object.entries(choices).map(([value, title]) => ({ value, title }))"
          :label="label"
          clearable
          :data-test="name"
          @update:model-value="set({ [name]: $event ?? null })"
        />
        <v-text-field
          v-else
          :model-value="details[name]"
          :label="label"
          :hint="hint"
          :error-messages="of(`result.${name}`)"
          dir="auto"
          :data-test="name"
          @update:model-value="set({ [name]: $event })"
        />
      </template>
      <v-autocomplete
        v-model:search="search"
        class="wide"
        :model-value="chosen"
        :items="offered"
        item-title="name"
        item-value="id"
        return-object
        multiple
        chips
        closable-chips
        clear-on-select
        no-filter
        :label="othersLabel"
        :no-data-text="words.noTest"
        :error-messages="of('result.together.tests')"
        data-test="others"
        @update:model-value="choose"
      />
      <template v-if="details.together">
        <v-select
          :model-value="way"
          :items="ways"
          :label="words.rule"
          data-test="rule"
          @update:model-value="read($event as Way, least)"
        />
        <v-text-field
          v-if="way === 'at_least'"
          :model-value="least"
          type="number"
          min="1"
          :max="details.together.tests.length + 1"
          :label="words.least"
          :error-messages="of('result.together.rule')"
          data-test="least"
          @update:model-value="read('at_least', Number($event))"
        />
      </template>
    </div>
  </details>
  <p v-if="said" class="small muted wrap-anywhere" data-test="result-said">{{ said }}</p>
</template>

<style scoped>
summary {
  font-weight: 600;
}
.grid {
  display: grid;
  grid-template-columns: repeat(2, minmax(0, 1fr));
  gap: 10px 8px;
  align-items: start;
  margin-top: 10px;
}
.wide {
  grid-column: 1 / -1;
}
</style>
