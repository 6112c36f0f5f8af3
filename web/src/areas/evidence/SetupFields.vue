<script setup lang="ts">
import { computed } from 'vue'

import type { StudySetup } from '@/shared/api/types'
import { text } from '@/shared/text'
import { setupWords } from './setupWords'

/** How the study was done, as far as its report says; folded away until somebody wants to say it. */
const setup = defineModel<StudySetup>({ required: true })
const props = defineProps<{ of: (field: string) => string[] }>()

const NUMBERS = ['people', 'age', 'youngest', 'oldest', 'women', 'first_year', 'last_year'] as const
const choices = Object.entries(text.setup.choices).map(([field, { label, words }]) => ({
  field: field as keyof typeof text.setup.choices,
  label,
  items: Object.entries(words).map(([value, title]) => ({ value, title })),
}))
const said = computed(() => setupWords(setup.value).join(' · '))
const wrong = computed(() =>
  [...NUMBERS, 'country', 'examiners'].some((name) => props.of(`setup.${name}`).length),
)

function set(field: keyof StudySetup, value: unknown) {
  setup.value = { ...setup.value, [field]: value ?? undefined }
}
function setNumber(field: (typeof NUMBERS)[number], typed: string) {
  const value = typed.trim() ? Number(typed.trim().replace(',', '.')) : undefined
  // What is no number is sent as one that cannot be, and comes back with its field named.
  set(field, Number.isNaN(value) ? -1 : value)
}
</script>

<template>
  <details class="setup" :open="wrong" data-test="setup">
    <summary>{{ text.setup.title }}</summary>
    <p class="small muted">{{ text.setup.about }}</p>
    <div class="grid">
      <v-select
        v-for="choice in choices"
        :key="choice.field"
        :model-value="setup[choice.field] ?? null"
        :items="choice.items"
        :label="choice.label"
        clearable
        :data-test="`setup-${choice.field}`"
        @update:model-value="set(choice.field, $event)"
      />
      <v-text-field
        v-for="name in NUMBERS"
        :key="name"
        :model-value="setup[name] ?? ''"
        :label="text.setup.numbers[name]"
        :error-messages="of(`setup.${name}`)"
        inputmode="decimal"
        autocomplete="off"
        :data-test="`setup-${name}`"
        @update:model-value="setNumber(name, String($event))"
      />
      <v-text-field
        v-for="name in ['country', 'examiners'] as const"
        :key="name"
        :model-value="setup[name] ?? ''"
        :label="text.setup.words[name]"
        :error-messages="of(`setup.${name}`)"
        dir="auto"
        @update:model-value="set(name, $event)"
      />
    </div>
  </details>
  <p v-if="said" class="small muted wrap-anywhere" data-test="setup-said">{{ said }}</p>
</template>

<style scoped>
summary {
  cursor: pointer;
  font-weight: 600;
}
.grid {
  display: grid;
  grid-template-columns: repeat(2, minmax(0, 1fr));
  gap: 10px 8px;
  align-items: start;
  margin-top: 10px;
}
</style>
