import { useQuery } from '@tanstack/vue-query'

import { api, data } from '@/shared/api/client'
import type { SheetInput } from '@/shared/api/types'

export interface Kept {
  version: number | null
  sheet: SheetInput
  at: string
}

export const keptKey = (id: string | undefined) => ['unsaved', id ?? 'new']

/** What you were writing here and have not saved; asked for anew wherever it is shown or gone on with. */
export function useKept(id: string | undefined, enabled = true) {
  return useQuery({
    queryKey: keptKey(id),
    queryFn: async () =>
      data(await api.GET('/api/v1/unsaved/{id}', { params: { path: { id: id ?? 'new' } } })) as Kept | null,
    enabled,
    staleTime: Infinity,
    gcTime: 0,
    refetchOnWindowFocus: false,
  })
}
