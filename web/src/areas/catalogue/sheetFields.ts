import type { SheetInput } from '@/shared/api/types'
import { text } from '@/shared/text'
import {
  actors,
  answers,
  biases,
  cautionKinds,
  cautionScopes,
  comparisons,
  contactParts,
  contactTasks,
  criterionKinds,
  displacements,
  effects,
  endFeels,
  inabilityReasons,
  indicationKinds,
  joints,
  loadRoles,
  modes,
  motions,
  normKinds,
  outcomes,
  positions,
  rangeParts,
  readAtEvents,
  repeatWhen,
  sexes,
  sides,
  sidesTested,
  stepEvents,
} from './sheetWords'

/** What stands in a part of a sheet; the form, the history and the comparison of two texts are all made of this. */
export type Value = null | string | number | boolean | string[] | Entry | Entry[]
export interface Entry {
  [key: string]: Value
}

export type Field = {
  key: string
  label: string
  hint?: string
  /** Shown only when asked for, or when something is written there. */
  more?: boolean
  /** Closed until something is written there, or it is opened. */
  folds?: boolean
  /** Twelfths of the width of its part. */
  span?: number
} & (
  | { kind: 'line' | 'text' | 'texts' | 'flag' }
  | { kind: 'number'; unit?: string }
  | { kind: 'choice' | 'choices'; words: Record<string, string> }
  | { kind: 'suggest'; from: 'structures' | 'phases' | 'variants' | 'conditions' }
  | { kind: 'list'; fields: Field[]; add: string; numbered?: boolean; tabs?: boolean }
  | { kind: 'group'; fields: Field[] }
  | { kind: 'table'; fields: Field[] }
)

const line = (key: string, label: string, span = 6, more = false): Field => ({
  kind: 'line',
  key,
  label,
  span,
  more,
})
const prose = (key: string, label: string, more = false, hint?: string): Field => ({
  kind: 'text',
  key,
  label,
  more,
  ...(hint ? { hint } : {}),
})
const number = (key: string, label: string, unit = '', span = 2, more = false): Field => ({
  kind: 'number',
  key,
  label,
  unit,
  span,
  more,
})
const choice = (
  key: string,
  label: string,
  words: Record<string, string>,
  span = 3,
  more = false,
): Field => ({
  kind: 'choice',
  key,
  label,
  words,
  span,
  more,
})
const choices = (
  key: string,
  label: string,
  words: Record<string, string>,
  span = 4,
  more = false,
): Field => ({ kind: 'choices', key, label, words, span, more })
const flag = (key: string, label: string, span = 4, more = false): Field => ({
  kind: 'flag',
  key,
  label,
  span,
  more,
})
const texts = (key: string, label: string, span = 12, hint?: string): Field => ({
  kind: 'texts',
  key,
  label,
  span,
  ...(hint ? { hint } : {}),
})
/** Within how many hours something urgent is to happen. */
const deadline = (span = 3): Field => number('within_hours', 'within (0: at once)', 'h', span, true)
const variantName: Field = {
  kind: 'suggest',
  from: 'variants',
  key: 'variant',
  label: 'Only for the variant',
  span: 4,
  more: true,
}
const phase: Field = { kind: 'suggest', from: 'phases', key: 'phase', label: 'Phase', span: 3, more: true }

