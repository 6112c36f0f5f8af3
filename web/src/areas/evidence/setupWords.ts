import type { StudySetup } from '@/shared/api/types'
import { percent } from '@/shared/format'
import { text } from '@/shared/text'

/** How a study was done, in as few words as a reader needs: only what its report says. */
export function setupWords(setup: StudySetup | undefined): string[] {
  if (!setup) return []
  const { choices, years, ages, people, women } = text.setup
  const chosen = Object.entries(choices).map(([field, { words }]) => {
    const value = setup[field as keyof typeof choices]
    return value ? (words[value] ?? '') : ''
  })
  return [
    setup.people == null ? '' : people(setup.people),
    ages(setup.age, setup.youngest, setup.oldest),
    setup.women == null ? '' : women(percent(setup.women / 100)),
    ...chosen,
    setup.country ?? '',
    years(setup.first_year, setup.last_year),
    setup.examiners ?? '',
  ].filter(Boolean)
}
