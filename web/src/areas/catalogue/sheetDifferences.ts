import type { SheetInput } from '@/shared/api/types'
import { copy } from '@/shared/copy'
import type { Entry, Field, Value } from './fieldKinds'
import { sheetFields, variantFields } from './sheetFields'
import { shown } from './sheetValues'

export interface Difference {
  /** Path of the field, such as `variants[1].steps`. */
  path: string
  /** Its label, after that of what holds it. */
  label: string
  one: string
  other: string
}

/** Every field in which two texts of a sheet differ; variants are compared field by field, lists line by line. */
export function differences(one: SheetInput, other: SheetInput): Difference[] {
  const [left, right] = [one as unknown as Entry, other as unknown as Entry]
  const found = sheetFields.flatMap((field) =>
    differing(field, left[field.key], right[field.key], field.key, ''),
  )
  return found.map((difference) => ({ ...difference, ...apart(difference.one, difference.other) }))
}

/** Of two lists only the lines that the other does not have; both whole when only their order differs. */
function apart(one: string, other: string): { one: string; other: string } {
  const [left, right] = [one.split('\n'), other.split('\n')]
  const only = (lines: string[], others: string[]) =>
    lines.filter((line) => !others.includes(line)).join('\n')
  const lines = { one: only(left, right), other: only(right, left) }
  return lines.one || lines.other ? lines : { one, other }
}

/** Fields in which two ways of doing a test differ. */
export function variantDifferences(one: object, other: object): Difference[] {
  return variantFields
    .filter((field) => !['name', 'origin', 'difference', 'effect'].includes(field.key))
    .flatMap((field) =>
      differing(field, (one as Entry)[field.key], (other as Entry)[field.key], field.key, ''),
    )
}

function differing(
  field: Field,
  one: Value | undefined,
  other: Value | undefined,
  path: string,
  before: string,
): Difference[] {
  if (field.kind === 'list' && field.tabs) {
    const [left, right] = [(one ?? []) as Entry[], (other ?? []) as Entry[]]
    const longest = Math.max(left.length, right.length)
    return Array.from({ length: longest }, (_, index) => {
      const name = String(left[index]?.name ?? right[index]?.name ?? '')
      const label = `${name || `${index + 1}`}: `
      return field.fields.flatMap((inner) =>
        differing(
          inner,
          left[index]?.[inner.key],
          right[index]?.[inner.key],
          `${path}[${index}].${inner.key}`,
          label,
        ),
      )
    }).flat()
  }
  const words = { one: shown(field, one), other: shown(field, other) }
  return words.one === words.other ? [] : [{ path, label: before + field.label, ...words }]
}

/** What stands at a path such as `variants[1].steps`. */
export function valueAt(sheet: object, path: string): Value | undefined {
  const keys = path.split(/[.[\]]+/).filter(Boolean)
  return keys.reduce<Value | undefined>(
    (value, key) => (value as Entry | null | undefined)?.[key],
    sheet as Entry,
  )
}

/** A copy of the sheet with another value at a path. */
export function withValueAt<T extends object>(sheet: T, path: string, value: Value | undefined): T {
  const changed = copy(sheet)
  const keys = path.split(/[.[\]]+/).filter(Boolean)
  const last = keys.pop()
  const holder = keys.reduce<Entry>((entry, key) => (entry[key] ??= {}) as Entry, changed as unknown as Entry)
  if (last !== undefined) holder[last] = value ?? null
  return changed
}
