import { api, data } from '@/shared/api/client'
import { refresh } from '@/shared/api/queries'
import type { SheetInput, TestView } from '@/shared/api/types'

export function blankSheet(region: string, condition: string): SheetInput {
  return {
    name: '',
    aliases: [],
    region,
    purpose: '',
    condition,
    target_structures: [],
    patient_position: '',
    steps: [''],
    positive_finding: '',
    cautions: [''],
    pitfalls: [''],
  }
}

/** The fields of a stored test that an editor may change, as copies. */
export function sheetInput(test: TestView): SheetInput {
  const fields = Object.keys(blankSheet('', '')) as (keyof SheetInput)[]
  const copy = (value: string | string[]) => (Array.isArray(value) ? [...value] : value)
  return Object.fromEntries(fields.map((field) => [field, copy(test[field])])) as unknown as SheetInput
}

export async function loadSheet(id: string): Promise<TestView> {
  return data(await api.GET('/api/v1/tests/{id}', { params: { path: { id } } }))
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
  await refresh()
  return saved
}
