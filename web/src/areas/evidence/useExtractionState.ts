import { computed } from 'vue'

import type { BoardFilter } from '@/shared/api/queries'
import { type Query, useAddress } from '@/shared/question/useAddress'
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'

/** Results on one page. */
export const PAGE = 50

/** Filters and page of the board; they live in the address, the region with the rest of the question. */
export function useExtractionState() {
  const { one: given, change: changed } = useAddress()
  const { region } = useQuestion()
  const change = (changes: Query) => changed({ page: undefined, ...changes })
  const page = computed(() => Math.max(0, Math.floor(Number(given('page') || 1)) - 1 || 0))

  return {
    page,
    filter: computed<BoardFilter>(() => ({
      region: region.value,
      search: given('search'),
      progress: given('progress') in text.extraction.progress ? given('progress') : undefined,
      appraised: given('appraised') in text.extraction.appraisal ? given('appraised') === 'true' : undefined,
      next: given('next') === 'true' || undefined,
      offset: page.value * PAGE,
      limit: PAGE,
    })),
    setSearch: (value: string) => change({ search: value || undefined }),
    setProgress: (value: string | null) => change({ progress: value ?? undefined }),
    setAppraised: (value: string | null) => change({ appraised: value ?? undefined }),
    setNext: (value: boolean) => change({ next: value ? 'true' : undefined }),
    setPage: (value: number) => change({ page: value ? String(value + 1) : undefined }),
  }
}
