//! What a test would look like against the truth, when the reference standard that it was compared with errs itself.
//!
//! A sensitivity analysis: the reference's own errors are stated, not known. It takes the place of no answer.

use serde::{Deserialize, Serialize};

use crate::{Estimate, Probability, Ratio};

/// How often the reference standard is right.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ReferenceErrors {
    /// In people with the condition.
    pub sensitivity: Probability,
    /// In people without it.
    pub specificity: Probability,
}

/// Why a correction is not to be believed: the table and the stated errors do not go together.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum ReferenceFlag {
    /// A reference that is right as often as a coin: nothing can be corrected.
    ReferenceUninformative,
    /// A reference worse than chance: its words were exchanged.
    ReferenceReversed,
    /// More people have the condition than all, or fewer than nobody.
    PrevInadmissible,
    /// Sensitivity outside of 0 to 1.
    SensInadmissible,
    /// Specificity outside of 0 to 1.
    SpecInadmissible,
    /// Nobody in the table.
    PrevUndefined,
    /// Nobody has the condition then.
    SensUndefined,
    /// Everybody has it then.
    SpecUndefined,
    /// A cell of the corrected table is below zero.
    NegativeCell,
}

/// Bounds that hold whatever the dependence between the errors of test and reference; `null` without anybody in the group.
#[derive(Debug, Clone, Copy, Default, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct DependenceBounds {
    /// Of sensitivity.
    pub sensitivity: Option<[f64; 2]>,
    /// Of specificity.
    pub specificity: Option<[f64; 2]>,
}

/// A table corrected for the errors of its reference standard. Figures are as the formulas give them, not cut to 0 to 1: one outside says that the
/// errors stated cannot be.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct CorrectedReference {
    /// Share that truly have the condition.
    pub prevalence: Option<f64>,
    /// If the two err independently of each other in people with the same true state.
    pub sensitivity: Option<f64>,
    /// The same.
    pub specificity: Option<f64>,
    /// LR+ of these two, where both are probabilities.
    pub lr_positive: Option<Ratio>,
    /// LR- of these two.
    pub lr_negative: Option<Ratio>,
    /// The table against the truth: TP, FP, FN, TN.
    pub cells: Option<[f64; 4]>,
    /// Without that assumption.
    pub any_dependence: DependenceBounds,
    /// Why it is not to be believed; nothing when it may be.
    pub flags: Vec<ReferenceFlag>,
}

/// Numbers this close to an end are at it.
const ROUNDING: f64 = 1e-9;

