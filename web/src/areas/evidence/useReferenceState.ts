import { computed } from 'vue'

import type { ReferenceFilter } from '@/shared/api/queries'
import type { CitationStyle } from '@/shared/api/types'
import { type Query, useAddress } from '@/shared/question/useAddress'
import { text } from '@/shared/text'

/** References on one page. */
export const PAGE = 50

/** Search, order, style and page of the list; they live in the address. */
export function useReferenceState() {
  const address = useAddress()
  const change = (changes: Query) => address.change({ page: undefined, ...changes })
  const said = (name: string, known: object, usual: string) => {
    const given = address.one(name)
    return given in known ? given : usual
  }
  const unlessUsual = (value: string, usual: string) => (value === usual ? undefined : value)
  const page = computed(() => Math.max(0, Math.floor(Number(address.one('page') || 1)) - 1 || 0))

  return {
    page,
    filter: computed<ReferenceFilter>(() => ({
      search: address.one('search'),
      order: said('order', text.references.orders, 'added'),
      style: said('style', text.references.styles, 'ama') as CitationStyle,
      offset: page.value * PAGE,
      limit: PAGE,
    })),
    setSearch: (value: string) => change({ search: value || undefined }),
    setOrder: (value: string) => change({ order: unlessUsual(value, 'added') }),
    setStyle: (value: string) => change({ style: unlessUsual(value, 'ama') }),
    setPage: (value: number) => change({ page: value ? String(value + 1) : undefined }),
  }
}
