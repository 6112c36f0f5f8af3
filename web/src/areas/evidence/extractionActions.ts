import { api, data } from '@/shared/api/client'
import { extractionKey, queryClient, refresh } from '@/shared/api/queries'
import type { DoubleExtractionView, ExtractionInput } from '@/shared/api/types'
import { text } from '@/shared/text'
import { undoBar } from '@/shared/undo'

/** Steps of a double extraction. */

const at = (id: string, header: { 'If-Match': string }) => ({ params: { path: { id }, header } })
const tag = (version: number) => ({ 'If-Match': `"${version}"` })

/** Whoever shows it next begins from what is stored now. */
function known(view: DoubleExtractionView): DoubleExtractionView {
  queryClient.setQueryData(extractionKey(view.id), view)
  return view
}

export async function askForReport(testId: string, referenceId: string, asked: string) {
  const report = { test_id: testId, reference_id: referenceId, asked }
  const added = data(await api.POST('/api/v1/extractions', { body: { report } }))
  undoBar.offer(text.extraction.added, () => takeOff(added.id))
  await refresh()
  return added
}

/** Has a result on record read a second time. */
export async function askForResult(resultId: string): Promise<DoubleExtractionView> {
  const added = data(await api.POST('/api/v1/extractions', { body: { result: { result_id: resultId } } }))
  await refresh()
  return added
}

export async function takeOff(id: string): Promise<void> {
  await api.DELETE('/api/v1/extractions/{id}', { params: { path: { id } } })
  await refresh()
}

export async function saveOwn(
  id: string,
  header: { 'If-Match': string },
  content: ExtractionInput,
  handIn: boolean,
): Promise<DoubleExtractionView> {
  const body = { hand_in: handIn, content }
  return known(data(await api.PUT('/api/v1/extractions/{id}/mine', { ...at(id, header), body })))
}

/** Back in the reader's hands, as it stands. */
export async function takeBack({ id, mine }: DoubleExtractionView): Promise<void> {
  if (mine) await saveOwn(id, tag(mine.version), mine.content, false)
  await refresh()
}

export async function giveUp(id: string, version: number): Promise<void> {
  known(data(await api.DELETE('/api/v1/extractions/{id}/mine', at(id, tag(version)))))
  undoBar.offer(text.extraction.givenUp)
  await refresh()
}

/** What stands goes to its sheet; a result on record is corrected at the versions that were read. */
export async function settle(
  { id, result }: DoubleExtractionView,
  settled: ExtractionInput,
  reasons: Record<string, string>,
): Promise<void> {
  const versions = result
    ? { study_id: result.study_id, study_version: result.study_version, result_version: result.version }
    : {}
  const body = { ...versions, settled, reasons }
  known(data(await api.POST('/api/v1/extractions/{id}/settlement', { params: { path: { id } }, body })))
  undoBar.offer(text.extraction.settled)
}
