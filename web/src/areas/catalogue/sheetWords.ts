import type {
  Actor,
  Bias,
  CautionKind,
  Comparison,
  CriterionKind,
  HandTask,
  Joint,
  LoadRole,
  Mode,
  Motion,
  Outcome,
  Position,
  Sex,
  Tissue,
} from '@/shared/api/types'
import codes from '@/shared/codes.json'

/** Words for the codes that a sheet is made of; the printed sheet takes them from the same file. */

export const joints: Record<Joint, string> = codes.joints
export const motions: Record<Motion, string> = codes.motions
export const positions: Record<Position, string> = codes.positions
export const handTasks: Record<HandTask, string> = codes.hand_tasks
export const actors: Record<Actor, string> = codes.actors
export const modes: Record<Mode, string> = codes.modes
export const loadRoles: Record<LoadRole, string> = codes.load_roles
export const outcomes: Record<Outcome, string> = codes.outcomes
export const criterionKinds: Record<CriterionKind, string> = codes.criterion_kinds
export const comparisons: Record<Comparison, string> = codes.comparisons
export const comparisonSigns: Record<Comparison, string> = codes.comparison_signs
export const sexes: Record<Sex, string> = codes.sexes
export const cautionKinds: Record<CautionKind, string> = codes.caution_kinds
export const biases: Record<Bias, string> = codes.biases
export const tissues: Record<Tissue, string> = codes.tissues
