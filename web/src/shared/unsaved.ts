import { api, data } from './api/client'

/** What somebody is writing and has not saved, kept by the server for them alone. */
export type What =
  'sheet' | 'result' | 'agreement' | 'accuracy-appraisal' | 'agreement-appraisal' | 'reference' | 'plan'

export interface Kept<T> {
  /** The version it began from. */
  version: number | null
  content: T
  at: string
}

const place = (what: What, id: string) => ({ params: { path: { what, id } } })

export async function keptBefore<T>(what: What, id: string): Promise<Kept<T> | null> {
  return data(await api.GET('/api/v1/unsaved/{what}/{id}', place(what, id))) as Kept<T> | null
}

export async function keep(what: What, id: string, version: number | null, content: unknown): Promise<void> {
  await api.PUT('/api/v1/unsaved/{what}/{id}', { ...place(what, id), body: { version, content } })
}

export async function forget(what: What, id: string): Promise<void> {
  await api.DELETE('/api/v1/unsaved/{what}/{id}', place(what, id))
}
