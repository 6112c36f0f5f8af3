<script setup lang="ts">
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import { onBeforeRouteLeave, useRouter } from 'vue-router'

import { ApiProblem } from '@/shared/api/client'
import { useTest } from '@/shared/api/queries'
import type { FieldError } from '@/shared/api/types'
import StateNotice from '@/shared/layout/StateNotice.vue'
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'
import { undoBar } from '@/shared/undo'
import SheetConflict from './SheetConflict.vue'
import SheetForm from './SheetForm.vue'
import { blankSheet, loadSheet, saveSheet, sheetInput } from './sheetDraft'

/** Writes a new sheet, or edits one that was read at a version; a conflict keeps both texts. */
const props = defineProps<{ id?: string }>()

const router = useRouter()
const { region, condition, carried } = useQuestion()
const stored = useTest(
  () => props.id ?? '',
  () => !!props.id,
)

const draft = ref(blankSheet(region.value, condition.value?.name ?? ''))
const version = ref<number | null>(null)
const pristine = ref(JSON.stringify(draft.value))
const errors = ref<FieldError[]>([])
const failure = ref('')
const saving = ref(false)
const theirs = ref<Awaited<ReturnType<typeof loadSheet>> | null>(null)

watch(
  stored.data,
  (test) => {
    // What came first is what is being edited: a later refetch must not replace what was typed.
    if (!test || version.value !== null) return
    draft.value = sheetInput(test)
    version.value = test.version
    pristine.value = JSON.stringify(draft.value)
  },
  { immediate: true },
)
watch(condition, (known) => {
  if (!props.id && !draft.value.condition && known) draft.value.condition = known.name
})
const ready = computed(() => !props.id || version.value !== null)
const dirty = computed(() => JSON.stringify(draft.value) !== pristine.value)

async function save() {
  saving.value = true
  errors.value = []
  failure.value = ''
  try {
    const saved = await saveSheet(props.id, version.value, draft.value)
    pristine.value = JSON.stringify(draft.value)
    undoBar.offer(text.editor.saved)
    await router.push({ name: 'sheet', params: { id: saved.id }, query: carried.value })
  } catch (cause) {
    await explain(cause)
  } finally {
    saving.value = false
  }
}

async function explain(cause: unknown) {
  if (!(cause instanceof ApiProblem)) throw cause
  if (cause.code === 'changed_meanwhile' && props.id) {
    theirs.value = await loadSheet(props.id)
    return
  }
  errors.value = cause.fields
  failure.value = cause.fields.length ? text.editor.errors(cause.fields.length) : cause.message
}

function settled() {
  if (!theirs.value) return
  version.value = theirs.value.version
  theirs.value = null
  void save()
}

const leaving = computed(() => dirty.value && !saving.value)
onBeforeRouteLeave(() => !leaving.value || window.confirm(text.editor.discard))
const guard = (event: BeforeUnloadEvent) => leaving.value && event.preventDefault()
window.addEventListener('beforeunload', guard)
onBeforeUnmount(() => window.removeEventListener('beforeunload', guard))

const back = computed(() =>
  props.id
    ? { name: 'sheet', params: { id: props.id }, query: carried.value }
    : { name: 'catalogue', query: carried.value },
)
</script>

<template>
  <div>
    <h1>{{ id ? text.editor.editTitle(stored.data.value?.name ?? '…') : text.editor.newTitle }}</h1>
    <StateNotice
      v-if="id && stored.isError.value && !ready"
      tone="error"
      :title="text.sheet.failed"
      :detail="stored.error.value?.message"
    >
      <v-btn @click="stored.refetch()">{{ text.layout.retry }}</v-btn>
    </StateNotice>
    <template v-else-if="ready">
      <SheetConflict v-if="theirs" v-model="draft" :theirs="theirs" @settled="settled" />
      <form novalidate @submit.prevent="save">
        <p v-if="failure" class="failure" role="alert" data-test="form-failure">{{ failure }}</p>
        <SheetForm v-model="draft" :errors="errors" />
        <div class="foot">
          <v-btn type="submit" variant="flat" color="primary" :loading="saving" data-test="save-sheet">
            {{ text.editor.save }}
          </v-btn>
          <v-btn :to="back">{{ text.editor.cancel }}</v-btn>
        </div>
      </form>
    </template>
    <v-progress-linear v-else indeterminate height="2" color="primary" />
  </div>
</template>

<style scoped>
h1 {
  margin-bottom: 14px;
}
.failure {
  margin-bottom: 12px;
  color: rgb(var(--v-theme-error));
  font-weight: 600;
}
.foot {
  position: sticky;
  bottom: 0;
  display: flex;
  gap: 10px;
  padding: 12px 0;
  background: rgb(var(--v-theme-background));
  border-top: 1px solid var(--line);
}
</style>
