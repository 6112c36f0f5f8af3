import { computed } from 'vue'

import type { Sort } from '@/shared/api/types'
import { useAddress } from '@/shared/question/useAddress'
import { text } from '@/shared/text'
import { positions } from './sheetWords'

const DEFAULT_SORT: Sort = 'lr_positive'

/** What a list can be narrowed by, with the words of each choice. */
export const filters = {
  purpose: { label: text.filters.purpose, words: text.purposes as Record<string, string> },
  position: { label: text.filters.position, words: positions as Record<string, string> },
  equipment: { label: text.filters.equipment, words: text.filters.equipments },
  irritation: { label: text.filters.irritation, words: text.filters.irritations },
  evidence: { label: text.filters.evidence, words: text.evidence as Record<string, string> },
  status: { label: text.filters.status, words: text.review.status as Record<string, string> },
  findings: { label: text.filters.findings, words: text.filters.found },
}
export type FilterName = keyof typeof filters

/** Search, filters and order of the list; they live in the address. */
export function useListState() {
  const { one, change } = useAddress()

  return {
    search: computed(() => one('search').trim()),
    sort: computed<Sort>(() => {
      const given = one('sort')
      return given in text.sorts ? (given as Sort) : DEFAULT_SORT
    }),
    /** Nobody chose an order: a search then puts the best match first. */
    unsorted: computed(() => !(one('sort') in text.sorts)),
    reverse: computed(() => one('reverse') === 'true'),
    /** Filters that are set to something known. */
    narrowed: computed(() => {
      const set = (Object.keys(filters) as FilterName[]).map((name) => [name, one(name)])
      return Object.fromEntries(
        set.filter(([name, value]) => value && value in filters[name as FilterName].words),
      ) as Partial<Record<FilterName, string>>
    }),
    setFilter: (name: FilterName, value: string | null) => change({ [name]: value ?? undefined }),
    clearFilters: () => change(Object.fromEntries(Object.keys(filters).map((name) => [name, undefined]))),
    setSearch: (value: string) => change({ search: value.trim() || undefined }),
    /** While searching, the usual order must be asked for by name: without one the best match comes first. */
    setSort: (value: Sort | 'best') => {
      const unsaid = value === 'best' || (value === DEFAULT_SORT && !one('search'))
      return change({ sort: unsaid ? undefined : value })
    },
    setReverse: (value: boolean) => change({ reverse: value ? 'true' : undefined }),
  }
}
