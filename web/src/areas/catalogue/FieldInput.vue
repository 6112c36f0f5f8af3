<script setup lang="ts">
import { computed } from 'vue'

import { typedNumber } from '@/shared/typedNumber'
import { shownConditions, useEditor } from './editorContext'
import EntryList from './EntryList.vue'
import FoldedField from './FoldedField.vue'
import InterpretationEditor from './InterpretationEditor.vue'
import type { Entry, Field, Value } from './fieldKinds'

/** One field of a sheet, whatever its kind; lists and groups hold fields of their own. */
const model = defineModel<Value | undefined>({ required: true })
const props = defineProps<{ field: Field; path: string }>()

const { draft, errors, findings, structures, conditions } = useEditor()

/** Opened in its own fold; the fold draws the same field without it. */
const opened = computed(() => ({ ...props.field, folds: false }))

const messages = computed(() => {
  // A list of words is one field: what is wrong with any of them stands there.
  const mine = errors.value.filter(
    ({ field }) =>
      field === props.path || (props.field.kind === 'texts' && field.startsWith(`${props.path}[`)),
  )
  return mine.map((error) => `${error.message} ${error.remedy}`)
})
const found = computed(() => findings.value.some((finding) => finding.field === props.path))
/** What every kind of input needs. */
const common = computed(() => ({
  label: props.field.label,
  hint: props.field.hint,
  persistentHint: !!props.field.hint,
  errorMessages: messages.value,
  class: { found: found.value },
  'data-path': props.path,
}))

const items = computed(() => {
  if (props.field.kind === 'choice' || props.field.kind === 'choices')
    return Object.entries(props.field.words).map(([value, title]) => ({ value, title }))
  return []
})
const suggestions = computed(() => {
  if (props.field.kind !== 'suggest') return []
  if (props.field.from === 'structures') return structures.value
  if (props.field.from === 'conditions') return conditions.value
  if (props.field.from === 'shown') return shownConditions(draft.value)
  if (props.field.from === 'variants') return draft.value.variants.map((it) => it.name).filter(Boolean)
  const index = Number(/^variants\[(\d+)\]/.exec(props.path)?.[1] ?? 0)
  return (draft.value.variants[index]?.phases ?? []).map((phase) => phase.name).filter(Boolean)
})

function setNumber(typed: string) {
  model.value = typedNumber(typed)
}
function setPart(key: string, value: Value | undefined) {
  model.value = { ...(model.value as Entry), [key]: value ?? null }
}
</script>

<template>
  <FoldedField v-if="field.folds" :label="field.label" :hint="field.hint" :value="model" :path="path">
    <FieldInput v-model="model" :field="opened" :path="path" />
  </FoldedField>
  <v-text-field
    v-else-if="field.kind === 'line'"
    v-bind="common"
    :model-value="String(model ?? '')"
    dir="auto"
    @update:model-value="model = $event"
  />
  <v-textarea
    v-else-if="field.kind === 'text'"
    v-bind="common"
    :model-value="String(model ?? '')"
    rows="1"
    auto-grow
    dir="auto"
    @update:model-value="model = $event"
  />
  <v-combobox
    v-else-if="field.kind === 'texts'"
    v-bind="common"
    :model-value="(model as string[]) ?? []"
    multiple
    chips
    closable-chips
    :delimiters="[';']"
    @update:model-value="model = $event as string[]"
  />
  <v-text-field
    v-else-if="field.kind === 'number'"
    v-bind="common"
    :model-value="model === null || model === undefined ? '' : String(model)"
    :suffix="field.unit"
    inputmode="decimal"
    type="number"
    step="any"
    hide-spin-buttons
    @update:model-value="setNumber(String($event ?? ''))"
  />
  <v-select
    v-else-if="field.kind === 'choice'"
    v-bind="common"
    :model-value="model || null"
    :items="items"
    :clearable="!['region', 'purpose'].includes(path)"
    @update:model-value="model = $event"
  />
  <v-select
    v-else-if="field.kind === 'choices'"
    v-bind="common"
    :model-value="(model as string[]) ?? []"
    :items="items"
    multiple
    @update:model-value="model = $event as string[]"
  />
  <v-combobox
    v-else-if="field.kind === 'suggest'"
    v-bind="common"
    :model-value="String(model ?? '')"
    :items="suggestions"
    @update:model-value="model = String($event ?? '')"
  />
  <v-checkbox
    v-else-if="field.kind === 'flag'"
    :model-value="model === true"
    :label="field.label"
    :data-path="path"
    hide-details
    density="compact"
    @update:model-value="model = $event === true"
  />
  <EntryList
    v-else-if="field.kind === 'list'"
    :model-value="(model as Entry[]) ?? []"
    :field="field"
    :path="path"
    @update:model-value="model = $event"
  />
  <fieldset v-else-if="field.kind === 'group'" class="group" :data-path="path">
    <legend>
      {{ field.label }} <span v-if="field.hint" class="muted small">{{ field.hint }}</span>
    </legend>
    <div v-for="part in field.fields" :key="part.key" :style="{ gridColumn: `span ${part.span ?? 12}` }">
      <FieldInput
        :model-value="(model as Entry)?.[part.key]"
        :field="part"
        :path="`${path}.${part.key}`"
        @update:model-value="setPart(part.key, $event)"
      />
    </div>
  </fieldset>
  <InterpretationEditor v-else-if="field.kind === 'table'" :path="path" :fields="field.fields" />
</template>

<style scoped>
.group {
  display: grid;
  grid-template-columns: repeat(12, minmax(0, 1fr));
  gap: 10px;
  padding: 0;
  border: 0;
}
.group legend {
  margin-bottom: 6px;
  font-size: 0.875rem;
  font-weight: 600;
}
/* The cross takes room from the words: it comes with the pointer or the focus. */
:deep(.v-field__clearable) {
  display: none;
}
:deep(.v-input:hover .v-field__clearable),
.v-input:hover :deep(.v-field__clearable),
.v-input:focus-within :deep(.v-field__clearable) {
  display: flex;
}
.found :deep(.v-field) {
  box-shadow: inset 3px 0 0 rgb(var(--v-theme-warning));
}
@media (max-width: 700px) {
  .group > div {
    grid-column: span 12 !important;
  }
}
</style>
