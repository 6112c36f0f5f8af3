<script setup lang="ts">
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import FailureNotice from '@/shared/layout/FailureNotice.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'
import EditorFoot from '@/shared/layout/EditorFoot.vue'
import EditorNotices from './EditorNotices.vue'
import FindingsMargin from './FindingsMargin.vue'
import SheetForm from './SheetForm.vue'
import { sections } from './sheetFields'
import { useSheetEditing } from './useSheetEditing'

/** The whole form: a new sheet, or one that was read. */
const props = defineProps<{ id?: string }>()

const route = useRoute()
const router = useRouter()
const { carried, asking } = useQuestion()
const editing = useSheetEditing(props.id, (saved) =>
  // A new test is looked at by its own question.
  router.push({ name: 'sheet', params: { id: saved.id }, query: props.id ? carried.value : asking(saved) }),
)
const { stored, ready, findings, unfinished, save } = editing

const anew = computed(() => {
  if (props.id) return text.editor.beginAnew
  return route.query.from ? text.editor.beginCopy : text.editor.beginEmpty
})
const back = computed(() =>
  props.id
    ? { name: 'sheet', params: { id: props.id }, query: carried.value }
    : { name: 'catalogue', query: carried.value },
)
</script>

<template>
  <div>
    <h1>{{ id ? text.editor.editTitle(stored.data.value?.name ?? '…') : text.editor.newTitle }}</h1>
    <FailureNotice v-if="id && stored.isError.value && !ready" :query="stored" :title="text.sheet.failed" />
    <template v-else-if="ready">
      <EditorNotices :editing="editing" :anew="anew" />
      <div class="desk">
        <form novalidate @submit.prevent="save">
          <SheetForm />
          <EditorFoot :editing="editing">
            <v-btn :to="back" variant="text">{{ text.editor.cancel }}</v-btn>
          </EditorFoot>
        </form>
        <aside>
          <nav :aria-label="text.editor.parts" class="small">
            <a v-for="section in sections" :key="section.key" :href="`#part-${section.key}`">{{
              section.title
            }}</a>
          </nav>
          <FindingsMargin :findings="findings" :waiting="unfinished" />
        </aside>
      </div>
    </template>
    <WaitLine v-else />
  </div>
</template>

<style scoped>
h1 {
  margin-bottom: 10px;
}
.desk {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 250px;
  gap: 32px;
}
aside {
  position: sticky;
  top: 70px;
  align-self: start;
  max-height: calc(100vh - 90px);
  overflow-y: auto;
}
nav {
  display: grid;
  gap: 2px;
  margin-bottom: 18px;
}
/* As high as a pointer has to meet. */
nav a {
  min-height: 24px;
}
@media (max-width: 1020px) {
  .desk {
    grid-template-columns: minmax(0, 1fr);
  }
  aside {
    position: static;
    max-height: none;
    order: -1;
  }
  nav {
    display: none;
  }
}
</style>