const variant: Field[] = [
  line('name', 'Name of the variant', 6),
  line('origin', 'Origin', 6),
  prose('difference', 'How it differs from the baseline', true),
  prose('effect', 'Effect of the difference', true),
  choice('position', 'Patient position', positions, 4),
  line('patient_position', 'Position in detail', 8),
  line('examiner_position', 'Position of the examiner', 6),
  line('viewpoint', 'Viewpoint', 6),
  prose('patient_script', 'Instructions to the patient'),
  line('demonstration', 'Demonstration', 12),
  {
    kind: 'group',
    key: 'preparation',
    label: 'Before touching the patient',
    folds: true,
    fields: [
      flag('hand_hygiene', 'Hand hygiene first', 4),
      line('permission', 'How permission is asked', 8),
      line('sensation', 'What the patient will feel', 6),
      line('question', 'Neutral question to ask', 6),
    ],
  },
  {
    kind: 'group',
    key: 'stance',
    label: 'Sides and support',
    folds: true,
    fields: [
      choice('sides', 'Sides', sidesTested, 4),
      choice('moved', 'Side that is moved', sides, 4),
      choice('read', 'Side that is read', sides, 4),
      flag('one_leg', 'The patient stands on one leg', 4),
      line('fall_support', 'Support against falling', 8),
    ],
  },
  {
    kind: 'list',
    key: 'contacts',
    label: 'Contacts',
    add: 'Add a contact',
    fields: [
      prose('placement', 'Placement'),
      choice('with', 'With', contactParts, 4),
      choices('tasks', 'Tasks', contactTasks, 8),
      flag('forbidden', 'Nothing may touch here', 4, true),
      prose('effect', 'Effect of a forbidden contact', true),
      choice('locks', 'Locks the joint', joints, 4, true),
      prose('verified', 'How the lock is verified', true),
    ],
  },
  {
    kind: 'list',
    key: 'equipment',
    label: 'Equipment',
    add: 'Add equipment',
    fields: [line('name', 'Equipment', 5), line('reason', 'Reason', 7)],
  },
  {
    kind: 'list',
    key: 'joints',
    label: 'Joint positions',
    add: 'Add a joint',
    fields: [
      choice('joint', 'Joint', joints, 4),
      choice('motion', 'Motion', motions, 4),
      number('from', 'from', '°'),
      number('to', 'to', '°'),
      flag('individual', 'Found individually in each patient', 12, true),
    ],
  },
  {
    kind: 'list',
    key: 'relays',
    label: 'Joints that only pass the force on',
    add: 'Add a joint',
    folds: true,
    fields: [choice('joint', 'Joint', joints, 4), line('check', 'How to check that it is sound', 8)],
  },
  {
    kind: 'group',
    key: 'measuring',
    label: 'Measuring',
    folds: true,
    fields: [
      line('axis', 'Axis of the goniometer', 12),
      line('fixed_arm', 'Fixed arm', 6),
      line('moving_arm', 'Moving arm', 6),
      line('landmarks', 'Landmarks', 12),
      line('start', 'Start of the measurement', 8),
      number('force', 'Applied force', 'N', 4),
      {
        kind: 'list',
        key: 'setup',
        label: 'Setup that must be the same at the retest',
        add: 'Add a setup value',
        fields: [line('name', 'What is set', 6), number('value', 'value', '', 3), line('unit', 'unit', 3)],
      },
    ],
  },
  {
    kind: 'list',
    key: 'phases',
    label: 'Phases',
    hint: 'Only for tests in several parts, each with its own finding',
    add: 'Add a phase',
    fields: [line('name', 'Phase', 4), line('finding', 'Its finding', 8)],
  },
  {
    kind: 'list',
    key: 'steps',
    label: 'Steps, in order',
    add: 'Add a step',
    numbered: true,
    fields: [
      prose('text', 'Action'),
      choice('actor', 'Performed by', actors, 4, true),
      choice('mode', 'How', modes, 4, true),
      choice('joint', 'Joint', joints, 4, true),
      choice('motion', 'Motion, or the examiner’s push', motions, 6, true),
      choice('effort', 'Patient’s effort, if resisted', motions, 6, true),
      number('degrees', 'at', '°', 3, true),
      number('degrees_to', 'up to', '°', 3, true),
      choice('until', 'Ends at an event', stepEvents, 4, true),
      line('until_detail', 'Which segment, click or compensation', 4, true),
      choices('reads', 'Read there', readAtEvents, 4, true),
      number('hold_seconds', 'hold', 's', 3, true),
      number('repetitions', 'times', '', 3, true),
      { ...phase, span: 6 },
      flag('optional', 'May be unpleasant: optional step', 4, true),
    ],
  },
  {
    kind: 'list',
    key: 'targets',
    label: 'Structures loaded',
    add: 'Add a structure',
    fields: [
      { kind: 'suggest', from: 'structures', key: 'structure', label: 'Structure', span: 6 },
      choice('role', 'How', loadRoles, 3),
      { ...phase, more: false },
    ],
  },
  {
    kind: 'list',
    key: 'criteria',
    label: 'Criteria: positive, negative, equivocal, not interpretable',
    add: 'Add a finding',
    fields: [
      choice('outcome', 'Means', outcomes, 4),
      choice('kind', 'Kind', criterionKinds, 8),
      prose('text', 'Finding'),
      choice('comparison', 'Measured', comparisons, 3, true),
      number('value', 'value', '', 2, true),
      line('unit', 'unit', 2, true),
      choice('sex', 'only', sexes, 3, true),
      number('age_from', 'age', '', 2, true),
      number('age_to', 'to', '', 2, true),
      phase,
      choice('end_feel', 'End-feel', endFeels, 3, true),
      choice('part_of_range', 'Occurs in', rangeParts, 3, true),
      number('arc_from', 'occurs from', '°', 3, true),
      number('arc_to', 'to', '°', 3, true),
      choice('displacement', 'Displacement', displacements, 4, true),
      number('attempts', 'only after', 'attempts', 3, true),
      line('reverses', 'Reverses with the stage', 5, true),
    ],
  },
  {
    kind: 'group',
    key: 'grading',
    label: 'Levels of the finding',
    hint: 'For a finding with more than two levels, the most normal one first',
    folds: true,
    fields: [
      line('name', 'What is graded', 8),
      line('unit', 'unit of classes', 4),
      {
        kind: 'list',
        key: 'levels',
        label: 'Levels, in order',
        add: 'Add a level',
        numbered: true,
        fields: [
          line('name', 'Level', 4),
          choice('outcome', 'Means', outcomes, 4),
          number('from', 'from', '', 2),
          number('to', 'to below', '', 2),
        ],
      },
    ],
  },
  {
    kind: 'list',
    key: 'inability',
    label: 'Unable to perform the test',
    hint: 'What it means, reason by reason; never negative',
    add: 'Add a reason',
    folds: true,
    fields: [
      choice('reason', 'Because of', inabilityReasons, 4),
      choice('outcome', 'Means', outcomes, 4),
      line('note', 'Note', 4),
    ],
  },
]

