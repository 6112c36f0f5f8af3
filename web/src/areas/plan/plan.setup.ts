import type { PlanOrderAnswer, PlanView } from '@/shared/api/types'

const question = {
  condition: 'Sore joint',
  pre_test: 0.3,
  reassure_below: 0.1,
  treat_above: 0.7,
  between: [],
  above: 'treat',
}
const ratio = (estimate: number) => ({ estimate, lower: estimate / 2, upper: estimate * 2 })
const cost = {
  total: 2,
  turning: 1,
  one_attempt: 0,
  irritating_late: 1.5,
  informative_early: -0.5,
  changes: 1,
}

/** A plan of three tests, as the server tells of it. */
export const stored = {
  id: 'p',
  version: 3,
  status: 'published',
  published_version: 3,
  next_steps: ['submit', 'retire'],
  sample: false,
  saved_at: '2026-11-30T10:00:00Z',
  title: 'Standard',
  region: 'pelvis',
  setting: 'sports',
  note: 'For runners',
  questions: [question],
  tests: [
    { test: 'a', variant: '', reason: 'Gentle', optional: false, keep_last: false, after: [] },
    { test: 'b', variant: '', reason: '', optional: false, keep_last: false, after: ['a'] },
    { test: 'c', variant: '', reason: '', optional: true, keep_last: true, after: [] },
  ],
  weights: { turning: 1, one_attempt: 1, irritating_late: 0.5, informative_early: 1 },
  affected_side_first: false,
  named_tests: [
    { id: 'a', name: 'Raise' },
    { id: 'b', name: 'Spread' },
    { id: 'c', name: 'Squeeze' },
  ],
  changed_sheets: [{ test: 'b', name: 'Spread', change: 'changed' }],
} as unknown as PlanView

const told = (test: string, name: string, position: string | null, adds: number | null) => ({
  test,
  name,
  variants: ['As taught', 'Seated'],
  position,
  irritation: 3,
  one_attempt: test === 'a',
  minutes: 2,
  bits: 0.12,
  worth: [
    {
      question: 0,
      studies: 2,
      matching: 1,
      lr_positive: ratio(4),
      lr_negative: ratio(0.5),
      alone: 0.4,
      adds,
      needed: adds,
    },
  ],
  sample: false,
})

/** What the server answers of these tests in this order, as if they cost least in the order of their letters. */
export function answered(order: string[]): PlanOrderAnswer {
  const of = {
    a: told('a', 'Raise', 'lying_face_up', 0.115),
    b: told('b', 'Spread', 'lying_face_up', 0.004),
    c: told('c', 'Squeeze', null, null),
  }
  const best = [...order].sort()
  const right = order.join() === best.join()
  const own = right ? cost : { ...cost, total: 4, turning: 2, irritating_late: 2.5, changes: 2 }
  return {
    tests: order.map((id) => of[id as 'a'] ?? told(id, id, null, null)),
    questions: [
      {
        condition: 'Sore joint',
        tests: 2,
        sequence: {
          expected_tests: 1.44,
          reassured: 0.62,
          treated: 0.301,
          undecided: 0.079,
          steps: [],
          enough_negative: 1,
          enough_positive: 2,
        },
        ends: [
          { action: 'reassure', share: 0.62 },
          { action: null, share: 0.079 },
          { action: 'treat', share: 0.301 },
        ],
      },
    ],
    proposed: {
      order: best.map((id) => order.indexOf(id)),
      cost,
      reasons: order.map(() => []),
      bound: cost.total,
      exact: true,
    },
    own: {
      cost: own,
      reasons: order.map((id) =>
        id === 'b' ? [{ code: 'same_position' }, { code: 'after', test: order.indexOf('a') }] : [],
      ),
      broken: order.indexOf('b') < order.indexOf('a') ? [[order.indexOf('a'), order.indexOf('b')]] : [],
    },
    minutes: 4,
    sample: false,
  } as unknown as PlanOrderAnswer
}
