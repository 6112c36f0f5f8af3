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

/** Words for the codes that a sheet is made of. */

export const joints: Record<Joint, string> = {
  cervical_spine: 'neck',
  shoulder: 'shoulder',
  shoulder_blade: 'shoulder blade',
  elbow: 'elbow',
  forearm: 'forearm',
  wrist: 'wrist',
  thumb_base: 'thumb base',
  thumb: 'thumb',
  fingers: 'fingers',
  thoracic_spine: 'upper back',
  lumbar_spine: 'low back',
  sacroiliac_joint: 'sacroiliac joint',
  hip: 'hip',
  knee: 'knee',
  ankle: 'ankle',
  hindfoot: 'hindfoot',
  midfoot: 'midfoot',
  toes: 'toes',
}
export const motions: Record<Motion, string> = {
  flexion: 'flexion',
  extension: 'extension',
  abduction: 'abduction',
  adduction: 'adduction',
  internal_rotation: 'internal rotation',
  external_rotation: 'external rotation',
  rotation_towards: 'turning to the tested side',
  rotation_away: 'turning away from the tested side',
  side_bend_towards: 'bending to the tested side',
  side_bend_away: 'bending away from the tested side',
  pronation: 'pronation',
  supination: 'supination',
  radial_deviation: 'radial deviation',
  ulnar_deviation: 'ulnar deviation',
  dorsiflexion: 'dorsiflexion',
  plantar_flexion: 'plantar flexion',
  inversion: 'inversion',
  eversion: 'eversion',
  elevation: 'elevation',
  depression: 'depression',
  protraction: 'protraction',
  retraction: 'retraction',
  opposition: 'opposition',
  reposition: 'reposition',
  anterior_glide: 'gliding forward',
  posterior_glide: 'gliding backward',
  compression: 'compression',
  distraction: 'distraction',
  forward_tilt: 'tilting forward',
  backward_tilt: 'tilting backward',
}
export const positions: Record<Position, string> = {
  sitting: 'sitting',
  standing: 'standing',
  lying_face_up: 'lying face up',
  lying_face_down: 'lying face down',
  side_lying: 'lying on the side',
  kneeling: 'kneeling',
}
export const handTasks: Record<HandTask, string> = {
  stabilise: 'holds still',
  move: 'moves or presses',
  resist: 'resists',
  palpate: 'palpates',
  measure: 'measures',
}
export const actors: Record<Actor, string> = {
  examiner: 'examiner',
  patient: 'patient',
  both: 'both',
}
export const modes: Record<Mode, string> = {
  active: 'active',
  passive: 'passive',
  resisted: 'resisted',
}
export const loadRoles: Record<LoadRole, string> = {
  tension: 'under tension',
  compressed: 'compressed',
  contracted: 'contracts',
  lengthened: 'lengthened',
  palpated: 'palpated',
  neural_tension: 'under neural tension',
}
export const outcomes: Record<Outcome, string> = {
  positive: 'Positive',
  equivocal: 'Equivocal',
  negative: 'Negative',
  not_interpretable: 'Not interpretable',
}
export const criterionKinds: Record<CriterionKind, string> = {
  sign: 'sign: seen, heard or felt',
  any_pain: 'any pain',
  familiar_pain: 'the familiar pain',
  apprehension: 'apprehension',
  paraesthesia: 'tingling or numbness',
  threshold: 'measured: fixed value',
  side_difference: 'measured: against the other side',
  ratio: 'measured: ratio',
  norm: 'measured: against a norm',
  graded: 'graded',
}
export const comparisons: Record<Comparison, string> = {
  at_least: 'at least',
  more_than: 'more than',
  at_most: 'at most',
  less_than: 'less than',
}
export const comparisonSigns: Record<Comparison, string> = {
  at_least: '≥',
  more_than: '>',
  at_most: '≤',
  less_than: '<',
}
export const sexes: Record<Sex, string> = { female: 'women', male: 'men' }
export const cautionKinds: Record<CautionKind, string> = {
  contraindication: 'Do not do it',
  precaution: 'With care',
  stop_rule: 'Stop at once',
}
export const biases: Record<Bias, string> = {
  towards_positive: 'towards positive',
  towards_negative: 'towards negative',
  invalid: 'makes the result invalid',
}
export const tissues: Record<Tissue, string> = {
  muscle: 'muscle',
  tendon: 'tendon',
  ligament: 'ligament or capsule',
  nerve: 'nerve',
  bone: 'bone',
  joint: 'joint',
  cartilage: 'cartilage or disc',
  bursa: 'bursa',
  fascia: 'fascia',
  vessel: 'vessel',
}
