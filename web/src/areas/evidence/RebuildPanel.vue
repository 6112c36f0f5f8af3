<script setup lang="ts">
import { computed, ref } from 'vue'

import { askRebuilt } from '@/shared/api/queries'
import type { RawCounts, RebuiltTable } from '@/shared/api/types'
import { percent, ratio } from '@/shared/format'
import { text } from '@/shared/text'
import { useLiveAnswer } from '@/shared/useLiveAnswer'

/** The tables behind a report that prints only rounded figures: every one that fits, found while the figures are typed. */
const emit = defineEmits<{ use: [cells: RawCounts, from: string] }>()

const printed = ref<Record<string, string>>({})
const statements = computed(() =>
  Object.entries(printed.value)
    .map(([name, value]) => ({ name, value: value.trim() }))
    .filter((statement) => statement.value),
)
const { answer, faults } = useLiveAnswer(
  computed(() => ({ statements: statements.value })),
  (report) => report.statements.length > 1,
  askRebuilt,
)
const SHOWN = 8
const tables = computed(() => {
  if (answer.value?.outcome === 'unique') return [answer.value.table]
  return answer.value?.outcome === 'several' ? answer.value.tables : []
})
/** Largest group that was tried, where the report does not say how many people there were. */
const limit = computed(() => {
  if (answer.value?.outcome === 'unique') return answer.value.limit
  return answer.value?.outcome === 'several' ? answer.value.limit : undefined
})
/** How far the tables differ, in what they do differ. */
const spread = computed(() => {
  if (answer.value?.outcome !== 'several') return ''
  const { sensitivity, specificity, lr_positive: plus, lr_negative: minus } = answer.value.spread
  const range = (label: string, ends: number[] | null | undefined, write: (value: number) => string) => {
    const [low, high] = (ends ?? []).map(write)
    return low === high ? '' : `${label} ${low} – ${high}`
  }
  return [
    range(text.study.sensitivity, sensitivity, percent),
    range(text.study.specificity, specificity, percent),
    range('LR+', plus, ratio),
    range('LR−', minus, ratio),
  ]
    .filter(Boolean)
    .join(', ')
})
const said = (index: number) => {
  const { name, value } = statements.value[index] ?? { name: '', value: '' }
  return `${text.rebuild.figures[name] ?? name} ${value}`
}
const fault = (name: string) => {
  const at = statements.value.findIndex((statement) => statement.name === name)
  const found = faults.value.find((error) => error.field === `statements[${at}].value`)
  return found ? `${found.message} ${found.remedy}` : ''
}
const general = computed(() => faults.value.filter((error) => error.field === 'statements'))

function use({ tp, fp, fn, tn }: RebuiltTable) {
  emit('use', { tp, fp, fn, tn }, statements.value.map((_, index) => said(index)).join(', '))
}
</script>

<template>
  <details class="rebuild" data-test="rebuild">
    <summary>{{ text.rebuild.title }}</summary>
    <p class="small muted">{{ text.rebuild.about }}</p>
    <div class="figures">
      <v-text-field
        v-for="(label, name) in text.rebuild.figures"
        :key="name"
        :model-value="printed[name] ?? ''"
        :label="label"
        :class="{ wide: fault(name) }"
        :error-messages="fault(name)"
        hide-details="auto"
        autocomplete="off"
        :data-test="`printed-${name}`"
        @update:model-value="printed = { ...printed, [name]: $event }"
      />
    </div>
    <div aria-live="polite" class="small" data-test="rebuilt">
      <p v-for="error in general" :key="error.message">{{ error.message }} {{ error.remedy }}</p>
      <template v-if="answer?.outcome === 'contradiction'">
        <p class="broken">{{ text.rebuild.none }}</p>
        <ul>
          <li v-for="index in answer.facts" :key="index">{{ said(index) }}</li>
        </ul>
      </template>
      <p v-else-if="answer?.outcome === 'not_found'" class="broken">
        {{ text.rebuild.notFound(answer.limit) }}
      </p>
      <template v-else-if="tables.length">
        <p>
          {{ text.rebuild.found(tables.length) }} <span class="muted">{{ spread }}</span>
        </p>
        <ul class="tables">
          <li v-for="(table, index) in tables.slice(0, SHOWN)" :key="index">
            TP {{ table.tp }}, FP {{ table.fp }}, FN {{ table.fn }}, TN {{ table.tn }}
            <v-btn size="x-small" variant="text" data-test="use-table" @click="use(table)">
              {{ text.rebuild.use }}
            </v-btn>
          </li>
        </ul>
        <p v-if="tables.length > SHOWN" class="muted">{{ text.rebuild.more(tables.length - SHOWN) }}</p>
        <p v-if="limit" class="muted">{{ text.rebuild.limit(limit) }}</p>
      </template>
    </div>
  </details>
</template>

<style scoped>
summary {
  font-weight: 600;
}
.figures {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(96px, 1fr));
  gap: 10px 8px;
  align-items: start;
  margin: 10px 0;
}
/* What is wrong takes a line to say. */
.wide {
  grid-column: 1 / -1;
}
.broken {
  font-weight: 600;
}
ul {
  padding-left: 1.2em;
}
.tables {
  padding: 0;
  list-style: none;
}
</style>
