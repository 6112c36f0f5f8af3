import type { Finding } from '@/shared/api/types'

/** Kinds of findings in which sheets, or what a sheet says of anatomy, contradict each other: worth an entry in the register. */
const KINDS: Finding['code'][] = [
  'resisted_direction',
  'effort_against_push',
  'contradictory_direction',
  'contradicts_other_test',
  'bias_against_effect',
  'indication_contradicted',
  'interpretation_overlap',
]

export const contradicts = (finding: Finding) => KINDS.includes(finding.code)
