import type { LevelInput, NamedTest, Together } from '@/shared/api/types'
import { text } from '@/shared/text'
import { RESULT_FIELDS } from './resultFields'
import { levelWords, togetherWords } from './resultWords'

/** Fields of an extraction as their form names them, and what stands in them as a reader says it. */

const { setup, study, extraction } = text
const last = (field: string) => field.split('.').at(-1) ?? ''
type Choice = keyof typeof setup.choices

const RESULT_LABELS: Record<string, string> = {
  ...extraction.counts,
  ...Object.fromEntries(RESULT_FIELDS.map(({ name, label }) => [name, label])),
}
const SETUP_LABELS: Record<string, string> = { ...setup.numbers, ...setup.words }

export function fieldLabel(field: string): string {
  const name = last(field)
  if (field === 'study.population') return study.population
  if (field.startsWith('result.')) return RESULT_LABELS[name] ?? name
  return setup.choices[name as Choice]?.label ?? SETUP_LABELS[name] ?? name
}

/** Which answers a field offers; none when it is typed. */
export function fieldChoices(field: string): { value: string; title: string }[] | null {
  const ofResult = RESULT_FIELDS.find(({ name }) => field === `result.${name}`)
  const words = ofResult ? ofResult.choices : setup.choices[last(field) as Choice]?.words
  return words ? Object.entries(words).map(([value, title]) => ({ value, title })) : null
}

export function valueWords(field: string, value: unknown, others: NamedTest[] = []): string {
  if (value === null || value === undefined || value === '') return extraction.notSaid
  if (typeof value === 'number') return String(value)
  if (field === 'result.levels') return levelWords(value as LevelInput[])
  if (field === 'result.together') {
    const { tests, rule } = value as Together
    const named = tests.map((id) => others.find((test) => test.id === id)?.name ?? '…')
    return togetherWords(named, rule)
  }
  return fieldChoices(field)?.find((choice) => choice.value === value)?.title ?? String(value)
}
