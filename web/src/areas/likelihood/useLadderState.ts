import { computed } from 'vue'

import { useAddress } from '@/shared/question/useAddress'
import { choice, useListPage } from '@/shared/question/useListPage'
import { text } from '@/shared/text'

const words = text.likelihood.ladder
export type Grouping = keyof typeof words.groups

/** More than these beside each other nobody compares. */
export const MOST_PINS = 5

/** What the ladder shows and how, and which tests are pinned beside each other; it lives in the address. */
export function useLadderState() {
  const { many, change } = useAddress()
  const list = useListPage({
    choices: {
      scope: choice(words.scopes, 'region'),
      group: choice(words.groups, 'condition'),
      sort: choice(text.sorts, 'lr_positive'),
    },
    flags: ['ahead'],
  })
  const pins = computed(() => many('pin'))
  return {
    ...list,
    pins,
    togglePin: (test: string) => {
      const others = pins.value.filter((id) => id !== test)
      // The oldest makes room.
      const next = others.length < pins.value.length ? others : [...others, test].slice(-MOST_PINS)
      return change({ pin: next })
    },
    clearPins: () => change({ pin: undefined }),
  }
}
