import type { AgreementAnswer } from '@/shared/api/types'
import { coefficient } from '@/shared/format'
import { text } from '@/shared/text'

/** What has to be said beside a coefficient. */
export function agreementNotes({ notes }: AgreementAnswer): string[] {
  return notes.map((note) =>
    note.code === 'kappa_paradox'
      ? text.agreement.paradox(coefficient(Math.abs(note.prevalence_index)))
      : text.agreement.noVariation,
  )
}
