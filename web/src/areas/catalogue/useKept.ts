import { useQuery } from '@tanstack/vue-query'

import type { SheetInput } from '@/shared/api/types'
import { keptBefore } from '@/shared/unsaved'

export const keptKey = (id: string | undefined) => ['unsaved', id ?? 'new']

/** The sheet that you were writing here and have not saved; asked for anew wherever it is shown or gone on with. */
export function useKept(id: string | undefined, enabled = true) {
  return useQuery({
    queryKey: keptKey(id),
    queryFn: () => keptBefore<SheetInput>('sheet', id ?? 'new'),
    enabled,
    staleTime: Infinity,
    gcTime: 0,
    refetchOnWindowFocus: false,
  })
}
