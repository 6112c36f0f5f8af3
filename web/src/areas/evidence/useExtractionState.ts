import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import type { BoardFilter } from '@/shared/api/queries'
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'

/** Results on one page. */
export const PAGE = 50

/** Filters and page of the board; they live in the address, the region with the rest of the question. */
export function useExtractionState() {
  const route = useRoute()
  const router = useRouter()
  const { region } = useQuestion()
  const change = (changes: Record<string, string | undefined>) =>
    router.replace({ query: { ...route.query, page: undefined, ...changes } })
  const given = (name: string) => String(route.query[name] ?? '')
  const page = computed(() => Math.max(0, Math.floor(Number(route.query.page ?? 1)) - 1 || 0))

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
