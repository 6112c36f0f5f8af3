//! What a pool's summary would be against the truth, if the reference standard errs.

use super::derived::Summary;
use crate::accuracy::{CorrectedOverRange, Counts, ReferenceRange, correct_over_range};

/// Share of the people in studies of both groups whom the reference called positive; `None` without such a study.
#[must_use]
pub fn called_positive(studies: &[Counts]) -> Option<f64> {
    let (mut with, mut all) = (0.0, 0.0);
    for [diseased, others] in studies.iter().map(Counts::arms) {
        if let (Some(diseased), Some(others)) = (diseased, others) {
            with += diseased.n as f64;
            all += (diseased.n + others.n) as f64;
        }
    }
    (all > 0.0).then(|| with / all)
}

/// A summary point corrected for a reference standard that errs, at [`called_positive`] of its studies ([`correct_over_range`]): a sensitivity analysis, no
/// answer. `None` where the summary is not of both groups.
#[must_use]
pub fn correct_summary(studies: &[Counts], summary: &Summary, reference: ReferenceRange) -> Option<CorrectedOverRange> {
    let (se, sp) = (summary.sensitivity?.estimate.get(), summary.specificity?.estimate.get());
    let share = called_positive(studies)?;
    let rest = 1.0 - share;
    Some(correct_over_range([share * se, rest * (1.0 - sp), share * (1.0 - se), rest * sp], reference))
}
