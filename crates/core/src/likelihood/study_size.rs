//! How many people a study needs for an interval of a wanted width.

use crate::accuracy::{ProportionMethod, proportion_interval};
use crate::{Level, Probability};

/// No study of a bedside test is larger; beyond it the wish is unrealistic.
const MAX_PEOPLE: u64 = 10_000_000;

/// The smallest group in which an expected proportion gets a Wilson interval no wider than `width`.
///
/// The expected count is rounded to whole people, so the width is checked on what a study can observe. `None` for a width
/// that is not within (0, 1) or needs more than ten million people.
#[must_use]
pub fn people_for_proportion(expected: Probability, width: f64, level: Level) -> Option<u64> {
    if !(width > 0.0 && width < 1.0) {
        return None;
    }
    let wide = |n: u64| {
        let x = (expected.get() * n as f64).round() as u64;
        let ci = proportion_interval(x.min(n), n, level, ProportionMethod::Wilson);
        ci.is_none_or(|ci| ci.upper.get() - ci.lower.get() > width)
    };
    let mut high = 1;
    while wide(high) {
        high *= 2;
        if high > MAX_PEOPLE {
            return None;
        }
    }
    // Rounding makes the width a little uneven in n: step down to the last size from which on it holds.
    let mut low = high / 2;
    while high - low > 1 {
        let middle = low.midpoint(high);
        if wide(middle) { low = middle } else { high = middle }
    }
    Some(high)
}

/// People to be examined so that both groups are large enough, at this prevalence among them:
/// `max(n_diseased / prevalence, n_others / (1 - prevalence))`, rounded up.
#[must_use]
pub fn people_for_accuracy(
    sensitivity: Probability,
    specificity: Probability,
    width: f64,
    prevalence: Probability,
    level: Level,
) -> Option<u64> {
    let prevalence = prevalence.get();
    if prevalence <= 0.0 || prevalence >= 1.0 {
        return None;
    }
    let diseased = people_for_proportion(sensitivity, width, level)? as f64 / prevalence;
    let others = people_for_proportion(specificity, width, level)? as f64 / (1.0 - prevalence);
    let total = diseased.max(others).ceil();
    (total <= MAX_PEOPLE as f64).then_some(total as u64)
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
