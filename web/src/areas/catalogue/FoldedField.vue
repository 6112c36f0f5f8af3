<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { text } from '@/shared/text'
import { useEditor } from './editorContext'
import type { Value } from './fieldKinds'
import { written } from './sheetValues'

/** A field that a simple test leaves empty: closed until it is opened, holds something, or is at fault. */
const props = defineProps<{ label: string; hint?: string; value: Value | undefined; path: string }>()

const { errors, findings } = useEditor()
const within = (field: string) =>
  field === props.path || field.startsWith(`${props.path}.`) || field.startsWith(`${props.path}[`)
const needed = computed(
  () => written(props.value) || [...errors.value, ...findings.value].some((it) => within(it.field)),
)
const open = ref(needed.value)
watch(needed, (now) => {
  if (now) open.value = true
})
const entries = computed(() => (Array.isArray(props.value) ? props.value.length : 0))
</script>

<template>
  <details :open="open" class="folded" @toggle="open = ($event.target as HTMLDetailsElement).open">
    <summary>
      {{ label }}
      <span v-if="entries" class="muted small">{{ text.editor.written(entries) }}</span>
      <span v-else-if="hint && !open" class="muted small">{{ hint }}</span>
    </summary>
    <div v-if="open" class="inner"><slot /></div>
  </details>
</template>

<style scoped>
summary {
  min-height: 32px;
  padding: 4px 0;
  font-size: 0.875rem;
  font-weight: 600;
}
.inner {
  padding: 4px 0 6px 14px;
  border-left: 2px solid var(--line);
}
/* The summary says the name already. */
.inner :deep(> .group > legend),
.inner :deep(> .list > legend) {
  position: absolute;
  width: 1px;
  height: 1px;
  overflow: hidden;
  clip-path: inset(50%);
}
</style>
