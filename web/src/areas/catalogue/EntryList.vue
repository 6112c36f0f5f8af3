<script setup lang="ts">
import { mdiArrowDown, mdiArrowUp, mdiClose, mdiDotsHorizontal, mdiDragVertical, mdiPlus } from '@mdi/js'
import { useSortable } from '@vueuse/integrations/useSortable'
import { nextTick, ref } from 'vue'

import IconButton from '@/shared/layout/IconButton.vue'
import { text } from '@/shared/text'
import { copy } from '@/shared/copy'
import { useEditor } from './editorContext'
import FieldInput from './FieldInput.vue'
import type { Entry, Field, Value } from './fieldKinds'
import { blank, written } from './sheetValues'

/** A list of entries that are added, removed and put in order, by mouse or by keyboard; long ones stand in tabs. */
const entries = defineModel<Entry[]>({ required: true })
const props = defineProps<{ field: Extract<Field, { kind: 'list' }>; path: string }>()

const { errors, findings } = useEditor()
const list = ref<HTMLElement | null>(null)
const tab = ref(0)
/** Entries of which everything is shown, by position. */
const opened = ref(new Set<number>())

useSortable(list, entries, {
  handle: '.handle',
  animation: 0,
  onUpdate: ({ oldIndex, newIndex }: { oldIndex?: number; newIndex?: number }) => {
    if (oldIndex !== undefined && newIndex !== undefined) move(oldIndex, newIndex)
  },
})

const shownFields = (entry: Entry, index: number) =>
  props.field.fields.filter(
    (part) => !part.more || opened.value.has(index) || written(entry[part.key]) || faulty(index, part.key),
  )
const hidden = (entry: Entry, index: number) => props.field.fields.length > shownFields(entry, index).length
function faulty(index: number, key: string) {
  const at = `${props.path}[${index}].${key}`
  return errors.value.some((error) => error.field.startsWith(at))
}
const messages = (index: number) =>
  findings.value.filter((finding) => finding.field === `${props.path}[${index}]`)

function set(index: number, key: string, value: Value | undefined) {
  entries.value = entries.value.with(index, { ...entries.value[index], [key]: value ?? null })
}
async function add(entry: Entry = blank(props.field.fields)) {
  entries.value = [...entries.value, entry]
  tab.value = entries.value.length - 1
  await nextTick()
  const all = list.value?.querySelectorAll<HTMLElement>(':scope > .entry')
  all?.[all.length - 1]?.querySelector<HTMLElement>('input, textarea:not([aria-hidden])')?.focus()
}
function remove(index: number) {
  entries.value = entries.value.filter((_, at) => at !== index)
  tab.value = Math.max(0, Math.min(tab.value, entries.value.length - 1))
}
function move(from: number, to: number) {
  if (to < 0 || to >= entries.value.length) return
  const moved = [...entries.value]
  moved.splice(to, 0, ...moved.splice(from, 1))
  entries.value = moved
  tab.value = to
}
const open = (index: number) => (opened.value = new Set([...opened.value, index]))
const copied = (index: number) => {
  const entry = copy(entries.value[index] as Entry)
  return add({ ...entry, name: '' })
}
</script>

<template>
  <fieldset class="list" :data-path="path">
    <legend>
      {{ field.label }} <span v-if="field.hint" class="muted small">{{ field.hint }}</span>
    </legend>
    <v-tabs v-if="field.tabs && entries.length" v-model="tab" density="compact" show-arrows>
      <v-tab v-for="(entry, index) in entries" :key="index" :value="index">
        {{ entry.name || text.editor.unnamed(index + 1) }}
      </v-tab>
    </v-tabs>
    <div ref="list" :class="{ tabs: field.tabs }">
      <div
        v-for="(entry, index) in entries"
        v-show="!field.tabs || tab === index"
        :key="index"
        class="entry"
        :data-path="`${path}[${index}]`"
      >
        <span v-if="!field.tabs" class="handle" :title="text.editor.drag" aria-hidden="true">
          <v-icon :icon="mdiDragVertical" size="18" />
          <template v-if="field.numbered">{{ index + 1 }}</template>
        </span>
        <div class="fields">
          <div
            v-for="part in shownFields(entry, index)"
            :key="part.key"
            :style="{ gridColumn: `span ${part.span ?? 12}` }"
          >
            <FieldInput
              :model-value="entry[part.key]"
              :field="part"
              :path="`${path}[${index}].${part.key}`"
              @update:model-value="set(index, part.key, $event)"
            />
          </div>
          <p v-for="finding in messages(index)" :key="finding.message" class="finding small">
            {{ finding.message }} {{ finding.remedy }}
          </p>
        </div>
        <span class="tools">
          <IconButton
            v-if="hidden(entry, index)"
            :icon="mdiDotsHorizontal"
            :label="text.editor.more(index + 1)"
            data-test="more"
            @click="open(index)"
          />
          <IconButton
            :icon="mdiArrowUp"
            :disabled="index === 0"
            :label="text.editor.up(index + 1)"
            @click="move(index, index - 1)"
          />
          <IconButton
            :icon="mdiArrowDown"
            :disabled="index === entries.length - 1"
            :label="text.editor.down(index + 1)"
            @click="move(index, index + 1)"
          />
          <IconButton :icon="mdiClose" :label="text.editor.removeItem(index + 1)" @click="remove(index)" />
        </span>
      </div>
    </div>
    <div class="adding">
      <v-btn
        :prepend-icon="mdiPlus"
        size="small"
        variant="text"
        :data-test="`add-${field.key}`"
        @click="add()"
      >
        {{ field.add }}
      </v-btn>
      <v-btn v-if="field.tabs && entries.length" size="small" variant="text" @click="copied(tab)">
        {{ text.editor.copyVariant }}
      </v-btn>
    </div>
  </fieldset>
</template>

<style scoped>
.list {
  min-width: 0;
  padding: 0;
  border: 0;
}
legend {
  font-size: 0.875rem;
  font-weight: 600;
}
.entry {
  display: flex;
  gap: 6px;
  align-items: flex-start;
  padding: 8px 0;
  border-bottom: 1px solid var(--line);
}
.tabs > .entry {
  padding-top: 14px;
}
.handle {
  display: flex;
  flex: none;
  align-items: center;
  width: 34px;
  padding-top: 8px;
  color: var(--muted);
  font-size: 0.8125rem;
  cursor: grab;
}
.fields {
  display: grid;
  flex: 1;
  grid-template-columns: repeat(12, minmax(0, 1fr));
  gap: 10px;
  min-width: 0;
}
.finding {
  grid-column: span 12;
  padding-left: 8px;
  border-left: 3px solid rgb(var(--v-theme-warning));
}
.tools {
  display: flex;
  flex: none;
  flex-wrap: wrap;
  justify-content: flex-end;
  width: 60px;
}
.adding {
  margin-top: 4px;
}
@media (max-width: 700px) {
  .fields > div {
    grid-column: span 12 !important;
  }
}
</style>
