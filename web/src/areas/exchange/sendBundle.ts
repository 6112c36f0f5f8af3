import { api, data } from '@/shared/api/client'
import type { Imported } from '@/shared/api/types'

/** What to do: only look, keep what is here, or replace the tests of these names. */
type Wish = { preview: true } | { changed: 'keep' } | { replace: string[] }

/** Sends the file as it is: the server reads it, and says everything that is wrong with it. */
export async function sendBundle(file: File, query: Wish): Promise<Imported> {
  return data(
    await api.POST('/api/v1/bundle', {
      params: { query },
      body: (await file.text()) as never,
      bodySerializer: (body) => body as never,
      headers: { 'Content-Type': 'application/json' },
    }),
  )
}
