<script setup lang="ts">
import { computed, ref } from 'vue'

import type { StudySetup } from '@/shared/api/types'
import { text } from '@/shared/text'
import { typedNumber } from '@/shared/typedNumber'
import { setupWords } from './setupWords'

/** How the study was done, as far as its report says; folded away until somebody wants to say it. */
const setup = defineModel<StudySetup>({ required: true })
const props = defineProps<{ of: (field: string) => string[] }>()

const NUMBERS = ['people', 'age', 'youngest', 'oldest', 'women', 'first_year', 'last_year'] as const
/** Where figures are from follows from how they were entered. */
const choices = Object.entries(text.setup.choices)
  .filter(([field]) => field !== 'source')
  .map(([field, { label, words }]) => ({
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

type Numeric = (typeof NUMBERS)[number]
/** What is no number is sent as one that cannot be, so that it is refused and not left out. */
const IMPOSSIBLE = -1
const parse = (text: string) => typedNumber(text) ?? undefined
const read = (text: string) => {
  const value = parse(text)
  return Number.isNaN(value) ? IMPOSSIBLE : value
}
/** As it is being typed: `61,` is on its way to 61.5. */
const typed = ref<Partial<Record<Numeric, string>>>({})
const standing = (name: Numeric) => {
  const text = typed.value[name]
  return text !== undefined && read(text) === (setup.value[name] ?? undefined) ? text : undefined
}
const shown = (name: Numeric) => standing(name) ?? setup.value[name] ?? ''
const fault = (name: Numeric) =>
  Number.isNaN(parse(standing(name) ?? '')) ? text.setup.noNumber : props.of(`setup.${name}`)
function setNumber(name: Numeric, text: string) {
  typed.value = { ...typed.value, [name]: text }
  set(name, read(text))
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
        :model-value="shown(name)"
        :label="text.setup.numbers[name]"
        :error-messages="fault(name)"
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
