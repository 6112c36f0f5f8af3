import type { AccuracyResult, Rule } from '@/shared/api/types'
import { text } from '@/shared/text'

type Said = Pick<AccuracyResult, 'variant' | 'criterion' | 'condition' | 'stage' | 'group' | 'unit'>

/** In what a result differs from what the sheet teaches, in as few words as a reader needs. */
export function resultWords({ variant, criterion, condition, stage, group, unit }: Partial<Said>): string[] {
  const { details } = text.result
  return [
    variant ? details.done(variant) : '',
    criterion ? details.positive(criterion) : '',
    condition ? details.about(condition) : '',
    stage ?? '',
    group ? details.only(group) : '',
    unit ? (text.result.units[unit] ?? '') : '',
  ].filter(Boolean)
}

/** Which tests were read together, and when they count as positive. */
export function togetherWords(others: string[], rule: Rule): string {
  const said = typeof rule === 'string' ? text.result.rules[rule] : text.result.atLeast(rule.at_least)
  return text.result.together(others.join(', '), said)
}
