import type { Note, Warning } from '@/shared/api/types'
import { percent, whole } from '@/shared/format'
import { text } from '@/shared/text'

/** What has to be said beside a pooled answer. */
export function warningWords(warning: Warning): string {
  switch (warning.code) {
    case 'few_studies':
      return text.warning.fewStudies(warning.both_arms)
    case 'one_armed_studies':
      return text.warning.oneArmed(warning.count)
    case 'at_boundary':
      return text.boundaries[warning.boundary]
    case 'perfect_arm':
      return text.warning.perfect(whole(warning.n), percent(warning.upper), warning.arm === 'diseased')
    case 'hopeless_arm':
      return text.warning.hopeless(whole(warning.n), percent(warning.upper))
    case 'conservative_ratios':
      return text.warning.conservative
    case 'variance_not_identified':
      return text.warning.variance
    case 'quadrature_limit':
      return text.warning.quadrature
    case 'half_added':
      return text.warning.halfAddedTo(warning.studies)
    case 'no_arm':
      return text.warning.noArm(warning.arm === 'diseased')
  }
}

/** A perfect arm is never certainty: what the data still allow, said wherever the result is read. */
export function limitWords(warnings: Warning[]): string[] {
  return warnings
    .filter((warning) => warning.code === 'perfect_arm' || warning.code === 'hopeless_arm')
    .map(warningWords)
}

/** What has to be said beside one study's figures. */
export function noteWords(note: Note): string {
  switch (note.code) {
    case 'half_added':
      return text.warning.halfAdded
    case 'no_false_negatives':
      return text.warning.perfect(whole(note.n), percent(note.upper), true)
    case 'no_false_positives':
      return text.warning.perfect(whole(note.n), percent(note.upper), false)
    case 'no_diseased_arm':
      return text.warning.noArm(true)
    case 'no_non_diseased_arm':
      return text.warning.noArm(false)
    case 'no_positive_result':
      return text.warning.noPositive
    case 'no_negative_result':
      return text.warning.noNegative
  }
}