const interpretation: Field[] = [
  {
    kind: 'list',
    key: 'measures',
    label: 'Measures and findings',
    add: 'Add a measure',
    fields: [
      line('name', 'Name', 6),
      texts('choices', 'Possible values', 6, 'Leave empty for a number'),
      line('unit', 'unit', 3),
      number('low', 'smallest', '', 3),
      number('high', 'largest', '', 3),
      number('resolution', 'read in steps of', '', 3),
    ],
  },
  {
    kind: 'list',
    key: 'rows',
    label: 'Rows',
    add: 'Add a row',
    numbered: true,
    fields: [
      {
        kind: 'list',
        key: 'conditions',
        label: 'When',
        add: 'Add a condition',
        fields: [
          line('measure', 'Measure'),
          choice('comparison', 'Comparison', comparisons),
          number('value', 'Value'),
          texts('choices', 'Values'),
        ],
      },
      line('reading', 'Means'),
      line('grade', 'Grade'),
      line('next_step', 'Next step'),
      { kind: 'flag', key: 'urgent', label: 'Urgent' },
      number('within_hours', 'within', 'h'),
    ],
  },
]

const entries = (items: Record<string, string>) => items

export type PartKey = keyof typeof text.parts

/** The parts of a sheet in the order of its page. */
export const sections: { key: PartKey; title: string; fields: Field[] }[] = [
  {
    key: 'about',
    title: text.parts.about,
    fields: [
      { ...line('name', text.editor.name, 12), hint: text.editor.nameHint },
      texts('aliases', text.editor.aliases),
      choice('region', text.editor.region, entries(text.regions), 3),
      choice('purpose', text.editor.purpose, entries(text.purposes), 3),
      {
        kind: 'suggest',
        from: 'conditions',
        key: 'condition',
        label: text.editor.condition,
        hint: text.editor.conditionHint,
        span: 6,
      },
      prose('positive_finding', text.editor.finding),
      { ...choice('basis', text.editor.basis, text.basis, 6), hint: text.editor.basisHint },
      {
        kind: 'list',
        key: 'indications',
        label: text.editor.indications,
        hint: text.editor.indicationsHint,
        add: 'Add an indication',
        folds: true,
        fields: [
          choice('kind', 'Kind', indicationKinds, 4),
          line('text', 'Indication', 8),
          line('reason', 'Why it leads to this test', 8),
          { ...variantName, more: false },
        ],
      },
    ],
  },
  {
    key: 'cautions',
    title: text.parts.cautions,
    fields: [
      {
        kind: 'list',
        key: 'cautions',
        label: text.editor.cautions,
        add: 'Add a caution',
        fields: [
          choice('kind', 'Kind', cautionKinds, 5),
          line('text', 'Caution', 7),
          line('screening', 'Screening question or sign', 6),
          line('instead', 'Action', 6),
          choices('unsafe_answers', 'Unsafe answer', answers, 4, true),
          choice('scope', 'Holds for', cautionScopes, 4, true),
          choice('joint', 'Joint', joints, 4, true),
          deadline(4),
          { ...variantName, span: 8 },
        ],
      },
      {
        kind: 'list',
        key: 'urgent',
        label: 'Findings that need prompt referral (red flags)',
        add: 'Add an urgent finding',
        fields: [line('finding', 'Finding', 5), line('action', 'Action', 4), { ...deadline(3), more: false }],
      },
    ],
  },
  {
    key: 'variants',
    title: text.parts.variants,
    fields: [
      {
        kind: 'list',
        key: 'variants',
        label: 'Variants; the first is the one taught',
        add: 'Add a variant',
        tabs: true,
        fields: variant,
      },
    ],
  },
  {
    key: 'interpretation',
    title: text.parts.interpretation,
    fields: [{ kind: 'table', key: 'interpretation', label: 'Interpretation table', fields: interpretation }],
  },
  {
    key: 'pitfalls',
    title: text.parts.pitfalls,
    fields: [
      {
        kind: 'list',
        key: 'pitfalls',
        label: text.editor.pitfalls,
        add: 'Add a pitfall',
        fields: [
          line('text', 'Pitfall', 12),
          choice('effect', 'Effect on what is measured', effects, 6),
          choice('bias', 'Biases the result', biases, 6),
          line('mechanism', 'Mechanism', 6),
          line('cue', 'What an observer sees', 6),
          line('remedy', 'Remedy', 8),
          flag('patient_side', 'Patient-related', 4),
          flag('negative_stands', 'A negative result counts in spite of it', 8, true),
        ],
      },
      {
        kind: 'list',
        key: 'alternatives',
        label: 'Alternatives when it cannot be done as taught',
        add: 'Add an alternative',
        fields: [line('situation', 'When', 6), line('instead', 'Then', 6)],
      },
    ],
  },
  {
    key: 'measures',
    title: text.parts.measures,
    fields: [
      {
        kind: 'group',
        key: 'burden',
        label: 'Burden for patient and examiner',
        fields: [
          number('irritation', 'Provokes symptoms (0 to 3)', '', 3),
          number('tries', 'Valid attempts', '', 3),
          number('minutes', 'Duration', 'min', 3),
          number('hands', 'Hands needed', '', 3),
        ],
      },
      {
        kind: 'list',
        key: 'norms',
        label: 'Normal values',
        add: 'Add a normal value',
        fields: [
          line('measure', 'Measure or sign', 5),
          choice('sex', 'only', sexes, 3),
          number('age_from', 'age'),
          number('age_to', 'to'),
          number('low', 'low'),
          number('high', 'high'),
          line('unit', 'unit', 2),
          line('source', 'Source', 6),
          choice('kind', 'What it is', normKinds, 4, true),
          line('note', 'Normal amount, in words', 8, true),
        ],
      },
      {
        kind: 'list',
        key: 'repeats',
        label: 'Repeat a negative or impossible test',
        add: 'Add a time to repeat it',
        folds: true,
        fields: [
          choice('when', 'When', repeatWhen, 4),
          number('days', 'after', 'days', 2),
          line('reason', 'Reason', 6),
          line('keep_same', 'What must then be the same', 12),
        ],
      },
      {
        kind: 'group',
        key: 'retest',
        label: 'Retest',
        fields: [
          number('detectable_change', 'Minimal detectable change (MDC95)', '', 4),
          line('unit', 'unit', 2),
          line('source', 'Source', 6),
          prose('keep_same', 'Keep the same'),
        ],
      },
      {
        kind: 'list',
        key: 'searches',
        label: 'Evidence looked for, nothing usable',
        hint: 'Not the same as not studied',
        add: 'Add a search',
        folds: true,
        fields: [
          line('when', 'When (2026-11)', 3),
          line('place', 'Where', 9),
          line('found', 'What was found', 6),
          line('unusable', 'Why it cannot be used', 6),
        ],
      },
      texts('sources', 'Sources', 12, 'Where the content of this sheet comes from; one source per entry'),
    ],
  },
]

