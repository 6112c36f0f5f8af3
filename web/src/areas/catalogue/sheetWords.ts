import type {
  Actor,
  ScreeningAnswer,
  Bias,
  CautionKind,
  CautionScope,
  Comparison,
  ContactPart,
  ContactTask,
  CriterionKind,
  Displacement,
  Effect,
  EndFeel,
  InabilityReason,
  IndicationKind,
  Joint,
  LoadRole,
  Mode,
  Motion,
  NormKind,
  Outcome,
  Position,
  RangePart,
  ReadAtEvent,
  RepeatWhen,
  Sex,
  TestedSide,
  SidesTested,
  StepEvent,
  Tissue,
} from '@/shared/api/types'
import codes from '@/shared/codes.json'

/** Words for the codes that a sheet is made of; the printed sheet takes them from the same file. */

export const joints: Record<Joint, string> = codes.joints
export const motions: Record<Motion, string> = codes.motions
export const positions: Record<Position, string> = codes.positions
export const contactParts: Record<ContactPart, string> = codes.contact_parts
export const contactTasks: Record<ContactTask, string> = codes.contact_tasks
export const sidesTested: Record<SidesTested, string> = codes.sides_tested
export const sides: Record<TestedSide, string> = codes.sides
export const actors: Record<Actor, string> = codes.actors
export const modes: Record<Mode, string> = codes.modes
export const stepEvents: Record<StepEvent, string> = codes.step_events
export const readAtEvents: Record<ReadAtEvent, string> = codes.read_at_events
export const loadRoles: Record<LoadRole, string> = codes.load_roles
export const outcomes: Record<Outcome, string> = codes.outcomes
export const criterionKinds: Record<CriterionKind, string> = codes.criterion_kinds
export const endFeels: Record<EndFeel, string> = codes.end_feels
export const rangeParts: Record<RangePart, string> = codes.range_parts
export const displacements: Record<Displacement, string> = codes.displacements
export const inabilityReasons: Record<InabilityReason, string> = codes.inability_reasons
export const comparisons: Record<Comparison, string> = codes.comparisons
export const comparisonSigns: Record<Comparison, string> = codes.comparison_signs
export const sexes: Record<Sex, string> = codes.sexes
export const cautionKinds: Record<CautionKind, string> = codes.caution_kinds
export const cautionScopes: Record<CautionScope, string> = codes.caution_scopes
export const answers: Record<ScreeningAnswer, string> = codes.answers
export const indicationKinds: Record<IndicationKind, string> = codes.indication_kinds
export const effects: Record<Effect, string> = codes.effects
export const normKinds: Record<NormKind, string> = codes.norm_kinds
export const repeatWhen: Record<RepeatWhen, string> = codes.repeat_when
export const biases: Record<Bias, string> = codes.biases
export const tissues: Record<Tissue, string> = codes.tissues
