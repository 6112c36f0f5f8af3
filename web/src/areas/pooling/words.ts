import type {
  ArmName,
  Limit,
  Note,
  PoolReading,
  Uninterpretable,
  Warning,
  Workings,
} from '@/shared/api/types'
import { coefficient, percent, whole } from '@/shared/format'
import { text } from '@/shared/text'

type Said = keyof typeof text.poolWarnings

/** A sentence with what belongs into its gaps. */
const filled = (code: Said, values: Record<string, string> = {}) =>
  text.poolWarnings[code].replace(/\{(\w+)\}/g, (gap, name: string) => values[name] ?? gap)
const counted = (code: 'few_studies' | 'one_armed_studies' | 'half_added', n: number) =>
  filled(n === 1 ? `${code}_one` : code, { n: String(n) })
const perfect = (n: number, upper: number, arm: ArmName) =>
  filled(`perfect_arm_${arm}`, { n: whole(n), upper: percent(upper) })

/** What has to be said beside a pooled answer; the command line says the same. */
export function warningWords(warning: Warning): string {
  switch (warning.code) {
    case 'few_studies':
      return counted('few_studies', warning.both_arms)
    case 'one_armed_studies':
      return counted('one_armed_studies', warning.count)
    case 'at_boundary':
      return text.boundaries[warning.boundary]
    case 'perfect_arm':
      return perfect(warning.n, warning.upper, warning.arm)
    case 'none_correct':
      return filled('none_correct', { n: whole(warning.n), upper: percent(warning.upper) })
    case 'half_added':
      return counted('half_added', warning.studies)
    case 'no_arm':
      return filled(`no_arm_${warning.arm}`)
    case 'combined_ends':
    case 'variance_not_identified':
    case 'profile_not_followed':
    case 'quadrature_limit':
      return filled(warning.code)
  }
}

/** Formula and method of each measure, as an answer says they were used; of one study by itself without an answer. */
export function workingWords(used: Workings = ONE_STUDY, method = '') {
  const { formulas, shareWorkings, ratioWorkings, singleOdds } = text.pooled
  const ratios = ratioWorkings[used.ratios]
  return {
    sensitivity: `${formulas.sensitivity} ${shareWorkings[used.sensitivity](method)}`,
    specificity: `${formulas.specificity} ${shareWorkings[used.specificity](method)}`,
    lr_positive: `${formulas.lr_positive} ${ratios}`,
    lr_negative: `${formulas.lr_negative} ${ratios}`,
    dor: `${formulas.dor} ${used.ratios === 'one_study' ? singleOdds : ratios}`,
  }
}
const ONE_STUDY: Workings = { sensitivity: 'one_study', specificity: 'one_study', ratios: 'one_study' }

/** A perfect arm is never certainty: what the data still allow, said wherever the result is read. */
export function limitWords(warnings: Warning[]): string[] {
  return warnings
    .filter((warning) => warning.code === 'perfect_arm' || warning.code === 'none_correct')
    .map(warningWords)
}

/** What has to be said beside one study's figures. */
export function noteWords(note: Note): string {
  switch (note.code) {
    case 'half_added':
      return text.warning.halfAdded
    case 'no_false_negatives':
      return perfect(note.n, note.upper, 'diseased')
    case 'no_false_positives':
      return perfect(note.n, note.upper, 'non_diseased')
    case 'no_diseased_arm':
      return filled('no_arm_diseased')
    case 'no_non_diseased_arm':
      return filled('no_arm_non_diseased')
    case 'no_positive_result':
      return text.warning.noPositive
    case 'no_negative_result':
      return text.warning.noNegative
  }
}

/** How many tests could not be interpreted; empty while none is told of. */
export function uninterpretableWords({ tests, of, results }: Uninterpretable): string {
  return tests ? text.flow.share(whole(tests), whole(of), percent(tests / of), results) : ''
}

/** What limits an answer, as a sentence. */
export function limitSentence(limit: Limit): string {
  const said = text.pool.reading.limits
  switch (limit.code) {
    case 'single_study':
      return said.single
    case 'few_studies':
      return said.few(limit.both_arms)
    case 'no_errors':
      return said.noErrors(whole(limit.n), limit.arm === 'diseased')
    case 'crosses_one':
      return said.crossesOne(limit.positive ? 'LR+' : 'LR−')
    case 'correlation_at_limit':
      return said.correlation
    case 'high_risk':
      return said.highRisk(limit.results, limit.of)
    case 'not_appraised':
      return said.notAppraised(limit.results, limit.of)
    case 'includes_test':
      return said.includesTest(limit.results, limit.of)
    case 'negatives_unverified':
      return said.negativesUnverified(limit.results, limit.of)
    case 'uninterpretable':
      return uninterpretableWords(limit)
    case 'low_agreement':
      return said.lowAgreement(coefficient(limit.coefficient), text.agreement.sizes[limit.size])
    case 'several_standards':
      return said.standards(limit.standards)
  }
}

/** A reading in sentences; the ratios as they are shown beside it. */
export function readingWords(
  { positive, negative, spread, limits }: PoolReading,
  lr: { positive: string; negative: string },
) {
  const { reading } = text.pool
  const [raises, lowers] = [
    positive && reading.positive[positive.shift],
    negative && reading.negative[negative.shift],
  ]
  const upper = (said: string) => said.charAt(0).toUpperCase() + said.slice(1)
  let worth = reading.unknown
  if (raises && lowers) worth = reading.joined(raises, lr.positive, lowers, lr.negative)
  else if (raises) worth = `${reading.single(raises, `LR+ ${lr.positive}`)} ${reading.oneOnly}`
  else if (lowers) worth = `${reading.single(upper(lowers), `LR− ${lr.negative}`)} ${reading.oneOnly}`
  return { worth, spread: reading.spread[spread], limits: limits.map(limitSentence) }
}

/** A probability of a test as it is printed: two digits, and no zero. */
export function pValue(p: number): string {
  if (p < 0.001) return '< 0.001'
  return `= ${p.toFixed(p < 0.01 ? 3 : 2)}`
}
