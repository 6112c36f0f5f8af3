import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { watchDebounced } from '@vueuse/core'
import { computed, provide, ref, watch } from 'vue'
import { useRoute } from 'vue-router'

import { api, ApiProblem, data } from '@/shared/api/client'
import { useConditions, useTest } from '@/shared/api/queries'
import type { FieldError, Finding, SheetInput, TestView } from '@/shared/api/types'
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'
import { undoBar } from '@/shared/undo'
import { forget, keep, type Kept } from '@/shared/unsaved'
import { useAutosave } from '@/shared/useAutosave'
import { useEditingHistory } from '@/shared/useEditingHistory'
import { copy } from '@/shared/copy'
import { editorContext } from './editorContext'
import { blankSheet, duplicate, loadSheet, saveSheet, sheetAt, sheetInput } from './sheetDraft'
import { differences } from './sheetDifferences'
import { keptKey, useKept } from './useKept'

/**
 * Writing a new sheet, or editing one that was read at a version, for the page of the whole form and for a part of the
 * sheet in its place. What is typed is kept; a conflict keeps both texts. `done` is told of the sheet that was saved.
 */
export function useSheetEditing(id: string | undefined, done: (saved: TestView) => unknown) {
  const route = useRoute()
  const { region, condition } = useQuestion()
  const stored = useTest(
    () => id ?? '',
    () => !!id,
  )
  const unsaved = useKept(id)
  const client = useQueryClient()
  /** Whoever shows what is left here must not show what it was before. */
  const place = id ?? 'new'
  const leave = (left: Kept<SheetInput> | null) => client.setQueryData(keptKey(id), left)

  const draft = ref(blankSheet(region.value, condition.value?.name ?? ''))
  const version = ref<number | null>(null)
  const ready = ref(false)
  /** When what stands here was left, if it was taken up again. */
  const resumed = ref('')
  const pristine = ref('')
  const errors = ref<FieldError[]>([])
  /** The text that was refused last. */
  let refused: SheetInput | null = null
  const findings = ref<Finding[]>([])
  const failure = ref('')
  const saving = ref(false)
  const theirs = ref<TestView | null>(null)
  /** The text that this one and theirs began from; nothing where the history does not tell. */
  const base = ref<SheetInput | null>(null)

  const { begin: beginHistory, ...history } = useEditingHistory(draft, () => void save())

  const keeping = useAutosave<SheetInput>({
    of: draft,
    typed: () => (ready.value ? draft.value : null),
    send: async (typed) => {
      // Back at the saved text by undo: nothing is left to go on with.
      const left =
        JSON.stringify(typed) === pristine.value ? null : { version: version.value, content: typed }
      if (left) await keep('sheet', place, left.version, left.content)
      else await forget('sheet', place)
      leave(left && { ...left, at: new Date().toISOString() })
    },
  })

  /** Begins from what is saved (or from another test's sheet), or goes on with what was being written. */
  async function begin(goOn: boolean) {
    const from = String(route.query.from ?? '')
    const saved = id ? stored.data.value : undefined
    if (saved) {
      draft.value = sheetInput(saved)
      version.value = saved.version
    } else if (from) {
      draft.value = duplicate(await loadSheet(from))
    } else {
      draft.value = blankSheet(region.value, condition.value?.name ?? '')
    }
    pristine.value = JSON.stringify(draft.value)
    // What was left comes first, also when another sheet was to be begun from: it would be written over unseen.
    const left = goOn ? unsaved.data.value : null
    resumed.value = ''
    if (left && differences(left.content, draft.value).length) {
      draft.value = copy(left.content)
      version.value = left.version
      resumed.value = left.at
    }
    errors.value = []
    failure.value = ''
    ready.value = true
    keeping.begin()
    beginHistory()
  }
  watch(
    [stored.data, unsaved.isFetched],
    ([test, fetched]) => {
      // What came first is what is being edited: a later refetch must not replace what was typed.
      if (!ready.value && fetched && (test || !id)) void begin(true)
    },
    { immediate: true },
  )
  watch(condition, (known) => {
    if (!id && ready.value && !draft.value.condition && known) draft.value.condition = known.name
  })
  async function beginAnew() {
    await forget('sheet', place)
    leave(null)
    await begin(false)
  }

  let looks = 0
  async function look() {
    if (!ready.value) return
    looks += 1
    const mine = looks
    try {
      const body = { test: id ?? null, sheet: copy(draft.value) }
      const checked = data(await api.POST('/api/v1/checks', { body }))
      // The answer to an earlier text says nothing of this one.
      if (mine !== looks) return
      findings.value = checked.findings
      unfinished.value = checked.errors.length > 0
      // A field that was refused and is right now says so at once; new faults wait until saving is tried.
      const still = checked.errors.filter((error) => errors.value.some((told) => told.field === error.field))
      const taken = errors.value.filter(
        (told) => takenStill(told) && !still.some((it) => it.field === told.field),
      )
      errors.value = [...still, ...taken]
      if (!errors.value.length) failure.value = ''
    } catch (cause) {
      if (!(cause instanceof ApiProblem)) throw cause
    }
  }
  /** Only saving finds out that another test has a name: until the names change, looking the text over says nothing of it. */
  const takenStill = (told: FieldError) =>
    told.code === 'duplicate' &&
    refused?.name === draft.value.name &&
    String(refused.aliases) === String(draft.value.aliases)
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
    const sent = copy(draft.value)
    try {
      await keeping.rest()
      const saved = await saveSheet(id, version.value, sent)
      leave(null)
      pristine.value = JSON.stringify(draft.value)
      keeping.pending.value = false
      undoBar.offer(text.editor.saved)
      await done(saved)
    } catch (cause) {
      refused = sent
      await explain(cause)
    } finally {
      keeping.resume()
      saving.value = false
    }
  }

  async function explain(cause: unknown) {
    if (!(cause instanceof ApiProblem)) throw cause
    if (cause.code === 'changed_meanwhile' && id) {
      base.value = await sheetAt(id, version.value)
      theirs.value = await loadSheet(id)
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

  return {
    stored,
    draft,
    ready,
    resumed,
    beginAnew,
    errors,
    findings,
    unfinished,
    failure,
    saving,
    save,
    theirs,
    base,
    settled,
    ...history,
    pending: keeping.pending,
    keptAt: keeping.keptAt,
  }
}

export type SheetEditing = ReturnType<typeof useSheetEditing>
