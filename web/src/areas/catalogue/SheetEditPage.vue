<script setup lang="ts">
import { mdiRedo, mdiUndo } from '@mdi/js'
import { useQuery } from '@tanstack/vue-query'
import { useDebouncedRefHistory, useEventListener, watchDebounced } from '@vueuse/core'
import { computed, onBeforeUnmount, provide, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { api, ApiProblem, data } from '@/shared/api/client'
import { useConditions, useTest } from '@/shared/api/queries'
import type { FieldError, Finding, SheetInput, TestView } from '@/shared/api/types'
import { moment } from '@/shared/format'
import StateNotice from '@/shared/layout/StateNotice.vue'
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'
import { undoBar } from '@/shared/undo'
import { editorContext } from './editorContext'
import FindingsMargin from './FindingsMargin.vue'
import SheetConflict from './SheetConflict.vue'
import SheetForm from './SheetForm.vue'
import { blankSheet, duplicate, forget, keep, kept, loadSheet, saveSheet, sheetInput } from './sheetDraft'
import { copy, differences, sections } from './sheetFields'

/** Writes a new sheet, or edits one that was read at a version. What is typed is kept; a conflict keeps both texts. */
const props = defineProps<{ id?: string }>()

const route = useRoute()
const router = useRouter()
const { region, condition, carried, setRegion } = useQuestion()
const stored = useTest(
  () => props.id ?? '',
  () => !!props.id,
)
const unsaved = useQuery({
  queryKey: ['unsaved', props.id ?? 'new'],
  queryFn: () => kept(props.id),
  staleTime: Infinity,
  gcTime: 0,
  refetchOnWindowFocus: false,
})

const draft = ref(blankSheet(region.value, condition.value?.name ?? ''))
const version = ref<number | null>(null)
const ready = ref(false)
/** When what stands here was left, if it was taken up again. */
const resumed = ref('')
const pristine = ref('')
const errors = ref<FieldError[]>([])
const findings = ref<Finding[]>([])
const failure = ref('')
const saving = ref(false)
const theirs = ref<TestView | null>(null)

const history = useDebouncedRefHistory(draft, { deep: true, clone: copy, capacity: 200, debounce: 400 })
const { undo, redo, canUndo, canRedo } = history

/** Begins from what is saved (or from another test's sheet), or goes on with what was being written. */
async function begin(goOn: boolean) {
  const from = String(route.query.from ?? '')
  const saved = props.id ? stored.data.value : undefined
  if (saved) {
    draft.value = sheetInput(saved)
    version.value = saved.version
    // Opened by its bare address, the question is that of the sheet's own region.
    if (!carried.value.region && saved.region !== region.value) void setRegion(saved.region)
  } else if (from) {
    draft.value = duplicate(await loadSheet(from))
  } else {
    draft.value = blankSheet(region.value, condition.value?.name ?? '')
  }
  pristine.value = JSON.stringify(draft.value)
  // What was left comes first, also when another sheet was to be begun from: it would be written over unseen.
  const left = goOn ? unsaved.data.value : null
  resumed.value = ''
  if (left && differences(left.sheet, draft.value).length) {
    draft.value = copy(left.sheet)
    version.value = left.version
    resumed.value = left.at
  }
  last = JSON.stringify(draft.value)
  errors.value = []
  failure.value = ''
  ready.value = true
  history.clear()
}
watch(
  [stored.data, unsaved.isFetched],
  ([test, fetched]) => {
    // What came first is what is being edited: a later refetch must not replace what was typed.
    if (!ready.value && fetched && (test || !props.id)) void begin(true)
  },
  { immediate: true },
)
watch(condition, (known) => {
  if (!props.id && ready.value && !draft.value.condition && known) draft.value.condition = known.name
})
async function beginAnew() {
  await forget(props.id)
  await begin(false)
}

const keptAt = ref('')
const pending = ref(false)
/** The text that the server has: the saved one, or the one that was kept last. */
let last = ''
let keeping = Promise.resolve()
function keepNow() {
  if (!ready.value || saving.value || !pending.value) return
  const typed = copy(draft.value)
  // One after the other: a slow answer must not put an earlier text over a later one.
  keeping = keeping.then(() => keepText(typed))
}
async function keepText(typed: SheetInput) {
  try {
    // Back at the saved text by undo: nothing is left to go on with.
    if (JSON.stringify(typed) === pristine.value) await forget(props.id)
    else await keep(props.id, version.value, typed)
    last = JSON.stringify(typed)
    keptAt.value = new Date().toISOString()
    pending.value = last !== JSON.stringify(draft.value)
  } catch (cause) {
    // The page already says that the server is away; the next change tries again.
    if (!(cause instanceof ApiProblem)) throw cause
  }
}
watch(draft, () => (pending.value = ready.value && JSON.stringify(draft.value) !== last), { deep: true })
watchDebounced(draft, keepNow, { deep: true, debounce: 1200, maxWait: 5000 })

let looks = 0
async function look() {
  if (!ready.value) return
  looks += 1
  const mine = looks
  try {
    const body = { test: props.id ?? null, sheet: copy(draft.value) }
    const checked = data(await api.POST('/api/v1/checks', { body }))
    // The answer to an earlier text says nothing of this one.
    if (mine !== looks) return
    findings.value = checked.findings
    unfinished.value = checked.errors.length > 0
    // A field that was refused and is right now says so at once; new faults wait until saving is tried.
    errors.value = checked.errors.filter((error) => errors.value.some((told) => told.field === error.field))
    if (!errors.value.length) failure.value = ''
  } catch (cause) {
    if (!(cause instanceof ApiProblem)) throw cause
  }
}
const unfinished = ref(false)
watchDebounced([draft, ready], look, { deep: true, debounce: 350, maxWait: 2000, immediate: true })

const conditions = useConditions()
const structures = useQuery({
  queryKey: ['structures', computed(() => draft.value.region)],
  queryFn: async () =>
    data(
      await api.GET('/api/v1/structures', {
        params: { query: { region: draft.value.region as TestView['region'] } },
      }),
    ),
  enabled: computed(() => draft.value.region in text.regions),
  staleTime: 60_000,
})
provide(editorContext, {
  draft,
  errors,
  findings,
  structures: computed(() =>
    (structures.data.value ?? []).filter((it) => !it.retired).map((structure) => structure.name),
  ),
  conditions: computed(() =>
    (conditions.data.value ?? []).filter((c) => c.region === draft.value.region).map((c) => c.name),
  ),
})

async function save() {
  saving.value = true
  errors.value = []
  failure.value = ''
  try {
    await keeping
    const saved = await saveSheet(props.id, version.value, copy(draft.value))
    pristine.value = JSON.stringify(draft.value)
    pending.value = false
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
    window.scrollTo({ top: 0 })
    return
  }
  errors.value = cause.fields
  failure.value = cause.fields.length ? text.editor.errors(cause.fields.length) : cause.message
}

function settled(merged: SheetInput) {
  if (!theirs.value) return
  draft.value = merged
  version.value = theirs.value.version
  theirs.value = null
  void save()
}

useEventListener('keydown', (event: KeyboardEvent) => {
  if (!(event.ctrlKey || event.metaKey)) return
  const key = event.key.toLowerCase()
  if (key === 's') void save()
  else if (key === 'z' && event.shiftKey) redo()
  else if (key === 'z') undo()
  else if (key === 'y') redo()
  else return
  event.preventDefault()
})
useEventListener('beforeunload', (event) => pending.value && event.preventDefault())
onBeforeUnmount(keepNow)

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
      <p v-if="resumed" class="resumed small" data-test="resumed">
        {{ text.editor.goOn(moment(resumed)) }}
        <v-btn size="small" data-test="begin-anew" @click="beginAnew">
          {{ id ? text.editor.beginAnew : route.query.from ? text.editor.beginCopy : text.editor.beginEmpty }}
        </v-btn>
      </p>
      <SheetConflict v-if="theirs" :mine="draft" :theirs="theirs" @settled="settled" />
      <div class="desk">
        <form novalidate @submit.prevent="save">
          <p v-if="failure" class="failure" role="alert" data-test="form-failure">{{ failure }}</p>
          <SheetForm />
          <div class="foot">
            <v-btn type="submit" variant="flat" color="primary" :loading="saving" data-test="save-sheet">
              {{ text.editor.save }}
            </v-btn>
            <v-btn
              :icon="mdiUndo"
              size="small"
              variant="text"
              :disabled="!canUndo"
              :aria-label="text.editor.undo"
              :title="`${text.editor.undo} (Ctrl+Z)`"
              data-test="undo-typing"
              @click="undo()"
            />
            <v-btn
              :icon="mdiRedo"
              size="small"
              variant="text"
              :disabled="!canRedo"
              :aria-label="text.editor.redo"
              :title="`${text.editor.redo} (Ctrl+Shift+Z)`"
              @click="redo()"
            />
            <span class="small muted kept" aria-live="polite" data-test="kept">
              {{ pending ? text.editor.notKept : keptAt ? text.editor.keptAt(moment(keptAt)) : '' }}
            </span>
            <v-btn :to="back" variant="text">{{ text.editor.cancel }}</v-btn>
          </div>
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
    <v-progress-linear v-else indeterminate height="2" color="primary" />
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
  gap: 4px;
  margin-bottom: 18px;
}
.resumed {
  margin-bottom: 10px;
  padding: 8px 12px;
  background: rgba(var(--v-theme-primary), 0.07);
  border-radius: 6px;
}
.failure {
  margin-bottom: 12px;
  color: rgb(var(--v-theme-error));
  font-weight: 600;
}
.foot {
  position: sticky;
  z-index: 2;
  bottom: 0;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  padding: 10px 0;
  background: rgb(var(--v-theme-background));
  border-top: 1px solid var(--line);
}
.kept {
  flex: 1;
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
