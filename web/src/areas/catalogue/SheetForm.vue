<script setup lang="ts">
import { computed } from 'vue'

import { useConditions } from '@/shared/api/queries'
import type { FieldError, SheetInput } from '@/shared/api/types'
import { text } from '@/shared/text'
import LineList from './LineList.vue'

const draft = defineModel<SheetInput>({ required: true })
const props = defineProps<{ errors: FieldError[] }>()

const conditions = useConditions()
const known = computed(() =>
  (conditions.data.value ?? []).filter((c) => c.region === draft.value.region).map((c) => c.name),
)
const regions = Object.entries(text.regions).map(([value, title]) => ({ value, title }))
const purposes = Object.entries(text.purposes).map(([value, title]) => ({ value, title }))

/** Messages of a field, those of its lines included when it shows no lines of its own. */
function of(field: keyof SheetInput): string[] {
  const mine = props.errors.filter((error) => error.field === field || error.field.startsWith(`${field}[`))
  return mine.map((error) => `${error.message} ${error.remedy}`)
}
</script>

<template>
  <div class="form">
    <v-text-field
      v-model="draft.name"
      :label="text.editor.name"
      :hint="text.editor.nameHint"
      persistent-hint
      :error-messages="of('name')"
      data-test="name"
      dir="auto"
    />
    <v-combobox
      v-model="draft.aliases"
      :label="text.editor.aliases"
      multiple
      chips
      closable-chips
      :delimiters="[';']"
      :error-messages="of('aliases')"
      data-test="aliases"
    />
    <div class="three">
      <v-select
        v-model="draft.region"
        :items="regions"
        :label="text.editor.region"
        :error-messages="of('region')"
      />
      <v-select
        v-model="draft.purpose"
        :items="purposes"
        :label="text.editor.purpose"
        :error-messages="of('purpose')"
        data-test="purpose"
      />
      <v-combobox
        v-model="draft.condition"
        :items="known"
        :label="text.editor.condition"
        :hint="text.editor.conditionHint"
        persistent-hint
        :error-messages="of('condition')"
        data-test="condition-field"
      />
    </div>
    <v-textarea
      v-model="draft.positive_finding"
      :label="text.editor.finding"
      :error-messages="of('positive_finding')"
      data-test="finding"
      dir="auto"
    />
    <LineList v-model="draft.cautions" :label="text.editor.cautions" :errors="errors" field="cautions" />
    <v-textarea
      v-model="draft.patient_position"
      :label="text.editor.position"
      :error-messages="of('patient_position')"
      dir="auto"
    />
    <LineList v-model="draft.steps" :label="text.editor.steps" :errors="errors" field="steps" numbered />
    <LineList v-model="draft.pitfalls" :label="text.editor.pitfalls" :errors="errors" field="pitfalls" />
    <v-combobox
      v-model="draft.target_structures"
      :label="text.editor.targets"
      multiple
      chips
      closable-chips
      :delimiters="[';']"
      :error-messages="of('target_structures')"
    />
  </div>
</template>

<style scoped>
.form {
  display: grid;
  gap: 16px;
  max-width: 860px;
  padding-bottom: 16px;
}
.three {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(220px, 1fr));
  gap: 12px;
  align-items: start;
}
</style>