/// A table `[TP, FP, FN, TN]` (counts or shares) against a reference that errs, corrected.
///
/// With `R`, `Q` the reference's sensitivity and specificity, `N` everybody and `J = R + Q - 1` (Gart and Buck 1966; Staquet et al. 1981; prevalence
/// Rogan and Gladen 1978): `prevalence = ((TP + FN)/N + Q - 1)/J`, `Se = (Q (TP + FP) - FP)/(N (Q - 1) + TP + FN)`,
/// `Sp = (R (FN + TN) - FN)/(N R - (TP + FN))`, and the corrected cells `(Q TP - (1-Q) FP)/J` and likewise, under conditional independence.
///
/// Without it, with `P` that prevalence and cells as shares: `Se = (u + v)/P`, `Sp = 1 - (TP + FP - u - v)/(1 - P)`, where `u`, the true positives among the
/// reference's, lies in `[max(0, TP - (1-P)(1-Q)), min(TP, P R)]` and `v`, those among its negatives, in `[max(0, FP - (1-P) Q), min(FP, P (1-R))]`. Both lower
/// bounds hold at once, and both upper ones.
#[must_use]
pub fn correct_for_reference([tp, fp, fn_, tn]: [f64; 4], reference: ReferenceErrors) -> CorrectedReference {
    let (r, q) = (reference.sensitivity.get(), reference.specificity.get());
    let (j, n) = (r + q - 1.0, tp + fp + fn_ + tn);
    let mut corrected = CorrectedReference {
        prevalence: None,
        sensitivity: None,
        specificity: None,
        lr_positive: None,
        lr_negative: None,
        cells: None,
        any_dependence: DependenceBounds::default(),
        flags: Vec::new(),
    };
    if j.abs() < ROUNDING {
        corrected.flags.push(ReferenceFlag::ReferenceUninformative);
        return corrected;
    }
    if j < 0.0 {
        corrected.flags.push(ReferenceFlag::ReferenceReversed);
    }
    // Rounding leaves next to nothing where exact numbers leave nothing.
    let settled = |x: f64| if x.abs() < ROUNDING { 0.0 } else { x };
    let divide = |a: f64, b: f64| (settled(b / n.max(1e-300)) != 0.0).then(|| settled(a / b));
    let positive = tp + fn_;
    let prevalence = (n > 0.0).then(|| settled((positive / n + q - 1.0) / j));
    let sensitivity = if n > 0.0 { divide(q * (tp + fp) - fp, n * (q - 1.0) + positive) } else { None };
    let specificity = if n > 0.0 { divide(r * (fn_ + tn) - fn_, n * r - positive) } else { None };
    let cells = [
        (q * tp - (1.0 - q) * fp) / j,
        (r * fp - (1.0 - r) * tp) / j,
        (q * fn_ - (1.0 - q) * tn) / j,
        (r * tn - (1.0 - r) * fn_) / j,
    ];
    let outside = |x: f64| !(-ROUNDING..=1.0 + ROUNDING).contains(&x);
    for (value, undefined, inadmissible) in [
        (prevalence, ReferenceFlag::PrevUndefined, ReferenceFlag::PrevInadmissible),
        (sensitivity, ReferenceFlag::SensUndefined, ReferenceFlag::SensInadmissible),
        (specificity, ReferenceFlag::SpecUndefined, ReferenceFlag::SpecInadmissible),
    ] {
        match value {
            None => corrected.flags.push(undefined),
            Some(value) if outside(value) => corrected.flags.push(inadmissible),
            Some(_) => {}
        }
    }
    if cells.iter().any(|cell| *cell < -ROUNDING * n) {
        corrected.flags.push(ReferenceFlag::NegativeCell);
    }
    corrected.flags.sort_unstable();
    corrected.any_dependence = prevalence.map(|p| dependence([tp, fp].map(|it| it / n), p, [r, q])).unwrap_or_default();
    if let (Some(se), Some(sp)) = (sensitivity, specificity)
        && !outside(se)
        && !outside(sp)
    {
        let ratio =
            |a: f64, b: f64| (a > ROUNDING || b > ROUNDING).then(|| Ratio::new((a / b).max(0.0)).ok()).flatten();
        corrected.lr_positive = ratio(se, settled(1.0 - sp));
        corrected.lr_negative = ratio(settled(1.0 - se), sp);
    }
    CorrectedReference { prevalence, sensitivity, specificity, cells: Some(cells), ..corrected }
}

/// Sharp bounds from the shares that the test finds positive among the reference's positives and negatives.
fn dependence([tp, fp]: [f64; 2], p: f64, [r, q]: [f64; 2]) -> DependenceBounds {
    if !(-ROUNDING..=1.0 + ROUNDING).contains(&p) {
        return DependenceBounds::default();
    }
    let without = 1.0 - p;
    let u = [(tp - without * (1.0 - q)).max(0.0), tp.min(p * r)];
    let v = [(fp - without * q).max(0.0), fp.min(p * (1.0 - r))];
    let ends = [u[0] + v[0], u[1] + v[1]];
    DependenceBounds {
        sensitivity: (p > ROUNDING).then(|| ends.map(|end| (end / p).clamp(0.0, 1.0))),
        specificity: (without > ROUNDING).then(|| ends.map(|end| (1.0 - (tp + fp - end) / without).clamp(0.0, 1.0))),
    }
}

/// The errors of a reference standard as far as they are known: most likely, and from where to where.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ReferenceRange {
    /// In people with the condition.
    pub sensitivity: Estimate<Probability>,
    /// In people without it.
    pub specificity: Estimate<Probability>,
}

/// A correction, and from where to where it goes over what is known of the reference.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct CorrectedOverRange {
    /// At the most likely errors.
    pub likely: CorrectedReference,
    /// Of sensitivity; `null` where an end of the range cannot be.
    pub sensitivity: Option<[f64; 2]>,
    /// The same.
    pub specificity: Option<[f64; 2]>,
    /// Of LR+.
    pub lr_positive: Option<[Ratio; 2]>,
    /// Of LR-.
    pub lr_negative: Option<[Ratio; 2]>,
    /// What cannot be at some end of the range.
    pub flags: Vec<ReferenceFlag>,
}

