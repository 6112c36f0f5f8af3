import type { Asked } from '@/shared/mount.setup'

const share = (estimate: number) => ({ estimate, lower: estimate / 2, upper: Math.min(1, estimate * 1.5) })
const question = {
  key: 'k',
  question: 'Any fall?',
  help: '',
  about: [],
  unsafe_answers: ['yes'],
  scope: 'test',
}
const fit = (test: string, more: object = {}) => ({
  test,
  state: 'ready',
  reasons: [],
  left_out: false,
  alternatives: [],
  ...more,
})
const reading = (outcome: string | null, attempts: object[] = []) => ({
  outcome,
  level: null,
  counts: outcome ? attempts.length - 1 : null,
  after_repeats: false,
  sound_side_too: false,
  attempts,
})
const variant = {
  name: 'As taught',
  position: 'side_lying',
  patient_position: 'Knees bent',
  stance: { sides: null },
  steps: [{ text: 'Press down', hold_seconds: 30, reads: [], optional: false, phase: '' }],
  patient_script: '“Tell me when it hurts.”',
  criteria: [{ outcome: 'positive', text: 'The familiar pain comes' }],
  grading: { name: 'Effort', unit: '', levels: [{ name: 'hard', outcome: 'positive' }] },
}

/** The sheets of two tests, as far as an examination reads them. */
export const sheets = {
  'GET /tests/a': {
    name: 'Raise',
    variants: [variant],
    cautions: [
      {
        text: 'Pain down the leg',
        kind: 'stop_rule',
        variant: '',
        instead: 'Let go.',
        within_hours: null,
        unsafe_answers: [],
      },
    ],
    urgent: [{ finding: 'Numb saddle', action: 'Send to hospital.', within_hours: 0 }],
    pitfalls: [{ text: 'Guards', patient_side: true }],
    positive_finding: 'Pain',
    interpretation: {
      measures: [{ name: 'Gap', unit: 'mm', choices: [], resolution: null }],
      rows: [
        {
          conditions: [{ measure: 'Gap', comparison: 'at_least', value: 12, choices: [] }],
          reading: 'Ring torn',
          grade: '',
          condition: '',
          next_step: 'Send for imaging.',
          urgent: true,
          within_hours: 24,
        },
      ],
    },
  },
  'GET /tests/b': {
    name: 'Spread',
    variants: [{ ...variant, grading: { name: '', unit: '', levels: [] } }],
    cautions: [],
    urgent: [],
    pitfalls: [],
    positive_finding: 'Pain',
    interpretation: { measures: [], rows: [] },
  },
}

/** An examination of two tests that goes on, as the server tells of it. */
export const running = {
  id: 'e',
  version: 1,
  label: 'amber 17',
  plan_id: 'p',
  plan_version: 3,
  plan: {
    title: 'Standard',
    region: 'pelvis',
    affected_side_first: false,
    questions: [{ condition: 'Sore joint' }],
    tests: ['a', 'b'].map((test) => ({ test, variant: '', reason: '', optional: false })),
  },
  named_tests: [
    { id: 'a', name: 'Raise' },
    { id: 'b', name: 'Spread' },
  ],
  sample: true,
  own: true,
  may_share: false,
  created_at: '2026-11-30T10:00:00Z',
  saved_at: '2026-11-30T10:00:00Z',
  finished_at: null,
  shared_at: null,
  due: null,
  patient: {
    answers: {},
    irritable: null,
    cannot_take: [],
    lacking: [],
    minutes: null,
    situations: [],
    wished: [],
  },
  conduct: {
    affected_side: null,
    tests: [],
    urgent: [],
    asked: [],
    conclusion: {
      text: '',
      undecided: false,
      action: null,
      next: '',
      deadline: null,
      done: false,
      treatment: '',
      training: '',
    },
    repeats: [],
  },
  stands: {
    fit: {
      questions: [{ ...question, tests: [0] }],
      situations: [],
      tests: [fit('a'), fit('b')],
      stop: null,
      screened: ['a', 'b'],
      anything: true,
    },
    readings: [reading(null), reading(null)],
    standing: {
      questions: [
        {
          condition: 'Sore joint',
          steps: [],
          now: share(0.3),
          action: null,
          whole_interval: true,
          state: 'open',
          open: [{ test: 0, information: 0.2, changes: 0.4 }],
        },
      ],
      must_not_miss: [{ condition: 'Break', asked: false, in_plan: false }],
      end: 'open',
      next: 0,
      minutes: [2, null],
    },
    repeats: [],
  },
  outcome: null,
  reference: [],
}

