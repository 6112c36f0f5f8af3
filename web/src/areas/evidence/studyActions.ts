import { ApiProblem, api, data } from '@/shared/api/client'
import { refresh } from '@/shared/api/queries'
import type { StudyInput, StudyView } from '@/shared/api/types'
import { text } from '@/shared/text'
import { undoBar } from '@/shared/undo'

/** Changes of studies; each of them can be taken back. */

const at = (id: string, version: number) => ({
  params: { path: { id }, header: { 'If-Match': `"${version}"` } },
})

export function studyInput(study: StudyView): StudyInput {
  const { tp = null, fp = null, fn = null, tn = null } = study.counts
  return {
    reference: study.reference,
    reference_id: study.reference_id ?? null,
    population: study.population,
    setup: study.setup,
    reference_standard: study.reference_standard,
    note: study.note ?? '',
    tp,
    fp,
    fn,
    tn,
  }
}

async function remove(id: string, version: number): Promise<StudyView> {
  const removed = data(await api.DELETE('/api/v1/studies/{id}', at(id, version)))
  await refresh()
  return removed
}

async function put(id: string, version: number, body: StudyInput): Promise<StudyView> {
  const saved = data(await api.PUT('/api/v1/studies/{id}', { ...at(id, version), body }))
  await refresh()
  return saved
}

export async function addStudy(testId: string, body: StudyInput): Promise<void> {
  const added = data(await api.POST('/api/v1/tests/{id}/studies', { params: { path: { id: testId } }, body }))
  await refresh()
  undoBar.offer(text.study.added, async () => void (await remove(added.id, added.version)))
}

/** Saves over the version that was read; `before` is what an undo brings back. */
export async function correctStudy(
  id: string,
  version: number,
  before: StudyInput,
  body: StudyInput,
): Promise<void> {
  const saved = await put(id, version, body)
  undoBar.offer(text.study.corrected, async () => void (await put(id, saved.version, before)))
}

export async function removeStudy(study: StudyView): Promise<void> {
  try {
    const removed = await remove(study.id, study.version)
    undoBar.offer(text.study.removed(study.reference), async () => {
      await api.POST('/api/v1/studies/{id}/restore', at(study.id, removed.version))
      await refresh()
    })
  } catch (cause) {
    if (!(cause instanceof ApiProblem)) throw cause
    undoBar.offer(cause.message)
    await refresh()
  }
}

/** The study as it is stored now, to compare with after a conflict. */
export async function currentStudy(testId: string, id: string): Promise<StudyView | null> {
  const studies = data(await api.GET('/api/v1/tests/{id}/studies', { params: { path: { id: testId } } }))
  return studies.find((study) => study.id === id) ?? null
}
