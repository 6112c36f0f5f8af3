import { describe, expect, it } from 'vitest'

import { pastedCounts } from './pastedCounts'

const cells = (tp: number | null, fp: number | null, fn: number | null, tn: number | null) => ({
  tp,
  fp,
  fn,
  tn,
})

describe('pasted counts', () => {
  it.each([
    ['TP 34, FP 5, FN 6, TN 40', cells(34, 5, 6, 40)],
    ['tn=40; fn: 6; fp = 5; tp=34', cells(34, 5, 6, 40)],
    ['True positives 34, false-positives 5\nfalse negatives 6\ntrue negatives 40', cells(34, 5, 6, 40)],
    // One group alone.
    ['TP 34 and FN 6 were reported', cells(34, null, 6, null)],
    // Two rows of a spreadsheet, test positive first.
    ['34\t5\r\n6\t40\r\n', cells(34, 5, 6, 40)],
    ['34   5\n6   40', cells(34, 5, 6, 40)],
  ])('are read from %j', (text, expected) => expect(pastedCounts(text)).toEqual(expected))

  it.each(['34', 'TP 34', '34\t5', '34\t5\n6\tforty', '1.5\t5\n6\t40', '34 5\n6 40 1', 'TP rate 0.8', ''])(
    'are not made of %j',
    (text) => expect(pastedCounts(text)).toBeNull(),
  )
})
