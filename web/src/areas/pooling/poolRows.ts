import type { PoolAnswer, PoolRow, ResultView } from '@/shared/api/types'
import { arms, label } from '@/areas/evidence/resultWords'
import type { RowOrder } from './usePoolState'

/** A result with what the pool says of it. */
export interface Row {
  result: ResultView
  row: PoolRow
}

/** The results of a pool in the order of the answer, as far as they are loaded. */
export function poolRows(answer: PoolAnswer | null, results: ResultView[]): Row[] {
  const known = new Map(results.map((result) => [result.id, result]))
  return (answer?.rows ?? []).flatMap((row) => {
    const result = known.get(row.result)
    return result ? [{ result, row }] : []
  })
}

/** In the pool, or switched off by hand, which keeps its place so that it can be switched on again. */
export const stands = ({ row }: Row, compared: boolean) =>
  !row.out || (compared && row.level != null) || row.out.code === 'switched_off'

const keys: Record<Exclude<RowOrder, 'entered' | 'label'>, (row: Row) => number | null | undefined> = {
  year: ({ result }) => result.study.setup?.last_year ?? result.study.setup?.first_year,
  sensitivity: ({ result }) => result.accuracy.sensitivity?.estimate,
  specificity: ({ result }) => result.accuracy.specificity?.estimate,
  weight: ({ row }) => (row.weight.sensitivity ?? 0) + (row.weight.specificity ?? 0),
}

/** Largest first, names from A to Z, what is not known last. */
export function ordered(rows: Row[], order: RowOrder): Row[] {
  if (order === 'entered') return rows
  if (order === 'label') {
    return [...rows].sort((a, b) => label(a.result).localeCompare(label(b.result), 'en'))
  }
  const key = keys[order]
  return [...rows].sort((a, b) => (key(b) ?? -Infinity) - (key(a) ?? -Infinity) || 0)
}

/** How many people stand behind a result, and how many of them have the condition. */
export function people({ counts }: ResultView) {
  const { se, sp } = arms(counts)
  return { diseased: se?.n ?? 0, others: sp?.n ?? 0 }
}
