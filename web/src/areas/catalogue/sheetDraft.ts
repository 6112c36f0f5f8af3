import { api, ApiProblem, data } from '@/shared/api/client'
import { refresh } from '@/shared/api/queries'
import type { SheetInput, TestView } from '@/shared/api/types'
import { forget } from '@/shared/unsaved'
import { copy } from '@/shared/copy'
import type { Entry } from './fieldKinds'
import { sheetFields } from './sheetFields'
import { blank } from './sheetValues'

export function blankSheet(region: string, condition: string): SheetInput {
  return { ...(blank(sheetFields) as unknown as SheetInput), region, condition, purpose: '' }
}

/** The fields of a stored test that an editor may change, as copies. */
export function sheetInput(test: TestView): SheetInput {
  const stored = test as unknown as Entry
  const fields = sheetFields.map((field) => [field.key, copy(stored[field.key] ?? null)])
  return Object.fromEntries(fields) as unknown as SheetInput
}

/** Another sheet to begin from: the same text under a name that is still to be given. */
export function duplicate(test: TestView): SheetInput {
  return { ...sheetInput(test), name: '', aliases: [] }
}

export async function loadSheet(id: string): Promise<TestView> {
  return data(await api.GET('/api/v1/tests/{id}', { params: { path: { id } } }))
}

/** The sheet as it stood at a version; nothing when the history cannot tell. */
export async function sheetAt(id: string, version: number | null): Promise<SheetInput | null> {
  try {
    const asked = await api.GET('/api/v1/tests/{id}/history', { params: { path: { id } } })
    const found = data(asked).find((revision) => revision.version === version)
    return found ? sheetInput(found.sheet as unknown as TestView) : null
  } catch (cause) {
    if (cause instanceof ApiProblem) return null
    throw cause
  }
}

/** Adds a sheet, or saves the one that was read at `version`. */
export async function saveSheet(
  id: string | undefined,
  version: number | null,
  body: SheetInput,
): Promise<TestView> {
  const saved = id
    ? data(
        await api.PUT('/api/v1/tests/{id}', {
          params: { path: { id }, header: { 'If-Match': `"${version}"` } },
          body,
        }),
      )
    : data(await api.POST('/api/v1/tests', { body }))
  await forget('sheet', id ?? 'new')
  await refresh()
  return saved
}
