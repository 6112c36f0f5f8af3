import { api, data } from '@/shared/api/client'
import type { ImportView } from '@/shared/api/types'

/** What to do: only look, keep what is here, or replace the tests of these names. */
type Wish = { preview: true } | { changed: 'keep' } | { replace: string[] }

/** Begins to bring the file in as it is: the server reads it, and says everything that is wrong with it. */
export async function beginBundleImport(file: File, wish: Wish): Promise<ImportView> {
  return data(
    await api.POST('/api/v1/bundle-imports', {
      params: { query: { ...wish, name: file.name } },
      body: (await file.text()) as never,
      bodySerializer: (body) => body as never,
      headers: { 'Content-Type': 'application/json' },
    }),
  )
}
