import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import type { Sort } from '@/shared/api/types'
import { text } from '@/shared/text'

const DEFAULT_SORT: Sort = 'lr_positive'

/** Search and order of the list; they live in the address. */
export function useListState() {
  const route = useRoute()
  const router = useRouter()
  const change = (changes: Record<string, string | undefined>) =>
    router.replace({ query: { ...route.query, ...changes } })

  return {
    search: computed(() => String(route.query.search ?? '').trim()),
    sort: computed<Sort>(() => {
      const given = String(route.query.sort ?? '')
      return given in text.sorts ? (given as Sort) : DEFAULT_SORT
    }),
    reverse: computed(() => route.query.reverse === 'true'),
    setSearch: (value: string) => change({ search: value.trim() || undefined }),
    setSort: (value: Sort) => change({ sort: value === DEFAULT_SORT ? undefined : value }),
    setReverse: (value: boolean) => change({ reverse: value ? 'true' : undefined }),
  }
}
