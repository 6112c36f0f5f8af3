import { outcomes } from '@/areas/catalogue/sheetWords'
import { fitWords } from '@/areas/plan/planWords'
import type {
  Attempt,
  AttemptSide,
  ExaminationOutcome,
  ExaminationView,
  OutcomeTest,
  ReadingCause,
  SuggestedRepeat,
  TestConduct,
  Variant,
} from '@/shared/api/types'
import { repeatWhen } from '@/areas/catalogue/sheetWords'
import { text } from '@/shared/text'

const words = text.examination

/** What an attempt showed, as it was entered. */
export function shownWords(attempt: Attempt): string {
  const { shown, level, unreadable, unable } = attempt
  if (!shown) return ''
  if (shown === 'level') return level
  const why =
    shown === 'not_interpretable' && unreadable
      ? words.run.unreadable[unreadable]
      : shown === 'unable' && unable
        ? words.run.unableFor[unable]
        : ''
  return why ? `${words.run.shown[shown]}: ${why}` : words.run.shown[shown]
}

/** What else was noted of it. */
export function attemptNotes(attempt: Attempt): string[] {
  const { run } = words
  const held = attempt.held ?? null
  return [
    attempt.pain ? run.pains[attempt.pain] : '',
    held === null ? '' : attempt.pain_ended ? run.painAt(held) : run.held(held),
    ...attempt.pitfalls,
    attempt.note,
  ].filter(Boolean)
}

export function causeWords(cause: ReadingCause): string {
  const said = words.run.causes
  switch (cause.code) {
    case 'inability':
      return said.inability(cause.note)
    case 'pitfall':
      return said.pitfall(cause.pitfall)
    case 'overruled':
      return said.overruled(cause.pitfall)
    default:
      return said[cause.code]
  }
}

/** Why a test was not done. */
export function leftWords(test: OutcomeTest, conducted: TestConduct | undefined): string {
  if (conducted?.skipped) return conducted.reason
  if (conducted?.attempts.length) return words.run.soundOnly
  if (test.left_out) return words.record.leftOut
  // Care is no reason to leave a test out.
  const reasons = test.fit === 'with_care' ? [] : fitWords(test.reasons)
  return reasons.join('; ') || words.record.notDone
}

/** Those that were not done. */
export const leftOut = (outcome: ExaminationOutcome) => outcome.tests.filter((it) => !it.reading.outcome)

/** On which sides a test is done, in the order of the plan. */
export function sidesOf(variant: Variant | undefined, affectedFirst: boolean): AttemptSide[] {
  if (variant?.stance.sides === 'both_at_once') return ['both', 'affected', 'sound']
  return affectedFirst ? ['affected', 'sound', 'both'] : ['sound', 'affected', 'both']
}

/** What a repeat waits for, in words. */
export const triggerOf = ({ when, on, reason }: SuggestedRepeat) =>
  [when && !(on && when === 'after_days') ? repeatWhen[when] : '', reason].filter(Boolean).join('; ')

export const outcomeWord = (outcome: keyof typeof outcomes) => outcomes[outcome].toLowerCase()

export const nameIn = (view: ExaminationView, test: string | null | undefined) =>
  view.named_tests.find((it) => it.id === test)?.name ??
  view.outcome?.tests.find((it) => it.test === test)?.name ??
  text.plan.list.gone
