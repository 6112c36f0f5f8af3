<script setup lang="ts">
import { useEditor } from './editorContext'
import FieldInput from './FieldInput.vue'
import type { Entry, Value } from './fieldKinds'
import type { sections } from './sheetFields'

/** The fields of one part of a sheet. */
defineProps<{ part: (typeof sections)[number] }>()

const { draft } = useEditor()

const value = (key: string) => (draft.value as unknown as Entry)[key]
function set(key: string, to: Value | undefined) {
  draft.value = { ...draft.value, [key]: to ?? null }
}
</script>

<template>
  <div class="fields">
    <div
      v-for="field in part.fields"
      :key="field.key"
      :style="{ gridColumn: `span ${field.span ?? 12}` }"
      :data-test="field.key"
    >
      <FieldInput
        :model-value="value(field.key)"
        :field="field"
        :path="field.key"
        @update:model-value="set(field.key, $event)"
      />
    </div>
  </div>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: repeat(12, minmax(0, 1fr));
  gap: 16px 12px;
}
@media (max-width: 700px) {
  .fields > div {
    grid-column: span 12 !important;
  }
}
</style>
