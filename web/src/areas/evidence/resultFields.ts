import type { AccuracyInput, AccuracyResult } from '@/shared/api/types'
import { text } from '@/shared/text'

type Cell = 'tp' | 'fp' | 'fn' | 'tn'

/** One thing that a result says besides its cells. */
export interface ResultField {
  name: Exclude<keyof AccuracyInput, Cell>
  label: string
  hint?: string
  /** Words of one's own, one of several choices, other tests, yes and no, a number of people, or counts per level. */
  kind: 'words' | 'choice' | 'tests' | 'flag' | 'number' | 'levels'
  choices?: Record<string, string>
  /** Said only where it differs from what the sheet teaches, in these words; folded away in the form. */
  differs?: (value: string) => string
  /** People beside the four cells, and why; under that heading a shorter label is enough. */
  beside?: 'unverified' | 'uninterpretable'
  short?: string
  /** Of who entered it, not of the report. */
  ours?: boolean
}

const { units } = text.result

function beside(
  part: 'unverified' | 'uninterpretable',
  names: (keyof typeof text.flow.fields)[],
): ResultField[] {
  return names.map((name) => {
    const short = text.flow.fields[name]
    return { name, label: `${text.flow.parts[part]}: ${short}`, kind: 'number', beside: part, short }
  })
}

/** In the order of the form, which the list, the history, settling and tables are made of too. */
export const RESULT_FIELDS: ResultField[] = [
  { name: 'variant', label: 'Variant', kind: 'words', differs: (done) => `done as: ${done}` },
  {
    name: 'criterion',
    label: 'Counted as positive',
    kind: 'words',
    differs: (criterion) => `positive: ${criterion}`,
  },
  {
    name: 'condition',
    label: 'Target condition',
    kind: 'words',
    differs: (condition) => `for: ${condition}`,
  },
  { name: 'stage', label: 'Stage of it', kind: 'words', differs: (stage) => stage },
  {
    name: 'group',
    label: 'Group of people',
    hint: 'When not all. Two named groups of a study count as different people',
    kind: 'words',
    differs: (group) => `only: ${group}`,
  },
  { name: 'reference_standard', label: text.study.standard, kind: 'words' },
  {
    name: 'unit',
    label: 'Counted',
    kind: 'choice',
    choices: units,
    differs: (unit) => units[unit] ?? '',
  },
  { name: 'together', label: 'Read together with', kind: 'tests' },
  ...beside('unverified', ['positive_unverified', 'negative_unverified']),
  ...beside('uninterpretable', [
    'uninterpretable_with',
    'uninterpretable_without',
    'uninterpretable_unverified',
  ]),
  { name: 'levels', label: text.levels.title, kind: 'levels' },
  { name: 'page', label: text.study.page, kind: 'words' },
  { name: 'preferred', label: text.result.pooled, kind: 'flag', ours: true },
  { name: 'note', label: text.study.note, kind: 'words', ours: true },
]

const EMPTY = { words: '', choice: null, tests: null, flag: false, number: null, levels: [] }

/** Lists are written to: nobody else may hold them. */
const copied = <T>(value: T): T =>
  Array.isArray(value) ? (value.map((it: object) => ({ ...it })) as T) : value
const empty = (kind: ResultField['kind']) => copied(EMPTY[kind])

/** A result of which nothing is said yet. */
export function newResult(): AccuracyInput {
  const said = Object.fromEntries(RESULT_FIELDS.map(({ name, kind }) => [name, empty(kind)]))
  return { ...said, tp: null, fp: null, fn: null, tn: null } as AccuracyInput
}

/** What was checked, as it would be written. */
export function accuracyInput(result: AccuracyResult): AccuracyInput {
  const said = Object.fromEntries(
    RESULT_FIELDS.map(({ name, kind }) => [name, copied(result[name]) ?? empty(kind)]),
  )
  const { tp = null, fp = null, fn = null, tn = null } = result.counts
  return { ...said, tp, fp, fn, tn } as AccuracyInput
}