export const sheetFields: Field[] = sections.flatMap((section) => section.fields)

/** A copy that nobody else holds; what is shown may be wrapped by the framework, which a structured clone refuses. */
export function copy<T>(value: T): T {
  return JSON.parse(JSON.stringify(value)) as T
}

/** An entry in which nothing is written. */
export function blank(fields: Field[]): Entry {
  return Object.fromEntries(
    fields.map((field) => {
      switch (field.kind) {
        case 'line':
        case 'text':
        case 'suggest':
          return [field.key, '']
        case 'texts':
        case 'choices':
        case 'list':
          return [field.key, []]
        case 'flag':
          return [field.key, false]
        case 'group':
        case 'table':
          return [field.key, blank(field.fields)]
        default:
          return [field.key, null]
      }
    }),
  )
}

/** Whether anything is written in a value. */
export function written(value: Value | undefined): boolean {
  if (value === null || value === undefined || value === '' || value === false) return false
  if (Array.isArray(value)) return value.some((item) => written(item))
  return typeof value === 'object' ? Object.values(value).some(written) : true
}

/** A value in words, one line for each entry of a list. */
export function shown(field: Field, value: Value | undefined): string {
  if (!written(value)) return ''
  if (field.kind === 'choice') return field.words[String(value)] ?? String(value)
  if (field.kind === 'choices') return (value as string[]).map((one) => field.words[one] ?? one).join(', ')
  if (field.kind === 'number') return `${Number(value)}${field.unit ? ` ${field.unit}` : ''}`
  if (field.kind === 'flag') return field.label
  if (field.kind === 'texts') return (value as string[]).filter(Boolean).join('\n')
  if (field.kind === 'list')
    return (value as Entry[])
      .map((entry) => shownEntry(field.fields, entry))
      .filter(Boolean)
      .join('\n')
  if (field.kind === 'group' || field.kind === 'table') return shownEntry(field.fields, value as Entry)
  return String(value).trim()
}

