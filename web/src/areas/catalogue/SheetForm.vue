<script setup lang="ts">
import { type Entry, type Value, sections } from './sheetFields'
import { useEditor } from './editorContext'
import FieldInput from './FieldInput.vue'

const { draft } = useEditor()

const value = (key: string) => (draft.value as unknown as Entry)[key]
function set(key: string, to: Value | undefined) {
  draft.value = { ...draft.value, [key]: to ?? null }
}
</script>

<template>
  <section v-for="section in sections" :id="`part-${section.key}`" :key="section.key" class="part">
    <h2>{{ section.title }}</h2>
    <div class="fields">
      <div
        v-for="field in section.fields"
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
  </section>
</template>

<style scoped>
.part {
  padding: 18px 0;
  border-top: 1px solid var(--line);
  scroll-margin-top: 60px;
}
.part:first-of-type {
  border-top: 0;
  padding-top: 6px;
}
h2 {
  margin-bottom: 12px;
}
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
