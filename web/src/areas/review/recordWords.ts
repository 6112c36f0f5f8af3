import { joints, motions, tissues } from '@/areas/catalogue/sheetWords'
import { shownCells } from '@/areas/evidence/pastedCells'
import { RESULT_FIELDS, type ResultField } from '@/areas/evidence/resultFields'
import { levelWords } from '@/areas/evidence/resultWords'
import { setupWords } from '@/areas/evidence/setupWords'
import type {
  AccuracyResult,
  AgreementInput,
  AppraisalInput,
  Change,
  Condition,
  Domain,
  ExaminationPlanInput,
  FiguresInput,
  PrevalenceReport,
  SignallingQuestion,
  Region,
  Rule,
  Structure,
  Study,
  TeachingConflictInput,
} from '@/shared/api/types'
import { thresholdWords } from '@/shared/actionWords'
import { percent } from '@/shared/format'
import { text } from '@/shared/text'

type Names = ReadonlyMap<string, string>

/** What a record says, field by field, in words. */
function said(kind: Change['kind'], content: unknown, names: Names): [label: string, words: string][] {
  if (kind === 'study') {
    return [...studyFields(content as Study), [text.study.studyNote, (content as Study).note ?? '']]
  }
  if (kind === 'result') {
    const result = content as AccuracyResult
    const cells = Object.entries(text.study.cells).map(([cell, label]) => {
      const count = result.counts[cell as keyof typeof text.study.cells]
      return [label, typeof count === 'number' ? String(count) : ''] as [string, string]
    })
    const fields = (ours: boolean) =>
      RESULT_FIELDS.filter((field) => !!field.ours === ours).map(
        (field) => [field.label, resultField(result, field)] as [string, string],
      )
    return [
      // Before studies stood by themselves, each result said of whom it is.
      ...studyFields(content as Partial<Study>),
      ...fields(false),
      ...cells,
      ...fields(true),
    ]
  }
  if (kind === 'appraisal') return appraisalFields(content as AppraisalInput)
  if (kind === 'agreement') {
    const { between, finding, examiners, interval, page, note, figures } = content as AgreementInput
    const words = text.agreement
    return [
      ...studyFields(content as Partial<Study>),
      [words.between, words.betweens[between ?? 'examiners']],
      [words.finding, finding ?? ''],
      [words.examiners, examiners ?? ''],
      [words.interval, interval ?? ''],
      ...(figures ? figureWords(figures) : []),
      [text.study.page, page ?? ''],
      [text.study.note, note ?? ''],
    ]
  }
  const { region } = content as { region: Region }
  if (kind === 'condition') {
    const condition = content as Condition
    const usual = condition.pre_test
    return [
      [text.question.region, text.regions[region]],
      [text.vocabulary.condition, condition.name],
      [text.vocabulary.setting, condition.setting],
      [text.vocabulary.preTest, typeof usual === 'number' ? percent(usual) : ''],
      // A history may be older than reports of prevalence.
      [text.prevalence.short, (condition.prevalence ?? []).map(prevalenceWords).join('\n')],
      [text.vocabulary.mustNotMiss, condition.must_not_miss ? text.plan.fit.answers.yes : ''],
    ]
  }
  if (kind === 'plan') return planFields(content as ExaminationPlanInput, names)
  if (kind === 'teaching_conflict') return conflictFields(content as TeachingConflictInput)
  const structure = content as Structure
  const actions = structure.actions.map((it) => `${motions[it.motion]} of the ${joints[it.joint]}`)
  return [
    [text.question.region, text.regions[region]],
    [text.vocabulary.name, structure.name],
    [text.vocabulary.otherNames, structure.other_names.join(', ')],
    [text.vocabulary.tissue, tissues[structure.tissue]],
    [text.vocabulary.actions, actions.join(', ')],
    [text.vocabulary.offered, structure.retired ? text.vocabulary.retired : text.vocabulary.isOffered],
  ]
}

function prevalenceWords(report: PrevalenceReport): string {
  const { symptoms, people, with_condition, source } = report
  return [source, symptoms ? text.prevalence[symptoms] : '', `${with_condition ?? 0}/${people ?? 0}`].join(
    ' · ',
  )
}

