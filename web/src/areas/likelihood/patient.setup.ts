import type { PatientAnswer, PatientTest } from '@/shared/api/types'

const share = (estimate: number, lower: number, upper: number) => ({ estimate, lower, upper })
const crossing = (to: 'reassure' | 'between' | 'treat', whole_interval = true) => ({
  from: 'between' as const,
  to,
  crosses: to !== 'between',
  whole_interval,
})

export const lift: PatientTest = {
  test: 'a',
  name: 'Thumb lift',
  evidence: 'several_studies',
  sample: true,
  lr_positive: share(4, 2, 8),
  lr_negative: share(0.25, 0.1, 0.6),
  after_positive: share(0.63, 0.46, 0.77),
  after_negative: share(0.1, 0.04, 0.2),
  crossing_positive: crossing('treat', false),
  crossing_negative: crossing('between'),
  information: 0.2,
  levels: [],
  level_studies: 0,
  warnings: [],
  useful: [
    [0.05, 0.3],
    [0.2, 0.85],
  ],
  useful_surely: [],
}
/** Nobody without the condition was positive. */
export const press: PatientTest = {
  ...lift,
  test: 'b',
  name: 'Thumb press',
  levels: [
    { name: 'easy', ratio: share(0.4, 0.2, 0.7), after: share(0.15, 0.08, 0.23), crossing: null },
    { name: 'hard, 1.5 cm', ratio: share(5, 2, 11), after: share(0.68, 0.46, 0.82), crossing: null },
  ],
  level_studies: 1,
  evidence: 'one_study',
  lr_positive: { estimate: 'infinity', lower: 2.5, upper: 'infinity' },
  after_positive: share(1, 0.5, 1),
  information: 0.3,
  warnings: [{ code: 'perfect_arm', arm: 'non_diseased', n: 22, upper: 0.15 }],
}
export const look: PatientTest = {
  ...lift,
  test: 'c',
  name: 'Thumb look',
  evidence: 'not_studied',
  sample: false,
  lr_positive: null,
  lr_negative: null,
  after_positive: null,
  after_negative: null,
  crossing_positive: null,
  crossing_negative: null,
  information: null,
  useful: [],
}

const frequencies = {
  population: 1000,
  with_condition: 300,
  true_positive: 240,
  false_negative: 60,
  without_condition: 700,
  false_positive: 140,
  true_negative: 560,
}
export const before: PatientAnswer = {
  findings: [],
  pre_test: share(0.3, 0.3, 0.3),
  chain: { steps: [], end: share(0.3, 0.3, 0.3), dependence: null },
  before: 'between',
  crossings: [],
  shared: [],
  tests: [look, lift, press],
  dependent_zone: null,
  focus_at: 0.3,
  frequencies,
  benefit: [0.1, 0.2, 0.3, 0.6].map((threshold) => ({
    threshold,
    by_test: 0.24 - 0.2 * threshold,
    treat_all: 0.3 - threshold,
  })),
}
export const after: PatientAnswer = {
  ...before,
  findings: [
    { test: 'a', positive: true },
    { test: 'c', positive: false },
  ],
  chain: {
    steps: [
      { lr: lift.lr_positive, after: share(0.63, 0.46, 0.77) },
      { lr: null, after: null },
    ],
    end: share(0.63, 0.46, 0.77),
    dependence: { correlation: 0.5, independent: 0.63, dependent: 0.51, crowd: frequencies },
  },
  crossings: [crossing('treat', false), null],
  dependent_zone: 'between',
  shared: [{ tests: [0, 1], structures: ['Median nerve'], purpose: null }],
}
export const background = {
  limits: [
    { test: 'a', limits: [{ code: 'low_agreement', coefficient: 0.31, size: 'fair' }] },
    { test: 'b', limits: [] },
  ],
  other_spectrum: [0.5, 0.6],
  spectrum: [
    { studied: null, share: 0.35, after: [share(0.68, 0.5, 0.8)] },
    {
      studied: { setting: 'primary_care', studies: 2, people: 1500, with_condition: 300, share: 0.2 },
      share: 0.2,
      after: [share(0.5, 0.33, 0.67)],
    },
  ],
}
