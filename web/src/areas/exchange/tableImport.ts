import { api, data } from '@/shared/api/client'
import type { ImportView, PickedRows, SheetInput, TableView } from '@/shared/api/types'

/** Where in a file the table stands. */
export interface Place {
  sheet?: number
  header?: number
}

const sent = (bytes: Uint8Array) => ({
  body: bytes as never,
  bodySerializer: (body: unknown) => body as never,
  headers: { 'Content-Type': 'application/octet-stream' },
})

/** The columns of a table, and what they are taken to hold. */
export async function tableColumns(bytes: Uint8Array, query: Place): Promise<TableView> {
  return data(await api.POST('/api/v1/table-imports/columns', { params: { query }, ...sent(bytes) }))
}

/** The rows of these numbers as they stand in the file. */
export async function tableRows(bytes: Uint8Array, query: Place & { rows: string }): Promise<PickedRows> {
  return data(await api.POST('/api/v1/table-imports/rows', { params: { query }, ...sent(bytes) }))
}

/** What a draft sheet says at first. */
export type DraftSheet = Pick<SheetInput, 'name' | 'region' | 'purpose' | 'condition' | 'positive_finding'>

/** Begins to compare a table with what is on record (`preview`), or to take it in. */
export async function beginImport(
  bytes: Uint8Array,
  query: Place & { columns: string; changes?: string; drafts?: string; preview: boolean; name: string },
): Promise<ImportView> {
  return data(await api.POST('/api/v1/table-imports', { params: { query }, ...sent(bytes) }))
}
