<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'

import { api, ApiProblem, data } from '@/shared/api/client'
import type { Found, Interpretation, ReadingRow } from '@/shared/api/types'
import { text } from '@/shared/text'
import { urgentWord } from './sheetSentences'
import { typedNumber } from '@/shared/typedNumber'

/** What the table answers to values that are tried out. */
const props = withDefaults(defineProps<{ table: Interpretation; title?: string }>(), {
  title: text.interpretation.tryIt,
})
const emit = defineEmits<{ read: [rows: ReadingRow[]] }>()

const typed = ref<Record<string, string>>({})
const measures = computed(() => props.table.measures.filter((measure) => measure.name.trim()))
const values = computed(() => {
  const found: Record<string, Found> = {}
  for (const measure of measures.value) {
    const value = String(typed.value[measure.name] ?? '').trim()
    if (value) found[measure.name] = measure.choices.length ? value : (typedNumber(value) ?? NaN)
  }
  return found
})
const reading = useQuery({
  queryKey: ['reading', computed(() => props.table), values],
  queryFn: async () =>
    data(await api.POST('/api/v1/readings', { body: { interpretation: props.table, values: values.value } })),
  enabled: computed(() => Object.keys(values.value).length > 0),
  staleTime: Infinity,
})
const refused = computed(() =>
  reading.error.value instanceof ApiProblem
    ? reading.error.value.fields.map((error) => `${error.field.replace('values.', '')}: ${error.message}`)
    : [],
)
const answers = computed(() =>
  (reading.data.value?.rows ?? []).flatMap((index) => {
    const row = props.table.rows[index]
    return row ? [{ ...row, number: index + 1 }] : []
  }),
)
watch(answers, (rows) => emit('read', rows))
</script>

<template>
  <div class="try no-print" data-test="try-table">
    <h3>{{ title }}</h3>
    <div class="values">
      <div v-for="measure in measures" :key="measure.name">
        <!-- Above the field, where it is read whole however long it is. -->
        <span class="small wrap-anywhere" aria-hidden="true">{{ measure.name }}</span>
        <v-select
          v-if="measure.choices.length"
          v-model="typed[measure.name]"
          :items="measure.choices"
          :aria-label="measure.name"
          clearable
          hide-details
          density="compact"
        />
        <v-text-field
          v-else
          v-model="typed[measure.name]"
          type="number"
          step="any"
          hide-spin-buttons
          :aria-label="measure.name"
          :suffix="measure.unit"
          hide-details
          density="compact"
          :data-test="`try-${measure.name}`"
        />
      </div>
    </div>
    <div aria-live="polite" class="answer" data-test="try-answer">
      <p v-for="message in refused" :key="message" class="small fault">{{ message }}</p>
      <template v-if="!refused.length && Object.keys(values).length && reading.data.value">
        <p v-for="row in answers" :key="row.number">
          <b>{{ row.reading }}</b>
          <span v-if="row.grade" class="muted"> ({{ row.grade }})</span>
          <template v-if="row.next_step"> → {{ row.next_step }}</template>
          <b v-if="row.urgent" class="fault"> {{ urgentWord(row.within_hours) }}</b>
          {{ ' ' }}<span class="small muted">{{ text.interpretation.row(row.number) }}</span>
        </p>
        <p v-if="answers.length > 1" class="small fault">{{ text.interpretation.several }}</p>
        <p v-if="!answers.length && !reading.data.value.missing.length" class="small fault">
          {{ text.interpretation.noRow }}
        </p>
        <p v-if="!answers.length && reading.data.value.missing.length" class="small muted">
          {{ text.interpretation.missing(reading.data.value.missing) }}
        </p>
      </template>
    </div>
  </div>
</template>

<style scoped>
.try {
  margin-top: 12px;
  padding: 12px 14px;
  border: 1px solid var(--line);
  border-radius: 6px;
}
.values {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(190px, 1fr));
  gap: 10px;
  align-items: end;
  margin-top: 8px;
}
.answer {
  min-height: 1.6em;
  margin-top: 8px;
}
.fault {
  color: rgb(var(--v-theme-error));
  font-weight: 600;
}
</style>
