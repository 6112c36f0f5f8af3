<script setup lang="ts">
import { mdiArrowUp, mdiClose, mdiPlus } from '@mdi/js'
import { nextTick, ref } from 'vue'

import type { FieldError } from '@/shared/api/types'
import { text } from '@/shared/text'

/** A list of texts, one line each, in an order that can be changed. */
const lines = defineModel<string[]>({ required: true })
const props = defineProps<{ label: string; field: string; errors: FieldError[]; numbered?: boolean }>()

const list = ref<HTMLElement | null>(null)

function change(index: number, value: string) {
  lines.value = lines.value.with(index, value)
}
async function add() {
  lines.value = [...lines.value, '']
  await nextTick()
  const fields = list.value?.querySelectorAll('textarea:not([aria-hidden])')
  ;(fields?.[fields.length - 1] as HTMLElement | undefined)?.focus()
}
function remove(index: number) {
  lines.value = lines.value.toSpliced(index, 1)
}
function raise(index: number) {
  const copy = [...lines.value]
  copy.splice(index - 1, 2, copy[index]!, copy[index - 1]!)
  lines.value = copy
}
const of = (path: string) =>
  props.errors.filter((error) => error.field === path).map((error) => `${error.message} ${error.remedy}`)
</script>

<template>
  <fieldset ref="list" class="lines">
    <legend>{{ label }}</legend>
    <p v-for="message in of(field)" :key="message" class="error small">{{ message }}</p>
    <div v-for="(line, index) in lines" :key="index" class="line">
      <span v-if="numbered" class="number">{{ index + 1 }}.</span>
      <v-textarea
        :model-value="line"
        :aria-label="text.editor.item(label, index + 1)"
        rows="1"
        :error-messages="of(`${field}[${index}]`)"
        dir="auto"
        @update:model-value="change(index, $event)"
      />
      <v-btn
        :icon="mdiArrowUp"
        variant="text"
        size="small"
        :disabled="index === 0"
        :aria-label="text.editor.up(index + 1)"
        @click="raise(index)"
      />
      <v-btn
        :icon="mdiClose"
        variant="text"
        size="small"
        :aria-label="text.editor.removeItem(index + 1)"
        @click="remove(index)"
      />
    </div>
    <v-btn variant="text" size="small" :prepend-icon="mdiPlus" @click="add">{{ text.editor.addItem }}</v-btn>
  </fieldset>
</template>

<style scoped>
.lines {
  min-width: 0;
  padding: 0;
  border: 0;
}
legend {
  margin-bottom: 4px;
  font-weight: 600;
  font-size: 0.9rem;
}
.line {
  display: flex;
  align-items: flex-start;
  gap: 4px;
  margin-bottom: 6px;
}
.number {
  width: 1.8em;
  padding-top: 8px;
  text-align: right;
  color: var(--muted);
}
.error {
  color: rgb(var(--v-theme-error));
}
</style>
