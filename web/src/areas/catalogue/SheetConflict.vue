<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'

import type { SheetInput, TestView } from '@/shared/api/types'
import { text } from '@/shared/text'
import { sheetInput } from './sheetDraft'
import { copy, differences, valueAt, withValueAt } from './sheetFields'

/** Both texts of every field that differs; nothing is decided for the user. */
const props = defineProps<{ mine: SheetInput; theirs: TestView }>()
const emit = defineEmits<{ settled: [merged: SheetInput] }>()

const saved = computed(() => sheetInput(props.theirs))
const merged = ref(copy(props.mine))
const differing = computed(() => differences(merged.value, saved.value))

// It comes while somebody looks elsewhere on the page.
const place = ref<HTMLElement | null>(null)
onMounted(() => place.value?.scrollIntoView({ block: 'start' }))

function take(path: string) {
  merged.value = withValueAt(merged.value, path, valueAt(saved.value, path))
}
</script>

<template>
  <section ref="place" class="conflict" role="alert" data-test="conflict">
    <h2>{{ text.editor.conflictTitle }}</h2>
    <p>{{ text.editor.conflictDetail }}</p>
    <p v-if="!differing.length">{{ text.editor.same }}</p>
    <div v-for="entry in differing" :key="entry.path" class="field">
      <h3>{{ entry.label }}</h3>
      <div>
        <span class="small muted">{{ text.editor.mine }}</span>
        <p class="pre-line wrap-anywhere" dir="auto">{{ entry.one || text.review.nothing }}</p>
      </div>
      <div>
        <span class="small muted">{{ text.editor.theirs }}</span>
        <p class="pre-line wrap-anywhere" dir="auto">{{ entry.other || text.review.nothing }}</p>
        <v-btn size="small" :data-test="`take-${entry.path}`" @click="take(entry.path)">{{
          text.editor.takeTheirs
        }}</v-btn>
      </div>
    </div>
    <v-btn color="primary" variant="flat" data-test="settle" @click="emit('settled', merged)">
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
  scroll-margin-top: 70px;
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
