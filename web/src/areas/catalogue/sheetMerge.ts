import type { SheetInput } from '@/shared/api/types'
import { copy } from '@/shared/copy'
import type { Entry } from './fieldKinds'
import { type Difference, differences, valueAt, withValueAt } from './sheetDifferences'
import { written } from './sheetValues'

/** A field in which two texts differ, and who changed it since both began from the same one. */
export interface Contested extends Difference {
  by: 'me' | 'them' | 'both'
}

/**
 * What two people changed in the same text. A field that only one of them changed is that one's; one that both changed, or of which that
 * cannot be told, is for the reader to decide. Without the text that both began from everything is.
 */
export function contested(base: SheetInput | null, mine: SheetInput, theirs: SheetInput): Contested[] {
  const changed = (of: SheetInput) => new Set(base ? differences(base, of).map(({ path }) => path) : [])
  const [byMe, byThem] = [changed(mine), changed(theirs)]
  // With another number of variants the n-th of one text is not the n-th of the other.
  const counts = [base, mine, theirs].map((sheet) => sheet?.variants?.length ?? 0)
  const shifted = new Set(counts).size > 1
  return differences(mine, theirs).map((difference) => {
    const { path } = difference
    const unsure = !base || (shifted && path.startsWith('variants')) || byMe.has(path) === byThem.has(path)
    return { ...difference, by: unsure ? 'both' : byThem.has(path) ? 'them' : 'me' }
  })
}

/** My text with theirs at some paths; variants of which nothing is left go. */
export function merged(mine: SheetInput, theirs: SheetInput, taken: string[]): SheetInput {
  const whole = taken.reduce((sheet, path) => withValueAt(sheet, path, valueAt(theirs, path)), copy(mine))
  return { ...whole, variants: whole.variants?.filter((it) => written(it as unknown as Entry)) ?? [] }
}
