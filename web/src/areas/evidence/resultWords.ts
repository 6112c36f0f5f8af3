import type {
  AccuracyResult,
  Counts,
  LevelInput,
  RatioEstimate,
  RawCounts,
  ResultView,
  Rule,
  ShareEstimate,
} from '@/shared/api/types'
import { percent, percentInterval, ratioInterval, ratioPoint } from '@/shared/format'
import { text } from '@/shared/text'
import { RESULT_FIELDS } from './resultFields'
import { setupWords } from './setupWords'

/** In what a result differs from what the sheet teaches, in as few words as a reader needs. */
export function resultWords(result: Partial<AccuracyResult>): string[] {
  return RESULT_FIELDS.map(({ name, differs }) => {
    const value = result[name]
    return differs && value ? differs(String(value)) : ''
  }).filter(Boolean)
}

/** Which tests were read together, and when they count as positive. */
export function togetherWords(others: string[], rule: Rule): string {
  const said = typeof rule === 'string' ? text.result.rules[rule] : text.result.atLeast(rule.at_least)
  return text.result.together(others.join(', '), said)
}

function arm(counts: Counts, correct: 'tp' | 'tn', wrong: 'fn' | 'fp') {
  const [a, b] = [counts[correct], counts[wrong]]
  return a == null || b == null ? null : { correct: a, n: a + b }
}
/** The two groups of people, as far as they are reported. */
export const arms = (counts: Counts) => ({ se: arm(counts, 'tp', 'fn'), sp: arm(counts, 'tn', 'fp') })

export const share = (value?: ShareEstimate | null) =>
  value ? `${percent(value.estimate)} (${percentInterval(value)})` : text.study.oneArmed

/** A ratio with its interval. */
export const lr = (value?: RatioEstimate | null, none = text.unknown) =>
  value ? `${ratioPoint(value)} (${ratioInterval(value)})` : none

/** Counts of each level, with and without the condition. */
export const levelWords = (levels: LevelInput[]) =>
  levels.map(({ name, with: having, without }) => `${name}: ${having ?? '–'} / ${without ?? '–'}`).join('; ')

/** The four cells in the order of a 2x2 table's letters: TP / FP / FN / TN. */
export const cells = ({ tp, fp, fn, tn }: Counts | RawCounts) =>
  [tp, fp, fn, tn].map((cell) => cell ?? '–').join(' / ')

/** What a report tells of people outside the four cells, and what the figures are with them. */
export function flowWords({ verified, uninterpretable, ...result }: ResultView): string[] {
  const words = text.flow
  const said: string[] = []
  if (verified) {
    const { positive_unverified: positive, negative_unverified: negative } = result
    const range = (name: 'sensitivity' | 'specificity') => {
      const ends = verified[`${name}_range`]
      return ends ? percentInterval({ lower: ends[0]!, upper: ends[1]!, estimate: ends[0]! }) : text.unknown
    }
    said.push(words.notVerified(positive ?? 0, negative ?? 0))
    said.push(words.whatever(range('sensitivity'), range('specificity')))
  }
  if (uninterpretable.results) said.push(words.uninterpretable(uninterpretable.tests, uninterpretable.of))
  return said
}

/** A share corrected for people who were not verified. */
export function correctedShare({ verified }: ResultView, name: 'sensitivity' | 'specificity'): string {
  if (!verified) return ''
  const of = verified[name]
  return text.flow.corrected(of ? (of.interval ? share(of.interval) : percent(of.estimate)) : text.unknown)
}

/** Where a result stands on its sheet: figures lead to it from anywhere. */
export const rowId = (result: string) => `result-${result}`

/** Which report it stands in, in the words of a list. */
export const label = ({ study }: ResultView) => study.cited?.label ?? study.reference

/** Who was examined, against what, and how. */
export const about = (result: ResultView) =>
  [result.study.population, result.reference_standard, ...setupWords(result.study.setup)].filter(Boolean)
