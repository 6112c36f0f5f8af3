import { describe, expect, it } from 'vitest'

import type { Note, Warning, PoolReading, Shift, StudySpread } from '@/shared/api/types'
import { limitWords, noteWords, warningWords, pValue, readingWords, workingWords } from './words'

const warnings: Warning[] = [
  { code: 'few_studies', both_arms: 1 },
  { code: 'one_armed_studies', count: 2 },
  { code: 'at_boundary', boundary: 'rho_minus_one' },
  { code: 'at_boundary', boundary: 'tau2_sens_zero' },
  { code: 'perfect_arm', arm: 'non_diseased', n: 22, upper: 0.148 },
  { code: 'perfect_arm', arm: 'diseased', n: 1005, upper: 0.003 },
  { code: 'none_correct', arm: 'diseased', n: 9, upper: 0.3 },
  { code: 'combined_ends' },
  { code: 'variance_not_identified' },
  { code: 'profile_not_followed' },
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
    expect(warningWords(warnings[5]!)).toContain('0 of 1\u202f005 were missed')
    expect(noteWords(notes[2]!)).toContain('14\u202f% false positives')
  })

  it('tells the method that was used, measure by measure', () => {
    const used = { sensitivity: 'model', specificity: 'pooled_exact', ratios: 'combined_ends' } as const
    const said = workingWords(used, 'independent; Wald intervals')
    expect(said.sensitivity).toContain('Method: independent; Wald intervals.')
    expect(said.specificity).toContain('Clopper and Pearson 1934')
    expect(said.specificity).not.toContain('Method')
    expect(said.lr_positive).not.toContain('delta')
    expect(workingWords().dor).toContain('Woolf')
  })

  it('picks what limits a result where it is read', () => {
    expect(limitWords(warnings)).toHaveLength(3)
    expect(limitWords([])).toEqual([])
  })
})

describe('a reading', () => {
  const worth = (shift: Shift) => ({ shift, at_least: shift, at_most: shift })
  const read = (reading: Partial<PoolReading>) =>
    readingWords(
      { positive: null, negative: null, spread: 'not_known', limits: [], ...reading },
      { positive: '7.1', negative: '0.20' },
    )

  it('says of each result what it is worth, and only of those that can be estimated', () => {
    expect(read({ positive: worth('moderate'), negative: worth('reversed') }).worth).toBe(
      'A positive result raises the probability clearly (LR+ 7.1), a negative result raises it (LR− 0.20).',
    )
    expect(read({ positive: worth('large') }).worth).toBe(
      'A positive result raises the probability strongly (LR+ 7.1). Only one of the two likelihood ratios can be estimated.',
    )
    expect(read({ negative: worth('slight') }).worth).toMatch(
      /^A negative result hardly lowers it \(LR− 0.20\)/,
    )
    expect(read({}).worth).toBe('Neither likelihood ratio can be estimated from these results.')
  })

  it('has a sentence for every spread and every limit', () => {
    const spreads: StudySpread[] = ['not_known', 'none_estimated', 'moderate', 'wide', 'across_one']
    expect(new Set(spreads.map((spread) => read({ spread }).spread)).size).toBe(5)
    const { limits } = read({
      limits: [
        { code: 'single_study' },
        { code: 'few_studies', both_arms: 1 },
        { code: 'no_errors', arm: 'non_diseased', n: 24 },
        { code: 'crosses_one', positive: false },
        { code: 'correlation_at_limit' },
        { code: 'high_risk', results: 2, of: 5 },
        { code: 'not_appraised', results: 1, of: 5 },
        { code: 'several_standards', standards: 3 },
        { code: 'negatives_unverified', results: 1, of: 5 },
        { code: 'uninterpretable', tests: 6, of: 120, results: 1 },
      ],
    })
    expect(limits).toEqual([
      'It rests on a single study.',
      'Only 1 study reports patients with and without the condition.',
      'None of 24 patients without the condition was positive; this does not prove 100 % specificity.',
      'The interval of LR− includes 1: compatible with no diagnostic value.',
      'The correlation is at its limit, so that intervals may be too narrow.',
      '2 of 5 results are at high risk of bias.',
      '1 of 5 results are not appraised, or not in all domains.',
      'The studies used 3 different reference standards.',
      'In 1 of 5 results fewer than half of the patients with a negative test had the reference standard: sensitivity is probably overestimated (partial verification).',
      'Uninterpretable: 6 of 120 tests (5.0 %), left out; reported in one study.',
    ])
  })

  it('prints probabilities of tests as they are printed, never as zero', () => {
    expect([0.000001, 0.0042, 0.018, 0.5].map(pValue)).toEqual(['< 0.001', '= 0.004', '= 0.02', '= 0.50'])
  })
})
