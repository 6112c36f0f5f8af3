import type { AgreementView, ResultView, StudySetup, StudyView } from '@/shared/api/types'

const coefficient = (estimate: number) => ({
  value: { estimate, lower: 0.56, upper: 0.84 },
  po: 0.85,
  pe: 0.5,
  se: 0.07,
})

/** What a table of two raters answers. */
export const answer: AgreementView['answer'] = {
  subjects: 100,
  raters: 2,
  categories: ['yes', 'no'],
  headline: {
    measure: 'kappa',
    estimate: { estimate: 0.7, lower: 0.56, upper: 0.84 },
    size: { word: 'substantial', scheme: 'landis_koch1977' },
  },
  notes: [],
  detail: {
    kind: 'two_raters',
    n: 100,
    percent_agreement: { estimate: 0.85, lower: 0.77, upper: 0.91 },
    kappa: coefficient(0.7),
    pabak: 0.7,
    prevalence_index: -0.05,
    bias_index: 0.03,
    specific_agreement: [0.84, null],
    max_kappa: 0.94,
    ac1: coefficient(0.7),
    notes: [],
  },
}

/** A study as the API answers it. */
export const study: StudyView = {
  id: 's',
  version: 2,
  sample: true,
  reference: 'Sample report',
  reference_id: null,
  population: 'Adults',
  setup: {} as StudySetup,
  note: '',
  cited: null,
  results: 1,
  appraisals: [],
}

/** An agreement result as the API answers it. */
export const stored: AgreementView = {
  id: 'g',
  test_id: 'a',
  version: 3,
  sample: true,
  study,
  between: 'occasions',
  finding: 'Weaker',
  examiners: '',
  interval: '',
  page: '',
  note: '',
  figures: {
    kind: 'table',
    rows: [
      ['40', '9'],
      ['6', '45'],
    ],
    weights: 'none',
  },
  answer,
  learners_see: true,
}

const share = { estimate: 0.8, lower: 0.6, upper: 0.9 }

/** A result as the API answers it. */
export const result: ResultView = {
  id: 'r',
  test_id: 'a',
  version: 3,
  sample: true,
  levels: [],
  variant: '',
  criterion: '',
  condition: '',
  stage: '',
  group: '',
  reference_standard: 'Follow-up',
  unit: null,
  together: null,
  preferred: false,
  page: 'Table 2, page 5',
  note: '',
  counts: { tp: 20, fp: 1, fn: 5, tn: 24 },
  others: [],
  left_out: null,
  uninterpretable: { tests: 0, of: 0, results: 0 },
  learners_see: true,
  study,
  accuracy: { sensitivity: share, specificity: share } as unknown as ResultView['accuracy'],
}