function shownEntry(fields: Field[], entry: Entry): string {
  const parts = fields.map((field) => {
    const words = shown(field, entry[field.key])
    if (!words || field.kind === 'flag') return words
    if (field.kind === 'list') return `\n${field.label}:\n${words}`
    return field.kind === 'number' ? `${field.label} ${words}` : words
  })
  return parts.filter(Boolean).join(' · ').replaceAll(' · \n', '\n')
}

export interface Difference {
  /** Path of the field, such as `variants[1].steps`. */
  path: string
  /** Its label, after that of what holds it. */
  label: string
  one: string
  other: string
}

/** Every field in which two texts of a sheet differ; variants are compared field by field, lists line by line. */
export function differences(one: SheetInput, other: SheetInput): Difference[] {
  const [left, right] = [one as unknown as Entry, other as unknown as Entry]
  const found = sheetFields.flatMap((field) =>
    differing(field, left[field.key], right[field.key], field.key, ''),
  )
  return found.map((difference) => ({ ...difference, ...apart(difference.one, difference.other) }))
}

/** Of two lists only the lines that the other does not have; both whole when only their order differs. */
function apart(one: string, other: string): { one: string; other: string } {
  const [left, right] = [one.split('\n'), other.split('\n')]
  const only = (lines: string[], others: string[]) =>
    lines.filter((line) => !others.includes(line)).join('\n')
  const lines = { one: only(left, right), other: only(right, left) }
  return lines.one || lines.other ? lines : { one, other }
}

/** Fields in which two ways of doing a test differ. */
export function variantDifferences(one: object, other: object): Difference[] {
  return variant
    .filter((field) => !['name', 'origin', 'difference', 'effect'].includes(field.key))
    .flatMap((field) =>
      differing(field, (one as Entry)[field.key], (other as Entry)[field.key], field.key, ''),
    )
}

function differing(
  field: Field,
  one: Value | undefined,
  other: Value | undefined,
  path: string,
  before: string,
): Difference[] {
  if (field.kind === 'list' && field.tabs) {
    const [left, right] = [(one ?? []) as Entry[], (other ?? []) as Entry[]]
    const longest = Math.max(left.length, right.length)
    return Array.from({ length: longest }, (_, index) => {
      const name = String(left[index]?.name ?? right[index]?.name ?? '')
      const label = `${name || `${index + 1}`}: `
      return field.fields.flatMap((inner) =>
        differing(
          inner,
          left[index]?.[inner.key],
          right[index]?.[inner.key],
          `${path}[${index}].${inner.key}`,
          label,
        ),
      )
    }).flat()
  }
  const words = { one: shown(field, one), other: shown(field, other) }
  return words.one === words.other ? [] : [{ path, label: before + field.label, ...words }]
}

/** What stands at a path such as `variants[1].steps`. */
export function valueAt(sheet: object, path: string): Value | undefined {
  const keys = path.split(/[.[\]]+/).filter(Boolean)
  return keys.reduce<Value | undefined>(
    (value, key) => (value as Entry | null | undefined)?.[key],
    sheet as Entry,
  )
}

/** A copy of the sheet with another value at a path. */
export function withValueAt<T extends object>(sheet: T, path: string, value: Value | undefined): T {
  const changed = copy(sheet)
  const keys = path.split(/[.[\]]+/).filter(Boolean)
  const last = keys.pop()
  const holder = keys.reduce<Entry>((entry, key) => (entry[key] ??= {}) as Entry, changed as unknown as Entry)
  if (last !== undefined) holder[last] = value ?? null
  return changed
}
