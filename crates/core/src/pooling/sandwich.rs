//! Intervals from the studies' own scatter: no prior, and a coverage that hardly falls with few studies.

use super::derived::{Summary, log_ratio_gradients};
use super::marginal::{Marginal, StudyData, Theta};
use super::multistart::{Fit, laid_out};
use crate::distribution::t_upper;
use crate::quantity::centred;
use crate::{Estimate, Level};

/// The summary of a fit without correlation, its intervals from the studies' scores: what Hartung and Knapp (Stat Med 2001) do for measures with a
/// standard error, for the exact binomial model.
///
/// With `u_i` the derivative of study `i`'s log-likelihood in an arm's mean logit, `A` the sum of its negative second derivatives and `k` the studies
/// that report the arm, the mean's variance is `k/(k-1) Σ u_i² / A²`, and the covariance of the two means likewise. Bounds are `mu ± t(k-1) se`, of the
/// ratios by the delta method with the smaller `k`. Where studies agree by chance the scatter is next to nothing: no half-width is less than `z` times the
/// standard error of all people together, without a variance between studies.
///
/// `None` where an arm is reported by one study only.
pub(super) fn scatter_summary(studies: &[StudyData], fit: &Fit, arms: [bool; 2], level: Level) -> Option<Summary> {
    let parts = laid_out(studies, true);
    let rule = |index: usize| fit.rules[if fit.apart { index } else { index / 2 }];
    let (mut information, mut reported, mut squares) = ([0.0; 2], [0_u32; 2], [[0.0; 2]; 2]);
    for (study, both) in parts.chunks(2).enumerate() {
        let mut scores = [0.0; 2];
        for (arm, part) in both.iter().enumerate().filter(|(arm, part)| part.n[*arm] > 0.0) {
            let one = Marginal::new(std::slice::from_ref(part), rule(2 * study + arm)).at(&fit.theta);
            scores[arm] = one.gradient[arm];
            information[arm] -= one.hessian[(arm, arm)];
            reported[arm] += 1;
        }
        for (i, row) in squares.iter_mut().enumerate() {
            for (j, cell) in row.iter_mut().enumerate() {
                *cell += scores[i] * scores[j];
            }
        }
    }
    if (0..2).any(|arm| arms[arm] && (reported[arm] < 2 || information[arm] <= 0.0)) {
        return None;
    }
    let corrected = |arm: usize| {
        let k = f64::from(reported[arm].max(2));
        (k / (k - 1.0)).sqrt() / information[arm].max(f64::MIN_POSITIVE)
    };
    let covariance = [0, 1].map(|i| [0, 1].map(|j| squares[i][j] * corrected(i) * corrected(j)));
    let floor = pooled_variances(studies);
    let half = |scatter: f64, floor: f64, k: u32| {
        let t = t_upper(level.tail(), f64::from(k) - 1.0);
        (t * scatter.max(0.0).sqrt()).max(level.z() * floor.sqrt())
    };
    let share = |arm: usize| {
        let wide = || half(covariance[arm][arm], floor[arm], reported[arm]);
        arms[arm].then(|| centred(fit.theta[arm], wide()).expit()).flatten()
    };
    let ratios = log_ratio_gradients(means(&fit.theta)).map(|(log, [g, h])| {
        let scatter = g * g * covariance[0][0] + 2.0 * g * h * covariance[0][1] + h * h * covariance[1][1];
        let none_between = g * g * floor[0] + h * h * floor[1];
        let k = reported[0].min(reported[1]);
        let both = arms == [true, true];
        both.then(|| Estimate::exp(centred(log, half(scatter, none_between, k)))).flatten()
    });
    let [lr_positive, lr_negative, dor] = ratios;
    Some(Summary { sensitivity: share(0), specificity: share(1), lr_positive, lr_negative, dor })
}

fn means(theta: &Theta) -> [f64; 2] {
    [theta[0], theta[1]]
}

/// Variance of each arm's logit of all people together: `1 / (N p (1 - p))`.
fn pooled_variances(studies: &[StudyData]) -> [f64; 2] {
    [0, 1].map(|arm| {
        let (right, n) = studies.iter().fold((0.0, 0.0), |(y, n), study| (y + study.y[arm], n + study.n[arm]));
        let p = right / n;
        1.0 / (n * p * (1.0 - p))
    })
}
