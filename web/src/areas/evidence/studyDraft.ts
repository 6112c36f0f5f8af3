import type { StudyInput, StudySetup, StudyView } from '@/shared/api/types'

/** What a form says of the study that its result is of: a new one, or one on record at the version that was read. */
export interface StudyDraft {
  id: string | null
  version: number
  /** How many further results are of the same people. */
  others: number
  words: Required<Omit<StudyInput, 'reference_id' | 'setup'>> & {
    reference_id: string | null
    setup: StudySetup
  }
}

export function newStudy(): StudyDraft {
  return {
    id: null,
    version: 0,
    others: 0,
    words: { reference: '', reference_id: null, population: '', setup: {} as StudySetup, note: '' },
  }
}

/** `own` is how many of its results are the one in the form. */
export function studyDraft(view: StudyView, own: 0 | 1): StudyDraft {
  const { id, version, cited, reference_id, population, setup, note } = view
  // A correction of the reference shows here too.
  const reference = cited?.citation ?? view.reference
  const words = { reference, reference_id: reference_id ?? null, population, setup, note }
  return { id, version, others: view.results - own, words }
}

/** As the API takes it. */
export function studyBody({ id, version, words }: StudyDraft) {
  return { study_id: id, study_version: id ? version : null, study: words }
}

/** What an undo says of the study: its words as they were read, put back into it if it is the same one still. */
export function studyBack(before: StudyView, now: StudyView) {
  const { reference, reference_id = null, population, setup, note } = before
  const study = { reference, reference_id, population, setup, note }
  return now.id === before.id ? { study_id: now.id, study_version: now.version, study } : { study }
}
