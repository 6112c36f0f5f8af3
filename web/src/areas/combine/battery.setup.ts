import type { BatteryAnswer, ClaimsAnswer } from '@/shared/api/types'

const share = (estimate: number, lower: number, upper: number) => ({ estimate, lower, upper })
const rule = (k: number, se: number, sp: number) => ({
  k,
  sensitivity: share(se, se - 0.1, Math.min(1, se + 0.05)),
  specificity: share(sp, sp - 0.1, Math.min(1, sp + 0.05)),
  lr_positive: share(se / (1 - sp), 1.5, 40),
  lr_negative: share((1 - se) / sp, 0.05, 0.9),
})
const count = (positive: number, lr: number, after: number) => ({
  positive,
  diseased: 0.25,
  non_diseased: 0.25 / lr,
  lr: share(lr, lr / 2, lr * 2),
  after: share(after, after / 2, (1 + after) / 2),
})
const test = (id: string, name: string) => ({
  test: id,
  name,
  evidence: 'few_studies' as const,
  sample: true,
  studies: 3,
  sensitivity: share(0.8, 0.7, 0.88),
  specificity: share(0.7, 0.6, 0.8),
  lr_positive: share(2.7, 1.8, 4),
  lr_negative: share(0.29, 0.2, 0.5),
  warnings: [],
  facets: [],
})
const bounds = (k: number, both_can_rise: boolean) => ({
  k,
  sensitivity: [0.5, 0.9] as [number, number],
  specificity: [0.6, 1] as [number, number],
  lr_positive: [1.25, 'infinity'] as [number, 'infinity'],
  lr_negative: [0.1, 0.83] as [number, number],
  both_can_rise,
})

/** Three tests, at least two positive; a study of that very rule, and one of another. */
export const three: BatteryAnswer = {
  tests: [
    {
      ...test('a', 'Thumb lift'),
      facets: [
        {
          facet: 'variant',
          values: [
            { value: 'seated', results: 2 },
            { value: '', results: 1 },
          ],
        },
      ],
    },
    test('b', 'Thumb press'),
    test('c', 'Thumb hold'),
  ],
  at_least: 2,
  published: {
    evidence: 'one_study',
    studies: 1,
    sample: true,
    summary: { ...rule(2, 0.7, 0.88), dor: null },
    warnings: [],
    results: ['r'],
    reports: ['Alder 2011'],
  },
  similar: [
    {
      result: 's',
      test: 'a',
      report: 'Birch 2015',
      tests: ['Thumb lift', 'Thumb press'],
      rule: 'all',
      same_tests: false,
      sample: true,
      summary: { ...rule(2, 0.6, 0.9), dor: null },
    },
  ],
  independent: {
    counts: [count(0, 0.05, 0.02), count(1, 0.4, 0.15), count(2, 3, 0.56), count(3, 20, 0.9)],
    rules: [rule(1, 0.97, 0.4), rule(2, 0.9, 0.86), rule(3, 0.5, 0.97)],
  },
  dependent: {
    counts: [
      count(0, 0.1, 0.04),
      count(1, 0.5, 0.18),
      { ...count(2, 2, 0.46), lr: null, after: null },
      count(3, 9, 0.79),
    ],
    rules: [rule(1, 0.93, 0.5), rule(2, 0.84, 0.85), rule(3, 0.6, 0.93)],
  },
  bounds: [bounds(1, false), bounds(2, true), bounds(3, false)],
  along: [0, 0.05, 0.1].map((correlation) => ({
    correlation,
    rules: [],
    raises_both: [false, correlation < 0.1, false],
  })),
  covariances: null,
  without: [0, 1, 2].map((nth) => ({ test: nth, rule: rule(2, 0.6, 0.9) })),
  shared: [{ tests: [0, 1], structures: ['Median nerve'], purpose: 'pain_provocation' }],
  sample: true,
}

const possible = {
  window: [0.8, 0.81],
  possible: [0.5, 0.9],
  fault: null,
  only_half_even: false,
  shift: null,
} as const
/** An impossible claim, and one that is possible only if the single figures are others. */
export const claimed = (loosely: boolean): ClaimsAnswer => {
  const sensitivity = { ...possible, window: [0.945, 0.955], fault: 'too_high', shift: 0.051 } as const
  const one = { k: 2, sensitivity, specificity: null, possible: false }
  const check = { claims: [one], sensitivity_slack: 0.05, specificity_slack: 0, together_possible: false }
  const structured = { exactly: check, loosely: { ...check, claims: [{ ...one, possible: loosely }] } }
  return structuredClone({
    ...structured,
    claims: [
      {
        independent: [0.9, 0.86],
        needed_sensitivity: null,
        needed_specificity: { code: 'correlation', from: 0.2, to: 0.35 },
      },
    ],
    along: three.along,
  }) as unknown as ClaimsAnswer
}
