import type { Basis, Boundary, Evidence, Model, Purpose, Reason, Region, Sort } from '../api/types'
import codes from '../codes.json'

/** What the codes of the data are called. */
export const regions: Record<Region, string> = codes.regions
export const purposes: Record<Purpose, string> = codes.purposes
export const basis: Record<Basis, string> = codes.basis
export const evidence: Record<Evidence, string> = codes.evidence
export const sorts: Record<Sort, string> = {
  lr_positive: 'Strongest when positive (LR+)',
  lr_negative: 'Strongest when negative (LR−)',
  evidence: 'Most evidence',
  name: 'Name',
}
export const models: Record<Model, string> = codes.models
export const reasons: Record<Reason, string> = codes.reasons
export const boundaries: Record<Boundary, string> = codes.boundaries
export const poolWarnings = codes.pool_warnings
