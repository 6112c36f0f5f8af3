<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'

import type { TestView } from '@/shared/api/types'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { text } from '@/shared/text'
import EditorFoot from '@/shared/layout/EditorFoot.vue'
import EditorNotices from './EditorNotices.vue'
import FindingsMargin from './FindingsMargin.vue'
import FormPart from './FormPart.vue'
import SheetBody from './SheetBody.vue'
import { type PartKey, sections } from './sheetFields'
import { useSheetEditing } from './useSheetEditing'

/** The sheet while one of its parts is edited in its place; the others show what was typed in them and is not saved. */
const open = defineModel<PartKey | null>('open', { required: true })
const props = defineProps<{ sheet: TestView }>()

const editing = useSheetEditing(props.sheet.id, () => (open.value = null))
const { draft, ready, save, findings, unfinished } = editing

const preview = computed(() => (ready.value ? ({ ...props.sheet, ...draft.value } as TestView) : props.sheet))
const part = computed(() => sections.find(({ key }) => key === open.value) ?? sections[0]!)
/** Those of the part that is open; the whole list stands above. */
const here = computed(() => {
  const fields = part.value.fields.map((field) => field.key)
  return findings.value.filter((finding) => fields.includes(finding.field.split(/[.[]/)[0] ?? ''))
})

// Whoever chose a part goes on typing there.
const form = ref<HTMLElement | null>(null)
watch(
  [ready, open],
  async () => {
    await nextTick()
    form.value?.querySelector<HTMLElement>('input, textarea')?.focus()
  },
  { immediate: true },
)
</script>

<template>
  <SheetBody class="wide" :sheet="preview" editable :open="open" @edit="open = $event">
    <form v-if="ready" ref="form" novalidate data-test="part-form" @submit.prevent="save">
      <h2>{{ part.title }}</h2>
      <EditorNotices :editing="editing" :anew="text.editor.beginAnew" />
      <FormPart :key="part.key" :part="part" />
      <FindingsMargin v-if="here.length || unfinished" class="found" :findings="here" :waiting="unfinished" />
      <EditorFoot :editing="editing">
        <v-btn variant="text" data-test="leave-part" @click="open = null">{{ text.editor.cancel }}</v-btn>
      </EditorFoot>
    </form>
    <WaitLine v-else />
  </SheetBody>
</template>

<style scoped>
/* A form needs more room than lines that are read. */
article.wide {
  max-width: none;
}
h2 {
  margin-bottom: 12px;
  font-size: 1.05rem;
}
.found {
  margin-top: 14px;
}
</style>
