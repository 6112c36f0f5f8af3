import { replaceEqualDeep } from '@tanstack/vue-query'
import { computed } from 'vue'

import type { Facet, ModelChoice, PoolInput } from '@/shared/api/types'
import { useAddress } from '@/shared/question/useAddress'
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'

export const FACETS = Object.keys(text.pool.facets) as Facet[]
export type RowOrder = keyof typeof text.pool.orders

/** What is pooled and how it is looked at; all of it lives in the address. */
export function usePoolState() {
  const { one, many, change } = useAddress()
  const { condition } = useQuestion()
  const year = (name: string) => (/^\d{4}$/.test(one(name)) ? Number(one(name)) : null)

  /** The same object for the same choice: hundreds of rows would be made anew for another choice than theirs. */
  const same = <T>(choice: () => T) => computed<T>((before) => replaceEqualDeep(before, choice()))

  // A test is chosen by `tests`, so that the facet of the same name can filter them.
  const tests = same(() => many('tests'))
  const only = same(() => {
    const said = FACETS.map((facet) => [facet, many(facet)] as const)
    return Object.fromEntries(said.filter(([, values]) => values.length)) as Partial<Record<Facet, string[]>>
  })
  const off = same(() => many('off'))
  const by = computed(() => FACETS.find((facet) => facet === one('by')) ?? null)
  const model = computed<ModelChoice>(() =>
    one('model') in text.pool.choices ? (one('model') as ModelChoice) : 'auto',
  )
  const pooled = (off: string[]): PoolInput => ({
    tests: tests.value,
    condition: condition.value?.name ?? null,
    selection: {
      only: only.value as Record<string, string[]>,
      from: year('from'),
      until: year('until'),
      off,
    },
    by: by.value,
    model: model.value,
  })
  const switched = (result: string) => {
    const others = off.value.filter((id) => id !== result)
    return others.length < off.value.length ? others : [...others, result]
  }
  const order = computed<RowOrder>(() =>
    one('order') in text.pool.orders ? (one('order') as RowOrder) : 'entered',
  )

  return {
    tests,
    only,
    off,
    by,
    model,
    order,
    from: computed(() => year('from')),
    until: computed(() => year('until')),
    /** How many filters there are. */
    narrowed: computed(
      () => Object.keys(only.value).length + Number(year('from') != null) + Number(year('until') != null),
    ),
    input: same(() => pooled(off.value)),
    /** What would be pooled with this result's switch the other way. */
    inputWith: (result: string) => pooled(switched(result)),
    /** What was chosen for other tests says nothing of these. */
    setTests: (ids: string[]) =>
      change({
        tests: ids,
        off: undefined,
        by: by.value === 'test' && ids.length < 2 ? undefined : one('by') || undefined,
      }),
    setOnly: (facet: Facet, values: string[]) => change({ [facet]: values.length ? values : undefined }),
    setYear: (which: 'from' | 'until', value: string) => change({ [which]: value || undefined }),
    clear: () =>
      change({
        ...Object.fromEntries(FACETS.map((facet) => [facet, undefined])),
        from: undefined,
        until: undefined,
      }),
    toggle: (result: string) => change({ off: switched(result) }),
    allOn: () => change({ off: undefined }),
    setBy: (facet: Facet | null) => change({ by: facet ?? undefined }),
    setModel: (choice: ModelChoice) => change({ model: choice === 'auto' ? undefined : choice }),
    setOrder: (to: RowOrder) => change({ order: to === 'entered' ? undefined : to }),
  }
}

export type PoolState = ReturnType<typeof usePoolState>
