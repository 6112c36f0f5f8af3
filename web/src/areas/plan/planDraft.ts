import type {
  ExaminationPlanInput,
  ExaminationTestInput,
  PlanOrderAnswer,
  PlanQuestionInput,
  PlanView,
  Position,
} from '@/shared/api/types'
import { copy } from '@/shared/copy'

export type PlanTest = Required<ExaminationTestInput> & { test: string }
export type PlanQuestion = Required<PlanQuestionInput>
/** A plan while it is written. */
export type PlanDraft = Required<Omit<ExaminationPlanInput, 'questions' | 'tests'>> & {
  questions: PlanQuestion[]
  tests: PlanTest[]
}

/** Every wish counts as usual. */
export const USUAL_WEIGHTS = { turning: 1, one_attempt: 1, irritating_late: 0.5, informative_early: 1 }

/** Thresholds to begin with: below and above them most people stop. */
export const question = (condition = '', preTest: number | null = null): PlanQuestion => ({
  condition,
  pre_test: preTest,
  reassure_below: 0.1,
  treat_above: 0.7,
  between: [],
  above: 'treat',
})

export const planTest = (test: string): PlanTest => ({
  test,
  variant: '',
  reason: '',
  optional: false,
  keep_last: false,
  after: [],
})

export const blankPlan = (region: string, condition: string, preTest: number | null): PlanDraft => ({
  title: '',
  region,
  setting: null,
  course: null,
  state: null,
  note: '',
  questions: [question(condition, preTest)],
  tests: [],
  weights: { ...USUAL_WEIGHTS },
  affected_side_first: false,
  frame_anywhere: false,
})

/** A plan that was left while it was written, perhaps before plans could say all that they say now. */
export const resumedPlan = (left: PlanDraft): PlanDraft => ({
  ...blankPlan(left.region, '', null),
  ...left,
  questions: left.questions.map((it) => ({ ...question(), ...it })),
})

/** What of a stored plan may be changed, as copies. */
export function planDraft(plan: PlanView): PlanDraft {
  const { title, region, setting, course, state, note, questions, tests, weights } = plan
  const { affected_side_first, frame_anywhere } = plan
  const said = {
    title,
    region,
    setting: setting ?? null,
    course: course ?? null,
    state: state ?? null,
    note,
    questions,
    tests,
    weights,
    affected_side_first,
    frame_anywhere: frame_anywhere ?? false,
  }
  return copy(said) as PlanDraft
}

/** The tests without one of them: nothing comes after a test that is not there. */
export const without = (tests: PlanTest[], place: number): PlanTest[] => {
  const gone = tests[place]?.test
  return tests
    .filter((_, at) => at !== place)
    .map((it) => ({ ...it, after: it.after.filter((id) => id !== gone) }))
}

export function moved<T>(list: T[], from: number, to: number): T[] {
  if (to < 0 || to >= list.length) return list
  const all = [...list]
  all.splice(to, 0, ...all.splice(from, 1))
  return all
}

/** The tests in the order that is proposed. The answer may be to an earlier list: what it does not know comes last, as it stands. */
export function inProposedOrder(tests: PlanTest[], { tests: asked, proposed }: PlanOrderAnswer): PlanTest[] {
  const places = new Map(proposed.order.map((place, at) => [asked[place]?.test, at]))
  const at = (it: PlanTest) => places.get(it.test) ?? Infinity
  return [...tests].sort((a, b) => (at(a) === at(b) ? 0 : at(a) - at(b)))
}

/** Neighbours in one position stand together; where no sheet tells the position, that is one of its own. */
export function byPosition<T extends { position?: Position | null }>(tests: T[]) {
  const groups: { position: Position | null; tests: T[] }[] = []
  tests.forEach((it) => {
    const position = it.position ?? null
    const last = groups.at(-1)
    if (last && last.position === position) last.tests.push(it)
    else groups.push({ position, tests: [it] })
  })
  return groups
}
