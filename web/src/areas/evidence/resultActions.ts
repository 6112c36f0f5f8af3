import { api, data } from '@/shared/api/client'
import { refresh } from '@/shared/api/queries'
import type { ResultBody, ResultView } from '@/shared/api/types'
import { at, removeWithUndo, reported } from '@/shared/recordChanges'
import { text } from '@/shared/text'
import { undoBar } from '@/shared/undo'
import { accuracyInput } from './resultFields'
import { studyBack } from './studyDraft'

/** Changes of results; each of them can be taken back. */

async function remove(id: string, version: number): Promise<ResultView> {
  const removed = data(await api.DELETE('/api/v1/results/{id}', at(id, version)))
  await refresh()
  return removed
}

async function put(id: string, version: number, body: ResultBody): Promise<ResultView> {
  const saved = data(await api.PUT('/api/v1/results/{id}', { ...at(id, version), body }))
  await refresh()
  return saved
}

export async function addResult(testId: string, body: ResultBody): Promise<void> {
  const added = data(await api.POST('/api/v1/tests/{id}/results', { params: { path: { id: testId } }, body }))
  undoBar.offer(text.study.added, async () => void (await remove(added.id, added.version)))
}

/** Saves over the version that was read; `before` is what an undo brings back, its study's words too. */
export async function correctResult(before: ResultView, version: number, body: ResultBody): Promise<void> {
  const saved = data(await api.PUT('/api/v1/results/{id}', { ...at(before.id, version), body }))
  undoBar.offer(text.study.corrected, async () => {
    const study = studyBack(before.study, saved.study)
    await put(before.id, saved.version, { ...study, result: accuracyInput(before) })
  })
}

/** Of the results of the same people this one enters the pool from now on. */
export async function preferResult(view: ResultView): Promise<void> {
  await reported(async () => {
    const saved = await put(view.id, view.version, { result: { ...accuracyInput(view), preferred: true } })
    undoBar.offer(text.study.preferred, async () => {
      await put(view.id, saved.version, { result: accuracyInput(view) })
    })
  })
}

export const removeResult = (view: ResultView) =>
  removeWithUndo(
    text.study.removed(view.study.cited?.label ?? view.study.reference),
    () => remove(view.id, view.version),
    (version) => api.POST('/api/v1/results/{id}/restore', at(view.id, version)),
  )

/** The result as it is stored now, to compare with after a conflict. */
export async function currentResult(testId: string, id: string): Promise<ResultView | null> {
  const results = data(await api.GET('/api/v1/tests/{id}/results', { params: { path: { id: testId } } }))
  return results.find((result) => result.id === id) ?? null
}
