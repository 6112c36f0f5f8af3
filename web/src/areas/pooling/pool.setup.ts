import { result } from '@/areas/evidence/results.setup'
import type { PoolAnswer, Pooled, ResultView } from '@/shared/api/types'

const share = { estimate: 0.8, lower: 0.7, upper: 0.9 }
const lr = (estimate: number, lower: number, upper: number) => ({ estimate, lower, upper })

/** A pooled answer of two results. */
export const pooled = {
  k: 2,
  diseased: 50,
  non_diseased: 50,
  model: 'independent',
  method: 'fixed; Wald intervals',
  workings: { sensitivity: 'model', specificity: 'pooled_exact', ratios: 'combined_ends' },
  reason: 'few_studies',
  ladder: [],
  converged: true,
  stop: 'converged',
  iterations: 9,
  gradient_norm: 0,
  nodes: 11,
  boundary: 'none',
  level: 0.95,
  interval: 'wald',
  sensitivity: share,
  specificity: share,
  lr_positive: lr(4, 0.9, 17),
  lr_negative: lr(0.25, 0.1, 0.6),
  dor: lr(16, 4, 60),
  mu: { sens: 1.4, spec: 1.4 },
  tau2: { sens: 0.1, spec: 0.2 },
  rho: null,
  cov_mu: null,
  log_likelihood: -10,
  simpler: null,
  warnings: [],
} as unknown as Pooled

const weight = { sensitivity: 0.5, specificity: 0.5 }
const none = { sensitivity: null, specificity: null }

/** What the server answers of results r1 to r4: two in, one of the same people, one of another setting. */
export const answer: PoolAnswer = {
  condition: 'Weakness',
  evidence: 'few_studies',
  sample: true,
  pooled,
  not_pooled: null,
  prediction: { sensitivity: null, specificity: null, lr_positive: null, lr_negative: null },
  reading: {
    positive: { shift: 'small', at_least: 'reversed', at_most: 'large' },
    negative: { shift: 'small', at_least: 'slight', at_most: 'large' },
    spread: 'not_known',
    limits: [
      { code: 'few_studies', both_arms: 2 },
      { code: 'crosses_one', positive: true },
    ],
  },
  heterogeneity: null,
  roc: null,
  rows: [
    { result: 'r1', out: null, weight, level: null },
    { result: 'r2', out: null, weight, level: null },
    { result: 'r3', out: { code: 'same_people' }, weight: none, level: null },
    { result: 'r4', out: { code: 'facet', facet: 'setting' }, weight: none, level: null },
  ],
  facets: [
    {
      facet: 'setting',
      values: [
        { value: 'primary_care', results: 2 },
        { value: '', results: 2 },
      ],
    },
  ],
  compared: null,
  agreement: [
    {
      test: 'a',
      between: 'examiners',
      measure: 'kappa',
      k: 2,
      subjects: 80,
      sample: true,
      estimate: { estimate: 0.31, lower: 0.1, upper: 0.52 },
      size: { word: 'fair', scheme: 'landis_koch1977' },
      i2: 0.4,
      low: true,
    },
  ],
} as PoolAnswer

/** Those results themselves. */
export const results: ResultView[] = ['r1', 'r2', 'r3', 'r4'].map((id, nth) => ({
  ...result,
  id,
  study: { ...result.study, id: `s${nth}`, reference: `Report ${nth + 1}` },
  accuracy: {
    ...result.accuracy,
    sensitivity: { estimate: 0.5 + nth / 10, lower: 0.4, upper: 0.95 },
  } as ResultView['accuracy'],
}))
