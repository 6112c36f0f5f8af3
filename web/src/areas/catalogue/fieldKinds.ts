/** What stands in a part of a sheet; the form, the history and the comparison of two texts are all made of this. */
export type Value = null | string | number | boolean | string[] | Entry | Entry[]
export interface Entry {
  [key: string]: Value
}

export type Field = {
  key: string
  label: string
  hint?: string
  /** Shown only when asked for, or when something is written there. */
  more?: boolean
  /** Closed until something is written there, or it is opened. */
  folds?: boolean
  /** Twelfths of the width of its part. */
  span?: number
} & (
  | { kind: 'line' | 'text' | 'texts' | 'flag' }
  | { kind: 'number'; unit?: string }
  | { kind: 'choice' | 'choices'; words: Record<string, string> }
  | { kind: 'suggest'; from: 'structures' | 'phases' | 'variants' | 'conditions' | 'shown' }
  | { kind: 'list'; fields: Field[]; add: string; numbered?: boolean; tabs?: boolean }
  | { kind: 'group'; fields: Field[] }
  | { kind: 'table'; fields: Field[] }
)

export const line = (key: string, label: string, span = 6, more = false): Field => ({
  kind: 'line',
  key,
  label,
  span,
  more,
})
export const prose = (key: string, label: string, more = false, hint?: string): Field => ({
  kind: 'text',
  key,
  label,
  more,
  ...(hint ? { hint } : {}),
})
export const number = (key: string, label: string, unit = '', span = 2, more = false): Field => ({
  kind: 'number',
  key,
  label,
  unit,
  span,
  more,
})
export const choice = (
  key: string,
  label: string,
  words: Record<string, string>,
  span = 3,
  more = false,
): Field => ({
  kind: 'choice',
  key,
  label,
  words,
  span,
  more,
})
export const choices = (
  key: string,
  label: string,
  words: Record<string, string>,
  span = 4,
  more = false,
): Field => ({ kind: 'choices', key, label, words, span, more })
export const flag = (key: string, label: string, span = 4, more = false): Field => ({
  kind: 'flag',
  key,
  label,
  span,
  more,
})
export const texts = (key: string, label: string, span = 12, hint?: string): Field => ({
  kind: 'texts',
  key,
  label,
  span,
  ...(hint ? { hint } : {}),
})
