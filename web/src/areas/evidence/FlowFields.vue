<script setup lang="ts">
import { computed } from 'vue'

import type { AccuracyInput } from '@/shared/api/types'
import { text } from '@/shared/text'
import { RESULT_FIELDS } from './resultFields'

/** Who has no place in the four cells; folded away until a report tells of somebody. */
const words = defineModel<AccuracyInput>({ required: true })
const props = defineProps<{ of: (field: string) => string[] }>()

const PARTS = (['unverified', 'uninterpretable'] as const).map((part) => ({
  part,
  fields: RESULT_FIELDS.filter((field) => field.beside === part),
}))
const FIELDS = PARTS.flatMap(({ fields }) => fields)
const said = computed(() => FIELDS.some(({ name }) => words.value[name] != null))
const wrong = computed(() => FIELDS.some(({ name }) => props.of(`result.${name}`).length))

function set(name: string, typed: string | null) {
  const value = (typed ?? '').trim()
  Object.assign(words.value, { [name]: value === '' ? null : Number(value) })
}
</script>

<template>
  <details :open="said || wrong" data-test="flow">
    <summary>{{ text.flow.title }}</summary>
    <p class="small muted">{{ text.flow.about }}</p>
    <fieldset v-for="{ part, fields } in PARTS" :key="part">
      <legend class="small">{{ text.flow.parts[part] }}</legend>
      <v-text-field
        v-for="field in fields"
        :key="field.name"
        :model-value="words[field.name]"
        :label="field.short"
        type="number"
        min="0"
        step="1"
        inputmode="numeric"
        persistent-placeholder
        :error-messages="of(`result.${field.name}`)"
        :data-test="field.name"
        @update:model-value="set(field.name, $event)"
      />
    </fieldset>
  </details>
</template>

<style scoped>
details {
  margin: 12px 0;
}
summary {
  font-weight: 600;
}
legend {
  margin: 14px 0 10px;
  padding: 0;
}
fieldset {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(132px, 1fr));
  gap: 4px 8px;
  margin: 0;
  padding: 0;
  border: 0;
}
</style>
