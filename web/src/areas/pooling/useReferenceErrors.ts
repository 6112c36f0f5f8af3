import { computed } from 'vue'

import type { ReferenceRange, TestRow } from '@/shared/api/types'
import { useAddress } from '@/shared/question/useAddress'
import { text } from '@/shared/text'
import { typedNumber } from '@/shared/typedNumber'

export const NAMES = ['sensitivity', 'specificity'] as const
export type Name = (typeof NAMES)[number]
export const ENDS = ['lower', 'estimate', 'upper'] as const
const key = (name: Name) => `reference_${name}`

function share(said: string | undefined): number | null {
  const value = typedNumber(said ?? '')
  return value != null && value >= 0 && value <= 100 ? value / 100 : null
}

/** How the reference standard errs, as somebody states it: three percentages of each figure (from, most likely, to), kept in the address. */
export function useReferenceErrors() {
  const words = text.pool.referenceErrors
  const { one, change } = useAddress()
  const shown = (name: Name, end: number) => one(key(name)).split('-')[end] ?? ''
  function set(name: Name, end: number, value: string) {
    const three = [0, 1, 2].map((index) => (index === end ? value.trim() : shown(name, index)))
    void change({ [key(name)]: three.some(Boolean) ? three.join('-') : undefined })
  }
  /** As studies of it found, with their interval as the range. */
  function takeFrom({ summary }: TestRow) {
    const digits = (value: number) => String(Math.round(value * 1000) / 10)
    const three = (name: Name) => {
      const of = summary?.[name]
      return of ? ENDS.map((end) => digits(of[end])).join('-') : undefined
    }
    void change(Object.fromEntries(NAMES.map((name) => [key(name), three(name)])))
  }
  /** Who gives no range means the one value. */
  const range = (name: Name) => {
    const [lower, estimate, upper] = [0, 1, 2].map((end) => share(shown(name, end)))
    if (estimate == null) return null
    return { lower: lower ?? estimate, estimate, upper: upper ?? estimate }
  }
  const ordered = (name: Name) => {
    const of = range(name)
    return !of || (of.lower <= of.estimate && of.estimate <= of.upper)
  }
  const refused = (name: Name, end: number) => {
    const said = shown(name, end)
    if (said && share(said) == null) return words.noShare
    return end === 1 && !ordered(name) ? words.order : ''
  }
  /** Nothing while one is missing or out of order. */
  const errors = computed<ReferenceRange | null>(() => {
    const [sensitivity, specificity] = [range('sensitivity'), range('specificity')]
    return sensitivity && specificity && NAMES.every(ordered) ? { sensitivity, specificity } : null
  })
  return { errors, shown, set, takeFrom, refused }
}
