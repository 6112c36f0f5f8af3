import { api, data } from '@/shared/api/client'
import { refresh } from '@/shared/api/queries'
import type { Author, ImportView, Reference, ReferenceInput, ReferenceView } from '@/shared/api/types'
import { at, removeWithUndo } from '@/shared/recordChanges'
import { text } from '@/shared/text'
import { undoBar } from '@/shared/undo'

/** Changes of references; each of them can be taken back. */

export function referenceInput(from: Reference): ReferenceInput {
  const { kind, title, authors, year, container, volume, issue, pages, publisher, doi, pmid, url } = from
  return {
    kind,
    title,
    authors,
    year: year ?? null,
    container,
    volume,
    issue,
    pages,
    publisher,
    doi,
    pmid,
    url,
  }
}

async function remove(id: string, version: number): Promise<ReferenceView> {
  const removed = data(await api.DELETE('/api/v1/references/{id}', at(id, version)))
  await refresh()
  return removed
}

async function put(id: string, version: number, body: ReferenceInput): Promise<ReferenceView> {
  return data(await api.PUT('/api/v1/references/{id}', { ...at(id, version), body }))
}

export async function addReference(body: ReferenceInput): Promise<void> {
  const added = data(await api.POST('/api/v1/references', { body }))
  undoBar.offer(text.references.added, async () => void (await remove(added.id, added.version)))
}

export async function correctReference(
  from: ReferenceView,
  version: number,
  body: ReferenceInput,
): Promise<void> {
  const saved = await put(from.id, version, body)
  undoBar.offer(text.references.corrected, async () => {
    await put(from.id, saved.version, referenceInput(from))
    await refresh()
  })
}

export const removeReference = (reference: ReferenceView) =>
  removeWithUndo(
    text.references.removed(reference.label),
    () => remove(reference.id, reference.version),
    (version) => api.POST('/api/v1/references/{id}/restore', at(reference.id, version)),
  )

/** The work that an identifier stands for; gives up when told to. */
export async function lookUp(identifier: string, signal: AbortSignal): Promise<Reference> {
  return data(await api.GET('/api/v1/works', { params: { query: { identifier } }, signal }))
}

export async function findAlike(body: ReferenceInput, signal: AbortSignal, except?: string) {
  return data(await api.POST('/api/v1/references/alike', { params: { query: { except } }, body, signal }))
}

/** Sends a file as it is: the server recognises its format, and says everything that is wrong with it. */
export async function beginReferenceImport(
  file: File,
  wish: { preview: boolean; add?: number[] },
): Promise<ImportView> {
  return data(
    await api.POST('/api/v1/reference-imports', {
      params: { query: { ...wish, name: file.name } },
      body: file as never,
      bodySerializer: (body) => body as never,
      headers: { 'Content-Type': 'text/plain' },
    }),
  )
}

/** One author a line, `Family, Given`; a line without a comma is an institution. */
export const authorLines = (authors: Author[]): string =>
  authors.map(({ family, given }) => (given ? `${family}, ${given}` : family)).join('\n')

export function authorsFrom(lines: string): Author[] {
  const author = (line: string): Author => {
    const [family = '', ...given] = line.split(',')
    return { family: family.trim(), given: given.join(',').trim() }
  }
  return lines
    .split('\n')
    .filter((line) => line.trim())
    .map(author)
}
