//! Intervals for likelihood ratios and the diagnostic odds ratio of one study.

use serde::{Deserialize, Serialize};

use crate::quantity::centred;
use crate::{Estimate, Level, Ratio};

/// Interval for a likelihood ratio.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum RatioMethod {
    /// Score interval for a ratio of two independent proportions (Koopman 1984). Needs no correction.
    #[default]
    Score,
    /// Normal interval on the log scale (Simel 1991), 0.5 added to every cell when one of the four is zero.
    Log,
}

/// Score interval for `R = (x1/n1) / (x0/n0)` (Koopman 1984).
///
/// The bounds solve `Z(R) = ±z` with `Z(R) = (p1 - R p0) / sqrt(V)`,
/// `V = p1~(1-p1~)/n1 + R² p0~(1-p0~)/n0`, where `p1~ = R p0~` and `p0~` are the maximum-likelihood proportions
/// under that `R`. There is no `N/(N-1)` factor (that would be Miettinen and Nurminen's interval).
///
/// `x1 = 0`: estimate and lower bound 0. `x0 = 0`: estimate and upper bound infinite, lower bound finite.
/// Both zero: `None`, as no ratio is estimable; also `None` when an arm is empty.
///
/// ```
/// use pruvex_core::accuracy::score_ratio_interval;
/// let ci = score_ratio_interval((36, 40), (16, 80), Default::default()).unwrap();
/// assert!((ci.lower.get() - 2.94).abs() < 0.005 && (ci.upper.get() - 7.15).abs() < 0.005);
/// ```
#[must_use]
pub fn score_ratio_interval((x1, n1): (u64, u64), (x0, n0): (u64, u64), level: Level) -> Option<Estimate<Ratio>> {
    if n1 == 0 || n0 == 0 || x1 > n1 || x0 > n0 || (x1 == 0 && x0 == 0) {
        return None;
    }
    let (x1, n1, x0, n0) = (x1 as f64, n1 as f64, x0 as f64, n0 as f64);
    let z = level.z();
    let (f1, f0) = (n1 - x1, n0 - x0);
    let observed = (x1 * n0 - x0 * n1) / (n1 * n0);
    let score = |log_r: f64| {
        let (r, r_minus_1) = (log_r.exp(), log_r.exp_m1());
        // p0~ is the smaller root of a p² + b p + c with -b = n0 + x1 + (n1 + x0) r and c = x1 + x0. The discriminant
        // b² - 4ac is written as a sum of squares and products, since near a proportion of 1 its two terms cancel to
        // half of the digits; 1 - p0~ and 1 - p1~ likewise.
        let q = n1 + x0;
        let minus_b = n0 + x1 + q * r;
        let root = (f0 - f1 - q * r_minus_1).hypot(2.0 * (r * f1 * f0).sqrt());
        let denominator = minus_b + root;
        let p0 = (2.0 * (x1 + x0) / denominator).min(1.0);
        let miss0 = ((f0 + f1 + q * r_minus_1 + root) / denominator).clamp(0.0, 1.0);
        let p1 = (r * p0).min(1.0);
        let miss1 = (r * miss0 - r_minus_1).clamp(0.0, 1.0);
        let variance = p1 * miss1 / n1 + r * r * p0 * miss0 / n0;
        let difference = observed - r_minus_1 * x0 / n0;
        match variance > 0.0 {
            true => difference / variance.sqrt(),
            // Both proportions are 0 or 1: any departure at all is infinitely significant, none is not.
            false if difference == 0.0 => 0.0,
            false => difference * f64::INFINITY,
        }
    };
    let solve = |target: f64| {
        // ln R of two proportions of at most 10^7 people lies well within ±40; Z falls with R throughout.
        let (mut low, mut high) = (-40.0_f64, 40.0_f64);
        while high - low > 1e-14 * (1.0 + low.abs()) {
            let middle = 0.5 * (low + high);
            if middle <= low || middle >= high {
                break;
            }
            if score(middle) > target { low = middle } else { high = middle }
        }
        (0.5 * (low + high)).exp()
    };
    let estimate = if x0 == 0.0 { f64::INFINITY } else { (x1 / n1) / (x0 / n0) };
    let lower = if x1 == 0.0 { 0.0 } else { solve(z) };
    let upper = if x0 == 0.0 { f64::INFINITY } else { solve(-z) };
    Some(Estimate::around(Ratio::rounded(estimate), Ratio::rounded(lower), Ratio::rounded(upper)))
}

/// Log interval for `R = (x1/n1) / (x0/n0)` (Simel 1991): `ln R ± z sqrt(1/x1 - 1/n1 + 1/x0 - 1/n0)`.
///
/// The arguments are real numbers since [`corrected_ratio`] adds a half to each cell. `None` when a cell or an
/// arm is zero.
#[must_use]
pub fn log_ratio_interval((x1, n1): (f64, f64), (x0, n0): (f64, f64), level: Level) -> Option<Estimate<Ratio>> {
    if x1 <= 0.0 || x0 <= 0.0 || n1 < x1 || n0 < x0 {
        return None;
    }
    let variance = (1.0 / x1 - 1.0 / n1 + 1.0 / x0 - 1.0 / n0).max(0.0);
    log_scale((x1 / n1) / (x0 / n0), variance, level)
}

/// Whether the log methods add a half to every cell: they do as soon as one of the four is zero.
fn correction(cells: [u64; 4]) -> f64 {
    if cells.contains(&0) { 0.5 } else { 0.0 }
}

/// [`log_ratio_interval`] for LR+ (`positive`) or LR- of the table TP, FP, FN, TN, with 0.5 added to all four
/// cells if any is zero. `None` when an arm is empty.
#[must_use]
pub fn corrected_ratio(cells: [u64; 4], positive: bool, level: Level) -> Option<Estimate<Ratio>> {
    let half = correction(cells);
    let [tp, fp, fn_, tn] = cells.map(|c| c as f64 + half);
    if cells[0] + cells[2] == 0 || cells[1] + cells[3] == 0 {
        return None;
    }
    let (x1, x0) = if positive { (tp, fp) } else { (fn_, tn) };
    log_ratio_interval((x1, tp + fn_), (x0, fp + tn), level)
}

/// Diagnostic odds ratio `TP TN / (FP FN)` with Woolf's interval (1955): `ln DOR ± z sqrt(sum of 1/cell)`, on
/// cells raised by 0.5 if any is zero. `None` when an arm is empty.
#[must_use]
pub fn diagnostic_odds_ratio(cells: [u64; 4], level: Level) -> Option<Estimate<Ratio>> {
    if cells[0] + cells[2] == 0 || cells[1] + cells[3] == 0 {
        return None;
    }
    let half = correction(cells);
    let [tp, fp, fn_, tn] = cells.map(|c| c as f64 + half);
    log_scale(tp / fp * (tn / fn_), 1.0 / tp + 1.0 / fp + 1.0 / fn_ + 1.0 / tn, level)
}

fn log_scale(estimate: f64, variance: f64, level: Level) -> Option<Estimate<Ratio>> {
    centred(estimate.ln(), level.z() * variance.sqrt()).exp()
}
