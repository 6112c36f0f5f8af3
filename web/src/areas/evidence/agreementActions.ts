import { api, data } from '@/shared/api/client'
import { refresh } from '@/shared/api/queries'
import type { AgreementBody, AgreementInput, AgreementView } from '@/shared/api/types'
import { at, removeWithUndo } from '@/shared/recordChanges'
import { text } from '@/shared/text'
import { undoBar } from '@/shared/undo'
import { studyBack } from './studyDraft'

/** Changes of agreement results; each of them can be taken back. */

export function agreementInput(view: AgreementInput): AgreementInput {
  const { between, finding, examiners, interval, page, note, figures } = view
  return { between, finding, examiners, interval, page, note, figures }
}

async function remove(id: string, version: number): Promise<AgreementView> {
  return data(await api.DELETE('/api/v1/agreements/{id}', at(id, version)))
}

export async function addAgreement(testId: string, body: AgreementBody): Promise<void> {
  const path = { id: testId }
  const added = data(await api.POST('/api/v1/tests/{id}/agreements', { params: { path }, body }))
  undoBar.offer(text.agreement.added, async () => {
    await remove(added.id, added.version)
    await refresh()
  })
}

/** Saves over the version that was read; `before` is what an undo brings back, its study's words too. */
export async function correctAgreement(
  before: AgreementView,
  version: number,
  body: AgreementBody,
): Promise<void> {
  const saved = data(await api.PUT('/api/v1/agreements/{id}', { ...at(before.id, version), body }))
  undoBar.offer(text.agreement.corrected, async () => {
    const back = { ...studyBack(before.study, saved.study), agreement: agreementInput(before) }
    await api.PUT('/api/v1/agreements/{id}', { ...at(before.id, saved.version), body: back })
    await refresh()
  })
}

export const removeAgreement = (view: AgreementView) =>
  removeWithUndo(
    text.study.removed(view.study.cited?.label ?? view.study.reference),
    () => remove(view.id, view.version),
    (version) => api.POST('/api/v1/agreements/{id}/restore', at(view.id, version)),
  )
