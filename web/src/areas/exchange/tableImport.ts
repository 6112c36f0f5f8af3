import { api, data } from '@/shared/api/client'
import type { ImportView, TableView } from '@/shared/api/types'

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

/** Begins to compare a table with what is on record (`preview`), or to take it in. */
export async function beginImport(
  bytes: Uint8Array,
  query: Place & { columns: string; changes?: string; preview: boolean; name: string },
): Promise<ImportView> {
  return data(await api.POST('/api/v1/table-imports', { params: { query }, ...sent(bytes) }))
}
