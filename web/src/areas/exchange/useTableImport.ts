import { computed, ref, shallowRef } from 'vue'

import { refresh } from '@/shared/api/queries'
import type { TableView } from '@/shared/api/types'
import { text } from '@/shared/text'
import { undoBar } from '@/shared/undo'
import { useAttempt } from '@/shared/useAttempt'
import { isEnded, takeBackImport, useImportRun } from '@/shared/useImportRun'
import { withChanges, type TableChange } from './tableChanges'
import { beginImport, tableColumns, tableRows, type DraftSheet, type Place } from './tableImport'

const MEGABYTE = 1024 * 1024
const MOST_BYTES = 20 * MEGABYTE

/** One table on its way in: its file, what its columns hold, and how it is compared or taken in. */
export function useTableImport() {
  const name = ref('')
  const bytes = shallowRef<Uint8Array | null>(null)
  const view = ref<TableView | null>(null)
  /** By the letters of the column; empty for one that is left out. */
  const mapping = ref<Record<string, string>>({})
  /** What is read in the place of what stands in the file. */
  const changes = ref<TableChange[]>([])
  /** Sheets that are written for tests that have none. */
  const drafts = ref<DraftSheet[]>([])
  const { run, running, follow, stop: stopRun } = useImportRun()
  const { faults, failure, busy, clear: clearFaults, attempt } = useAttempt()

  const held = computed(() => new Set(Object.values(mapping.value).filter(Boolean)))
  const missing = computed(() => {
    const has = (...fields: string[]) => fields.every((field) => held.value.has(field))
    const counts =
      has('tp', 'fn') ||
      has('fp', 'tn') ||
      has('sensitivity', 'with_condition') ||
      has('specificity', 'without_condition')
    // One cell of a group says nothing: the other one's column has another name.
    const half = has('tp') !== has('fn') || has('fp') !== has('tn')
    const needs = { test: !has('test'), reference: !has('reference'), pair: half, counts: !counts && !half }
    return Object.entries(needs).flatMap(([name, needed]) => (needed ? [name] : []))
  })
  const place = computed<Place>(() => ({
    sheet: view.value?.sheets.length ? view.value.sheet : undefined,
    header: view.value?.header_row,
  }))
  const columns = computed(() =>
    Object.entries(mapping.value)
      .filter(([, field]) => field)
      .map(([letter, field]) => `${letter}:${field}`)
      .join(','),
  )
  const checked = computed(() => run.value?.state === 'done' && run.value.preview)

  function clear() {
    run.value = null
    clearFaults()
  }

  /** Reads the columns, of another sheet or with another row of names when asked to. */
  async function look(at: Place = {}) {
    const { value: sent } = bytes
    if (!sent) return
    clear()
    view.value = (await attempt(() => tableColumns(sent, at))) ?? null
    changes.value = []
    drafts.value = []
    mapping.value = Object.fromEntries(view.value?.columns.map((it) => [it.letter, it.field ?? '']) ?? [])
    if (view.value && !missing.value.length) await begin(true)
  }
  async function open(file: File) {
    await stop()
    clear()
    name.value = file.name
    view.value = null
    bytes.value = null
    // The server would break the connection off before it could say so.
    if (file.size > MOST_BYTES) {
      failure.value = text.tableImport.tooLarge(
        Math.ceil(file.size / MEGABYTE),
        Math.floor(MOST_BYTES / MEGABYTE),
      )
      return
    }
    // Kept as it is now: what is checked is what comes in, whatever becomes of the file.
    bytes.value = new Uint8Array(await file.arrayBuffer())
    await look()
  }
  function choose(letter: string, field: string) {
    for (const [other, held] of Object.entries(mapping.value)) {
      if (held === field && other !== letter) mapping.value[other] = ''
    }
    mapping.value[letter] = field
    clear()
  }
  async function begin(preview: boolean) {
    const { value: sent } = bytes
    if (!sent) return
    clear()
    const followed = await attempt(async () => {
      const said = (list: unknown[]) => (list.length ? JSON.stringify(list) : undefined)
      const own = { changes: said(changes.value), drafts: said(drafts.value) }
      await follow(() =>
        beginImport(sent, {
          ...place.value,
          columns: columns.value,
          ...own,
          preview,
          name: name.value,
        }),
      )
      return true
    })
    // Who stopped it meanwhile is told that.
    if (!followed && run.value && !isEnded(run.value)) run.value = null
    const { value: ended } = run
    if (ended?.state !== 'done' || ended.preview) return
    await refresh()
    if (!ended.imported?.results) return
    undoBar.offer(text.tableImport.done(ended.imported.results), async () => {
      await takeBackImport(ended.id)
      forget()
    })
  }
  /** Corrects values while they are read, and checks anew. */
  async function change(more: TableChange[]) {
    changes.value = withChanges(changes.value, more)
    await begin(true)
  }
  async function takeBack(at: number) {
    changes.value = changes.value.filter((_, place) => place !== at)
    await begin(true)
  }
  /** Writes a sheet for a test that has none, together with the table, and checks anew. */
  async function addDraft(sheet: DraftSheet) {
    drafts.value = [...drafts.value.filter((it) => it.name !== sheet.name), sheet]
    await begin(true)
  }
  async function dropDraft(at: number) {
    drafts.value = drafts.value.filter((_, place) => place !== at)
    await begin(true)
  }
  /** Rows as they stand in the file. */
  const rowsOf = (numbers: number[]) =>
    attempt(() => tableRows(bytes.value!, { ...place.value, rows: numbers.join(',') }))
  async function stop() {
    await attempt(stopRun)
  }
  function forget() {
    clear()
    name.value = ''
    bytes.value = null
    view.value = null
  }
  return {
    name,
    view,
    mapping,
    missing,
    changes,
    drafts,
    run,
    running,
    checked,
    faults,
    failure,
    busy,
    open,
    look,
    choose,
    begin,
    change,
    takeBack,
    addDraft,
    dropDraft,
    rowsOf,
    stop,
    forget,
  }
}
