import { computed } from 'vue'

import type { Sort } from '@/shared/api/types'
import { choice, useListPage } from '@/shared/question/useListPage'
import { text } from '@/shared/text'
import { positions } from './sheetWords'

const DEFAULT_SORT: Sort = 'lr_positive'

/** What the list of tests can be narrowed by, with the words of each choice. */
export const filters = {
  purpose: { label: text.filters.purpose, words: text.purposes as Record<string, string> },
  kind: { label: text.filters.kind, words: text.filters.kinds as Record<string, string> },
  position: { label: text.filters.position, words: positions as Record<string, string> },
  equipment: { label: text.filters.equipment, words: text.filters.equipments as Record<string, string> },
  irritation: { label: text.filters.irritation, words: text.filters.irritations as Record<string, string> },
  evidence: { label: text.filters.evidence, words: text.evidence as Record<string, string> },
  status: { label: text.filters.status, words: text.review.status as Record<string, string> },
  findings: { label: text.filters.findings, words: text.filters.found as Record<string, string> },
}
export type FilterName = keyof typeof filters
const names = Object.keys(filters) as FilterName[]

/** Search, filters and order of the list of tests; they live in the address. */
export function useListState() {
  const each = names.map((name) => [name, choice(filters[name].words)] as const)
  const list = useListPage({
    choices: {
      ...(Object.fromEntries(each) as Record<FilterName, (typeof each)[0][1]>),
      sort: choice(text.sorts),
    },
    flags: ['reverse'],
  })
  const { chosen, search } = list

  return {
    search,
    setSearch: list.setSearch,
    sort: computed<Sort>(() => chosen.value.sort ?? DEFAULT_SORT),
    /** Nobody chose an order: a search then puts the best match first. */
    unsorted: computed(() => !chosen.value.sort),
    reverse: computed(() => list.on.value.reverse),
    setReverse: (value: boolean) => list.turn('reverse', value),
    /** Filters that are set to something known. */
    narrowed: computed(
      () =>
        Object.fromEntries(
          names.flatMap((name) => (chosen.value[name] ? [[name, chosen.value[name]]] : [])),
        ) as Partial<Record<FilterName, string>>,
    ),
    setFilter: (name: FilterName, value: string | null) => list.choose({ [name]: value }),
    clear: () => list.clear(...names),
    /** While searching, the usual order must be asked for by name: without one the best match comes first. */
    setSort: (value: Sort | 'best') => {
      const unsaid = value === 'best' || (value === DEFAULT_SORT && !search.value)
      return list.choose({ sort: unsaid ? null : value })
    },
  }
}
