//! How many people a study needs for an interval of a wanted width.

use serde::Serialize;

use crate::{Level, Probability};

/// No study of a bedside test is larger; beyond it the wish is unrealistic.
const MAX_PEOPLE: u64 = 10_000_000;

/// The smallest group from which on every larger one, too, gives an expected proportion a Wilson interval no wider than `width`, if the study finds
/// what is expected.
///
/// The expected count is rounded to whole people, so that a study can observe it; that makes the width uneven in `n` (an interval of 80 % is
/// narrow enough with 107 people, too wide with 108, narrow enough from 109 on). The widest interval of any proportion within half a person of
/// the expected one falls steadily with `n`: where it is narrow enough, all larger groups are. From there on down every size is tried until one
/// is too small. `None` for a width that is not within (0, 1) or needs more than ten million people.
#[must_use]
pub fn people_for_proportion(expected: Probability, width: f64, level: Level) -> Option<u64> {
    if !(width > 0.0 && width < 1.0) {
        return None;
    }
    let z2 = level.z().powi(2);
    // Of Wilson's interval; its square is 4 z² (p (1 - p) n + z²/4) / (n + z²)², which falls in n for every p.
    let wilson = |p: f64, n: f64| 2.0 * (z2 * (p * (1.0 - p) * n + 0.25 * z2)).sqrt() / (n + z2);
    let p = expected.get();
    let too_wide = |n: u64| wilson((p * n as f64).round() / n as f64, n as f64) > width;
    let may_be_too_wide = |n: u64| {
        let n = n as f64;
        // Nearest to one half, where an interval is widest.
        wilson(0.5_f64.clamp(p - 0.5 / n, p + 0.5 / n).clamp(0.0, 1.0), n) > width
    };
    let mut high = 1;
    while may_be_too_wide(high) {
        high *= 2;
        if high > 2 * MAX_PEOPLE {
            return None;
        }
    }
    let mut low = high / 2;
    while high - low > 1 {
        let middle = low.midpoint(high);
        if may_be_too_wide(middle) { low = middle } else { high = middle }
    }
    while high > 1 && !too_wide(high - 1) {
        high -= 1;
    }
    (high <= MAX_PEOPLE).then_some(high)
}

/// The people that a study of accuracy needs.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct AccuracyStudySize {
    /// With the condition, so that sensitivity's interval is narrow enough.
    pub with_condition: u64,
    /// Without it, so that specificity's is.
    pub without_condition: u64,
    /// To be examined, so that both groups are expected to be that large.
    pub examined: u64,
}

/// People to be examined so that both groups are large enough, at this prevalence among them:
/// `max(n_with / prevalence, n_without / (1 - prevalence)) / (1 - unusable)`, rounded up (Buderer 1996, with Wilson intervals). `unusable` is
/// the share in whom the test cannot be done or read, or the reference standard is missing.
///
/// `None` for a prevalence of 0 or 1, an `unusable` of 1, a width that is not within (0, 1), or more than ten million people.
#[must_use]
pub fn people_for_accuracy(
    sensitivity: Probability,
    specificity: Probability,
    width: f64,
    prevalence: Probability,
    unusable: Probability,
    level: Level,
) -> Option<AccuracyStudySize> {
    let (prevalence, usable) = (prevalence.get(), 1.0 - unusable.get());
    if prevalence <= 0.0 || prevalence >= 1.0 || usable <= 0.0 {
        return None;
    }
    let with_condition = people_for_proportion(sensitivity, width, level)?;
    let without_condition = people_for_proportion(specificity, width, level)?;
    let largest = (with_condition as f64 / prevalence).max(without_condition as f64 / (1.0 - prevalence));
    // A whole number that rounding lifted by less than a millionth is that number.
    let examined = (largest / usable - 1e-6).ceil();
    (examined <= MAX_PEOPLE as f64).then_some(AccuracyStudySize {
        with_condition,
        without_condition,
        examined: examined as u64,
    })
}

/// Subjects for a kappa of two raters, two categories: `n = (2 z / width)² (1-k) [(1-k)(1-2k) + k(2-k) / (2 p (1-p))]`, with
/// `k` the expected kappa and `p` the share of positive ratings (Donner and Eliasziw 1992).
///
/// `None` for a kappa outside [0, 1), a share of 0 or 1, or a width outside (0, 2).
#[must_use]
pub fn subjects_for_kappa(expected: f64, positive: Probability, width: f64, level: Level) -> Option<u64> {
    let p = positive.get();
    let sound = (0.0..1.0).contains(&expected) && p > 0.0 && p < 1.0 && width > 0.0 && width < 2.0;
    if !sound {
        return None;
    }
    let k = expected;
    let variance = (1.0 - k) * ((1.0 - k) * (1.0 - 2.0 * k) + k * (2.0 - k) / (2.0 * p * (1.0 - p)));
    let n = ((2.0 * level.z() / width).powi(2) * variance).ceil().max(2.0);
    (n <= MAX_PEOPLE as f64).then_some(n as u64)
}
