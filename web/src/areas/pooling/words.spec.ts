import { describe, expect, it } from 'vitest'

import type { Note, Warning } from '@/shared/api/types'
import { limitWords, noteWords, warningWords } from './words'

const warnings: Warning[] = [
  { code: 'few_studies', both_arms: 1 },
  { code: 'one_armed_studies', count: 2 },
  { code: 'at_boundary', boundary: 'rho_minus_one' },
  { code: 'at_boundary', boundary: 'tau2_sens_zero' },
  { code: 'perfect_arm', arm: 'non_diseased', n: 22, upper: 0.148 },
  { code: 'perfect_arm', arm: 'diseased', n: 1005, upper: 0.003 },
  { code: 'hopeless_arm', arm: 'diseased', n: 9, upper: 0.3 },
  { code: 'conservative_ratios' },
  { code: 'variance_not_identified' },
  { code: 'quadrature_limit', nodes: 91 },
  { code: 'half_added', studies: 2 },
  { code: 'no_arm', arm: 'diseased' },
]
const notes: Note[] = [
  { code: 'half_added' },
  { code: 'no_false_negatives', n: 12, upper: 0.24 },
  { code: 'no_false_positives', n: 24, upper: 0.138 },
  { code: 'no_diseased_arm' },
  { code: 'no_non_diseased_arm' },
  { code: 'no_positive_result' },
  { code: 'no_negative_result' },
]

describe('words beside a figure', () => {
  it('exist for every warning and note, as sentences without a gap', () => {
    for (const sentence of [...warnings.map(warningWords), ...notes.map(noteWords)]) {
      expect(sentence).toMatch(/^[A-Z0-9].{15,}\.$/)
      expect(sentence).not.toMatch(/undefined|null|NaN/)
    }
  })

  it('tell singular from plural and the two groups apart', () => {
    expect(warningWords({ code: 'one_armed_studies', count: 1 })).toContain('One study reports')
    expect(warningWords({ code: 'few_studies', both_arms: 3 })).toContain('3 studies report')
    expect(warningWords(warnings[4]!)).toContain('0 of 22 were false positives')
    expect(warningWords(warnings[5]!)).toContain('Nobody of 1\u202f005 was missed')
    expect(noteWords(notes[2]!)).toContain('14\u202f% false positives')
  })

  it('picks what limits a result where it is read', () => {
    expect(limitWords(warnings)).toHaveLength(3)
    expect(limitWords([])).toEqual([])
  })
})
