import type { RawCounts } from '@/shared/api/types'

const NAMES: Record<keyof RawCounts, RegExp> = {
  tp: /\b(?:tp|true[ -]positives?)\D{0,3}?(\d+)\b/i,
  fp: /\b(?:fp|false[ -]positives?)\D{0,3}?(\d+)\b/i,
  fn: /\b(?:fn|false[ -]negatives?)\D{0,3}?(\d+)\b/i,
  tn: /\b(?:tn|true[ -]negatives?)\D{0,3}?(\d+)\b/i,
}

/**
 * The cells that a pasted text gives: named ones (`TP 34, FP 5 …`, in any order, one group alone too), or the two rows of two
 * that a spreadsheet copies, test positive first. Anything else is left to the field into which it is pasted.
 */
export function pastedCounts(text: string): RawCounts | null {
  const named = Object.entries(NAMES).map(([cell, pattern]) => {
    const found = pattern.exec(text)?.[1]
    return [cell, found === undefined ? null : Number(found)] as const
  })
  if (named.filter(([, count]) => count !== null).length >= 2) return Object.fromEntries(named) as RawCounts
  const rows = text
    .trim()
    .split(/\r?\n/)
    .map((row) => row.trim().split(/[\t;]| {2,}/))
  if (rows.length !== 2 || rows.some((row) => row.length !== 2)) return null
  const [tp, fp, fn, tn] = rows.flat().map((cell) => (/^\d+$/.test(cell.trim()) ? Number(cell) : NaN))
  const cells = { tp, fp, fn, tn } as RawCounts
  return Object.values(cells).some(Number.isNaN) ? null : cells
}
