import type { Boundary, Evidence, Model, Purpose, Reason, Region, Sort } from '../api/types'
import codes from '../codes.json'

/** What the codes of the data are called. */
export const regions: Record<Region, string> = codes.regions
export const purposes: Record<Purpose, string> = codes.purposes
export const evidence: Record<Evidence, string> = codes.evidence
export const sorts: Record<Sort, string> = {
  lr_positive: 'Strongest when positive (LR+)',
  lr_negative: 'Strongest when negative (LR−)',
  evidence: 'Most evidence',
  name: 'Name',
}
export const models: Record<Model, string> = {
  single_study: 'Single study',
  bivariate: 'Bivariate random effects, exact binomial',
  independent: 'Separate random effects for sensitivity and specificity',
  fixed: 'Fixed effect (no variance between studies)',
  normal_reml: 'Bivariate random effects on observed logits, restricted likelihood',
  normal_ml: 'Bivariate random effects on observed logits',
}
export const reasons: Record<Reason, string> = {
  single_study: 'there is only one study, so nothing was pooled',
  requested: 'it was asked for',
  enough_studies: 'at least four studies report both groups of patients',
  few_studies: 'fewer than four studies report both groups; a correlation cannot be estimated reliably',
  one_arm_only: 'every study reports the same group only',
  no_finite_maximum: 'in one group no study saw a single error (or a single correct result)',
  not_identified: 'these data do not identify a fuller model',
}
export const boundaries: Record<Boundary, string> = {
  none: '',
  rho_minus_one:
    'The correlation between sensitivity and specificity is at its limit of −1; intervals may be too narrow.',
  rho_plus_one:
    'The correlation between sensitivity and specificity is at its limit of +1; intervals may be too narrow.',
  tau2_sens_zero: 'No spread between studies in sensitivity was estimated; few studies cannot rule it out.',
  tau2_spec_zero: 'No spread between studies in specificity was estimated; few studies cannot rule it out.',
  both_variances_zero: 'No spread between studies was estimated; few studies cannot rule it out.',
}
