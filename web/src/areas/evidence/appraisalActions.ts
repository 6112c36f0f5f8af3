import { api, data } from '@/shared/api/client'
import { refresh } from '@/shared/api/queries'
import type { AppraisalInput, AppraisalView, Aspect } from '@/shared/api/types'
import { text } from '@/shared/text'
import { undoBar } from '@/shared/undo'

async function put(study: string, aspect: Aspect, version: number, body: AppraisalInput) {
  const path = { id: study, aspect }
  const params = { path, header: { 'If-Match': `"${version}"` } }
  return data(await api.PUT('/api/v1/studies/{id}/appraisals/{aspect}', { params, body }))
}

/** Saves over the version that was read; `before` is what an undo brings back. */
export async function saveAppraisal(
  study: string,
  aspect: Aspect,
  version: number,
  before: AppraisalView | undefined,
  body: AppraisalInput,
): Promise<void> {
  const saved = await put(study, aspect, version, body)
  undoBar.offer(text.appraisal.saved, async () => {
    await put(study, aspect, saved.version, { domains: before?.domains ?? {} })
    await refresh()
  })
}
