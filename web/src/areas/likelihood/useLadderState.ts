import { computed } from 'vue'

import type { Sort } from '@/shared/api/types'
import { useAddress } from '@/shared/question/useAddress'
import { text } from '@/shared/text'

const words = text.likelihood.ladder
export type Scope = keyof typeof words.scopes
export type Grouping = keyof typeof words.groups

/** More than these beside each other nobody compares. */
export const MOST_PINS = 5

/** What the ladder shows and how; it lives in the address. */
export function useLadderState() {
  const { one, many, change } = useAddress()
  function chosen<T extends string>(name: string, known: Record<T, string>, usual: T) {
    return computed<T>(() => {
      const given = one(name)
      return given in known ? (given as T) : usual
    })
  }
  const scope = chosen<Scope>('scope', words.scopes, 'region')
  const pins = computed(() => many('pin'))
  return {
    scope,
    group: chosen<Grouping>('group', words.groups, 'condition'),
    sort: chosen<Sort>('sort', text.sorts, 'lr_positive'),
    ahead: computed(() => one('ahead') === 'true'),
    pins,
    setScope: (to: Scope) => change({ scope: to === 'region' ? undefined : to }),
    setGroup: (to: Grouping) => change({ group: to === 'condition' ? undefined : to }),
    setSort: (to: Sort) => change({ sort: to === 'lr_positive' ? undefined : to }),
    setAhead: (on: boolean) => change({ ahead: on ? 'true' : undefined }),
    togglePin: (test: string) => {
      const others = pins.value.filter((id) => id !== test)
      // The oldest makes room.
      const next = others.length < pins.value.length ? others : [...others, test].slice(-MOST_PINS)
      return change({ pin: next })
    },
    clearPins: () => change({ pin: undefined }),
  }
}
