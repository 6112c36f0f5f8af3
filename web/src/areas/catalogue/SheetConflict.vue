<script setup lang="ts">
import { computed } from 'vue'

import type { SheetInput, TestView } from '@/shared/api/types'
import { text } from '@/shared/text'
import { sheetInput } from './sheetDraft'

/** Both texts of every field that differs; nothing is decided for the user. */
const draft = defineModel<SheetInput>({ required: true })
const props = defineProps<{ theirs: TestView }>()
const emit = defineEmits<{ settled: [] }>()

const labels: Record<keyof SheetInput, string> = {
  name: text.editor.name,
  aliases: text.editor.aliases,
  region: text.editor.region,
  purpose: text.editor.purpose,
  condition: text.editor.condition,
  target_structures: text.editor.targets,
  patient_position: text.editor.position,
  steps: text.editor.steps,
  positive_finding: text.editor.finding,
  cautions: text.editor.cautions,
  pitfalls: text.editor.pitfalls,
}
const saved = computed(() => sheetInput(props.theirs))

function shown(field: keyof SheetInput, value: string | string[]): string {
  if (Array.isArray(value)) return value.filter(Boolean).join('\n')
  if (field === 'region') return text.regions[value as keyof typeof text.regions] ?? value
  if (field === 'purpose') return text.purposes[value as keyof typeof text.purposes] ?? value
  return value.trim()
}
const differing = computed(() =>
  (Object.keys(labels) as (keyof SheetInput)[])
    .map((field) => ({
      field,
      mine: shown(field, draft.value[field]),
      theirs: shown(field, saved.value[field]),
    }))
    .filter(({ mine, theirs }) => mine !== theirs),
)

function take(field: keyof SheetInput) {
  draft.value = { ...draft.value, [field]: sheetInput(props.theirs)[field] }
}
</script>

<template>
  <section class="conflict" role="alert" data-test="conflict">
    <h2>{{ text.editor.conflictTitle }}</h2>
    <p>{{ text.editor.conflictDetail }}</p>
    <p v-if="!differing.length">{{ text.editor.same }}</p>
    <div v-for="entry in differing" :key="entry.field" class="field">
      <h3>{{ labels[entry.field] }}</h3>
      <div>
        <span class="small muted">{{ text.editor.mine }}</span>
        <p class="pre-line wrap-anywhere" dir="auto">{{ entry.mine }}</p>
      </div>
      <div>
        <span class="small muted">{{ text.editor.theirs }}</span>
        <p class="pre-line wrap-anywhere" dir="auto">{{ entry.theirs }}</p>
        <v-btn size="small" :data-test="`take-${entry.field}`" @click="take(entry.field)">{{
          text.editor.takeTheirs
        }}</v-btn>
      </div>
    </div>
    <v-btn color="primary" variant="flat" data-test="settle" @click="emit('settled')">
      {{ text.editor.conflictDone }}
    </v-btn>
  </section>
</template>

<style scoped>
.conflict {
  max-width: 860px;
  margin-bottom: 18px;
  padding: 16px 18px;
  border: 2px solid rgb(var(--v-theme-error));
  border-radius: 8px;
}
.field {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 4px 20px;
  margin: 12px 0;
  padding-top: 10px;
  border-top: 1px solid var(--line);
}
.field h3 {
  grid-column: 1 / -1;
}
</style>