/// [`correct_for_reference`] over a range. Corrected sensitivity depends on the reference's specificity alone, corrected specificity on its sensitivity alone, both
/// monotonically as long as they can be, so that the four ends of the range hold the least and the most.
#[must_use]
pub fn correct_over_range(cells: [f64; 4], range: ReferenceRange) -> CorrectedOverRange {
    let at = |sensitivity, specificity| correct_for_reference(cells, ReferenceErrors { sensitivity, specificity });
    let (r, q) = (range.sensitivity, range.specificity);
    let corners = [at(r.lower, q.lower), at(r.lower, q.upper), at(r.upper, q.lower), at(r.upper, q.upper)];
    let mut flags: Vec<ReferenceFlag> = corners.iter().flat_map(|it| it.flags.iter().copied()).collect();
    flags.sort_unstable();
    flags.dedup();
    let ends = |of: fn(&CorrectedReference) -> Option<f64>| {
        let all: Vec<f64> = corners.iter().filter(|it| it.flags.is_empty()).filter_map(of).collect();
        let least = all.iter().copied().fold(f64::INFINITY, f64::min);
        let most = all.iter().copied().fold(f64::NEG_INFINITY, f64::max);
        (all.len() == corners.len()).then_some([least, most])
    };
    let ratios = |of: fn(&CorrectedReference) -> Option<f64>| ends(of).map(|ends| ends.map(Ratio::rounded));
    CorrectedOverRange {
        likely: at(r.estimate, q.estimate),
        sensitivity: ends(|it| it.sensitivity),
        specificity: ends(|it| it.specificity),
        lr_positive: ratios(|it| it.lr_positive.map(Ratio::get)),
        lr_negative: ratios(|it| it.lr_negative.map(Ratio::get)),
        flags,
    }
}

/// What an erring reference makes of a test: apparent sensitivity and specificity, under independence and with the least and the most dependence.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ApparentAccuracy {
    /// Under conditional independence; `null` when the reference calls nobody positive.
    pub sensitivity: Option<f64>,
    /// The same; `null` when it calls nobody negative.
    pub specificity: Option<f64>,
    /// From the least to the most dependence.
    pub sensitivity_range: Option<[f64; 2]>,
    /// The same.
    pub specificity_range: Option<[f64; 2]>,
}

/// The other direction: what a test of this true sensitivity and specificity looks like against the reference, in people of whom this share have the
/// condition.
///
/// With `s`, `c` the test's and `R`, `Q` the reference's: `P(T+, R+ | D+) = s R + cov`, `max(-s R, -(1-s)(1-R)) <= cov <= min(s, R) - s R`, and likewise without
/// the condition.
#[must_use]
pub fn apparent_accuracy(
    [sensitivity, specificity]: [Probability; 2],
    prevalence: Probability,
    reference: ReferenceErrors,
) -> ApparentAccuracy {
    let [s, c, p, r, q] =
        [sensitivity, specificity, prevalence, reference.sensitivity, reference.specificity].map(Probability::get);
    let limits = |a: f64, b: f64| [(-a * b).max(-(1.0 - a) * (1.0 - b)), a.min(b) - a * b];
    let (with, without) = (limits(s, r), limits(c, q));
    let (called_positive, called_negative) = (p * r + (1.0 - p) * (1.0 - q), (1.0 - p) * q + p * (1.0 - r));
    let at = |d: f64, h: f64| {
        // Agreement of both in the one group, and what is left for the other.
        let both_positive = p * (s * r + d) + (1.0 - p) * (1.0 - c - q + c * q + h);
        let both_negative = (1.0 - p) * (c * q + h) + p * (1.0 - s - r + s * r + d);
        [
            (called_positive > 0.0).then(|| both_positive / called_positive),
            (called_negative > 0.0).then(|| both_negative / called_negative),
        ]
    };
    let [point, low, high] = [at(0.0, 0.0), at(with[0], without[0]), at(with[1], without[1])];
    let range = |which: usize| low[which].zip(high[which]).map(|(low, high)| [low, high]);
    ApparentAccuracy {
        sensitivity: point[0],
        specificity: point[1],
        sensitivity_range: range(0),
        specificity_range: range(1),
    }
}