function planFields(plan: ExaminationPlanInput, names: Names): [label: string, words: string][] {
  const { form, questions, list, cost } = text.plan
  const asked = (plan.questions ?? []).map((it) => `${it.condition}: ${thresholdWords(it)}`)
  const wishes = Object.entries(plan.weights ?? {}).map(([wish, weight]) => {
    const words = cost.wish[wish as keyof typeof cost.wish]
    return `${words}: ${weight}`
  })
  const tests = (plan.tests ?? []).map((it, place) =>
    [
      `${place + 1}. ${names.get(it.test ?? '') ?? text.plan.list.gone}`,
      it.variant,
      it.reason,
      it.optional ? list.optionalShort : '',
      it.keep_last ? text.plan.reasons.kept_last : '',
    ]
      .filter(Boolean)
      .join(' · '),
  )
  return [
    [form.title, plan.title ?? ''],
    [form.setting, plan.setting ? (text.setup.choices.setting.words[plan.setting] ?? '') : ''],
    [form.course, plan.course ? (text.setup.choices.course.words[plan.course] ?? '') : ''],
    [form.state, plan.state ? (text.setup.choices.state.words[plan.state] ?? '') : ''],
    [form.frame, text.plan.fit.answers[plan.frame_anywhere ? 'no' : 'yes']],
    [form.note, plan.note ?? ''],
    [questions.title, asked.join('\n')],
    [list.title, tests.join('\n')],
    [cost.title, wishes.join('\n')],
    [form.side, form.sides[plan.affected_side_first ? 'affected' : 'sound']],
  ]
}

function conflictFields(entry: TeachingConflictInput): [label: string, words: string][] {
  const words = text.conflicts
  const claims = (entry.claims ?? []).map((it) =>
    [it.claim, it.source, it.evidence].filter(Boolean).join(' · '),
  )
  const favours = typeof entry.favours === 'number' ? `: ${words.claim(entry.favours + 1)}` : ''
  return [
    [words.question, entry.question ?? ''],
    [words.topic, entry.topic ? words.topics[entry.topic] : ''],
    ...claims.map((said, place) => [words.claim(place + 1), said] as [string, string]),
    [words.verdict, `${words.verdicts[entry.verdict ?? 'open']}${favours}`],
    [words.reason, entry.reason ?? ''],
  ]
}

function studyFields({ reference, population, setup }: Partial<Study>): [label: string, words: string][] {
  return [
    [text.study.reference, reference ?? ''],
    [text.study.population, population ?? ''],
    [text.setup.title, setupWords(setup).join(' · ')],
  ]
}

function appraisalFields({ domains }: AppraisalInput): [label: string, words: string][] {
  const words = text.appraisal
  return (Object.keys(words.domains) as Domain[]).map((domain) => {
    const said = domains[domain]
    if (!said) return [words.domains[domain], '']
    const answers = Object.entries(said.answers).map(
      ([question, answer]) =>
        `${words.questions[question as SignallingQuestion]} ${words.answers[answer] ?? ''}`,
    )
    const judged = [
      said.risk ? words.riskOf(said.risk) : '',
      said.concern ? `${words.concern}: ${said.concern}` : '',
      said.reason,
    ]
    return [words.domains[domain], [...answers, ...judged].filter(Boolean).join('\n')]
  })
}

function resultField(result: AccuracyResult, { name, kind, choices }: ResultField): string {
  if (kind === 'tests') {
    const { together } = result
    return together ? togetherRule(together.tests.length, together.rule) : ''
  }
  // A history may be older than levels.
  if (kind === 'levels') return levelWords(result.levels ?? [])
  const value = result[name]
  if (kind === 'flag') return value ? text.result.chosen : ''
  return value == null || value === '' ? '' : (choices?.[String(value)] ?? String(value))
}

function togetherRule(others: number, rule: Rule): string {
  const { rules, atLeast, more } = text.result
  return more(others, typeof rule === 'string' ? rules[rule] : atLeast(rule.at_least))
}

function figureWords(figures: FiguresInput): [label: string, words: string][] {
  const words = text.agreement
  if (figures.kind === 'reported') {
    const printed = Object.entries(words.printed).map(([name, label]) => {
      const value = figures[name as keyof typeof words.printed]
      return [label, value == null ? '' : String(value)] as [string, string]
    })
    return [[words.coefficient, words.printedKinds[figures.coefficient] ?? ''], ...printed]
  }
  const last: [string, string] =
    figures.kind === 'measurements'
      ? [words.unit, figures.unit ?? '']
      : [words.weighting, words.weights[figures.weights ?? 'none']]
  return [[words.kinds[figures.kind], shownCells(figures.rows)], last]
}

/** By what people call the record. */
export function title(change: Change): string {
  const content = change.content as { reference?: string; name?: string; question?: string; title?: string }
  return content.reference ?? change.study ?? content.name ?? content.question ?? content.title ?? ''
}

/** What a change put in the place of what; of a first version everything it says. */
export function put(
  change: Change,
  names: Names = new Map(),
): { label: string; before: string; after: string }[] {
  const before = new Map(change.before ? said(change.kind, change.before, names) : [])
  return said(change.kind, change.content, names)
    .map(([label, after]) => ({ label, before: before.get(label) ?? '', after }))
    .filter((field) => field.before !== field.after)
}
