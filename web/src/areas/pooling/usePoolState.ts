import { replaceEqualDeep } from '@tanstack/vue-query'
import { computed } from 'vue'

import type { Facet, IntervalChoice, ModelChoice, PoolInput } from '@/shared/api/types'
import { useAddress, type Query } from '@/shared/question/useAddress'
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'

export const FACETS = Object.keys(text.pool.facets) as Facet[]
export type RowOrder = keyof typeof text.pool.orders

/** What can be chosen of a pool; what is not named stays as it is. */
export interface Choice {
  tests?: string[]
  only?: Partial<Record<Facet, string[]>>
  off?: string[]
  by?: Facet | null
  model?: ModelChoice
  /** None: as set for everybody. */
  interval?: IntervalChoice | null
}

/** How the address says it; nothing for what every pool begins with. */
function said({ tests, only, off, by, model, interval }: Choice): Query {
  const values = (facet: Facet) => (only?.[facet]?.length ? only[facet] : undefined)
  return {
    ...(tests && { tests }),
    ...(only && Object.fromEntries(FACETS.map((facet) => [facet, values(facet)]))),
    ...(off && { off: off.length ? off : undefined }),
    ...(by !== undefined && { by: by ?? undefined }),
    ...(model && { model: model === 'auto' ? undefined : model }),
    ...(interval !== undefined && { interval: interval ?? undefined }),
  }
}

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
  const interval = computed<IntervalChoice | null>(() =>
    one('interval') in text.pooled.intervals ? (one('interval') as IntervalChoice) : null,
  )
  const inputWith = (choice: Choice): PoolInput => ({
    tests: choice.tests ?? tests.value,
    condition: condition.value?.name ?? null,
    selection: {
      only: (choice.only ?? only.value) as Record<string, string[]>,
      from: year('from'),
      until: year('until'),
      off: choice.off ?? off.value,
    },
    by: choice.by === undefined ? by.value : choice.by,
    model: choice.model ?? model.value,
    interval: choice.interval === undefined ? interval.value : choice.interval,
  })
  const order = computed<RowOrder>(() =>
    one('order') in text.pool.orders ? (one('order') as RowOrder) : 'entered',
  )

  return {
    tests,
    only,
    off,
    by,
    model,
    interval,
    order,
    from: computed(() => year('from')),
    until: computed(() => year('until')),
    /** How many filters there are. */
    narrowed: computed(
      () => Object.keys(only.value).length + Number(year('from') != null) + Number(year('until') != null),
    ),
    input: same(() => inputWith({})),
    /** What would be pooled after a choice. */
    inputWith,
    choose: (choice: Choice) => change(said(choice)),
    /** A result's switch the other way. */
    switched(result: string): Choice {
      const others = off.value.filter((id) => id !== result)
      return { off: others.length < off.value.length ? others : [...others, result] }
    },
    /** What was chosen for other tests says nothing of these. */
    ofTests: (ids: string[]): Choice => ({
      tests: ids,
      off: [],
      by: by.value === 'test' && ids.length < 2 ? null : by.value,
    }),
    /** Of a facet these values only; without any, all of them. */
    narrowedTo(facet: Facet, values: string[]): Choice {
      const all = Object.entries({ ...only.value, [facet]: values })
      return { only: Object.fromEntries(all.filter(([, chosen]) => chosen.length)) }
    },
    setYear: (which: 'from' | 'until', value: string) => change({ [which]: value || undefined }),
    clear: () => change({ ...said({ only: {} }), from: undefined, until: undefined }),
    setOrder: (to: RowOrder) => change({ order: to === 'entered' ? undefined : to }),
  }
}

export type PoolState = ReturnType<typeof usePoolState>