type Sent = { conduct: { tests: { test: string; attempts: object[] }[] } }
/** What the server answers to entries: the next version, with each attempt read as it was entered. */
export function saved(one: Asked) {
  const sent = one.body as Sent
  const version = Number(one.headers.get('If-Match')?.replaceAll('"', '')) + 1
  const readings = ['a', 'b'].map((test) => {
    const attempts = sent.conduct.tests.find((it) => it.test === test)?.attempts ?? []
    return attempts.length
      ? reading(
          'positive',
          attempts.map(() => ({ outcome: 'positive', cause: null })),
        )
      : reading(null)
  })
  return { ...running, ...sent, version, stands: { ...running.stands, readings } }
}

/** The same when it is finished. */
export const finished = {
  ...running,
  version: 4,
  finished_at: '2026-11-30T11:00:00Z',
  may_share: true,
  due: '2026-12-01',
  stands: null,
  conduct: {
    ...running.conduct,
    affected_side: 'left',
    tests: [
      {
        test: 'a',
        skipped: false,
        reason: '',
        attempts: [
          {
            side: 'affected',
            shown: 'negative',
            level: '',
            unreadable: null,
            unable: null,
            pain: 'familiar',
            held: 12,
            pain_ended: true,
            pitfalls: ['Guards'],
            overruled: '',
            note: '',
          },
        ],
      },
    ],
    urgent: [
      {
        test: 'a',
        finding: 'Numb saddle',
        action: 'Send to hospital.',
        within_hours: 0,
        done: true,
        note: 'Sent',
      },
    ],
    conclusion: {
      ...running.conduct.conclusion,
      text: 'Not the joint',
      action: 'refer',
      next: 'colleague',
      deadline: '2026-12-01',
    },
    repeats: [{ test: 'b', on: '2026-12-05', trigger: 'Settled', keep_same: '', done: false }],
  },
  outcome: {
    screening: [{ question: 'Any fall?', answer: 'no' }],
    stop: null,
    tests: [
      {
        test: 'a',
        name: 'Raise',
        variant: 'As taught',
        sheet: 2,
        fit: 'ready',
        reasons: [],
        left_out: false,
        reading: reading('not_interpretable', [
          { outcome: 'not_interpretable', cause: { code: 'pitfall', pitfall: 'Guards' } },
        ]),
      },
      {
        test: 'b',
        name: 'Spread',
        variant: '',
        sheet: 1,
        fit: 'not_now',
        reasons: [{ code: 'irritation' }],
        left_out: false,
        reading: reading(null),
      },
    ],
    questions: [
      {
        condition: 'Sore joint',
        pre_test: 0.3,
        after: share(0.2),
        action: 'refer',
        steps: [{ test: 'a', ratio: share(0.6), after: share(0.2), studies: 3, figures: 'ab12' }],
      },
    ],
    must_not_miss: [{ condition: 'Break', asked: true }],
    end: 'finished',
    sample: true,
    engine: 'pruvex-core 1',
  },
}

const bin = (n: number, events: number, mean: number) => ({
  n,
  events,
  mean: n ? mean : null,
  observed: n ? share(events / n) : null,
})
const line = { intercept: 0, intercept_se: 0.2, slope: 0.8, slope_se: 0.1 }
/** What one's own closed examinations say of a condition. */
export const own = {
  condition: 'Sore joint',
  finished: 26,
  closed: 20,
  sample: true,
  prevalence: share(0.45),
  clinic: { share: share(0.2), records: 40 },
  local: null as object | null,
  calibration: {
    n: 20,
    events: 9,
    mean: 0.5,
    observed: share(0.45),
    brier: 0.1234,
    log_score: 0.4,
    skill: 0.5,
    shift: [0, 0.2],
    status: 'ok',
    line,
    penalised: line,
    bins: [bin(8, 1, 0.1), bin(0, 0, 0), bin(0, 0, 0), bin(0, 0, 0), bin(12, 8, 0.8)],
    error: 0.1,
  },
  tests: [
    {
      test: 'a',
      name: 'Raise',
      counts: {
        positive_with: 8,
        positive_without: 4,
        positive_unverified: 0,
        negative_with: 1,
        negative_without: 5,
        negative_unverified: 6,
      },
      uninterpretable: [0, 2, 0],
      accuracy: { sensitivity: { estimate: 0.8, interval: share(0.8) }, specificity: null },
      lr_positive: share(2.8),
      lr_negative: null,
      expected_positive: { estimate: 3, lower: 2, upper: 6 },
      expected_negative: null,
      holds_positive: 'as_published',
      holds_negative: null,
    },
  ],
}
