//! The normal approximation: observed logits with their large-sample variances (Reitsma et al. 2005). It is here to compare
//! with published analyses; the exact likelihood needs no correction for zero cells and is the default.

use nalgebra::{Matrix2, Vector2};

use super::marginal::{Evaluation, Hessian, L11, L21, L22, Theta};
use super::multistart::Boundary;
use super::optimise::{EXACT, Effort, Likelihood, StopCause, maximise};
use crate::accuracy::Counts;

/// A finished fit; arms that no study reports are not `present` and hold zeros.
#[derive(Debug, Clone)]
pub(super) struct NormalFit {
    pub present: [bool; 2],
    pub mu: [f64; 2],
    /// `(X' V^-1 X)^-1` at the estimate.
    pub covariance: [[f64; 2]; 2],
    /// Only the scales count here.
    pub scales: Theta,
    pub log_likelihood: f64,
    pub boundary: Boundary,
    pub iterations: usize,
    pub gradient_norm: f64,
    /// Studies to whose cells 0.5 was added.
    pub corrected: usize,
}

/// One study's logits, with weights of zero where an arm is missing.
#[derive(Debug, Clone, Copy)]
struct Observed {
    logit: Vector2<f64>,
    variance: [Option<f64>; 2],
}

/// Two likelihoods closer than this are one maximum; the simpler model then stands.
const SAME: f64 = 1e-8;

/// Fits `logit ~ N(mu, S + Sigma)` by (restricted) maximum likelihood, `S` the diagonal of `1/TP + 1/FN` and `1/TN + 1/FP`,
/// with 0.5 added to all four cells of a study with a zero cell. Log-likelihoods with their constants:
/// `-1/2 [(n - p) ln 2 pi + ln|V| + ln|X'V^-1X| + r'V^-1r]`, without the third term and with `p = 0` for maximum likelihood.
///
/// Several starts, the boundaries among them, as for the exact likelihood. `None` without a maximum.
pub(super) fn fit_normal(studies: &[Counts], restricted: bool) -> Option<NormalFit> {
    let zero = |study: &&Counts| study.cells().iter().flatten().any(|cell| *cell == 0);
    let corrected = studies.iter().filter(zero).count();
    let observed: Vec<Observed> = studies.iter().map(observe).collect();
    let present = [0, 1].map(|arm| observed.iter().any(|o| o.variance[arm].is_some()));
    let mut model = Normal { observed: &observed, present, restricted };
    let mut best: Option<(Vec<bool>, Theta, Evaluation, usize)> = None;
    let mut iterations = 0;
    for (free, start) in starts(present) {
        let effort = Effort { tolerance: EXACT * 1e-4, to_beat: f64::NEG_INFINITY };
        let stop = maximise(&mut model, &free, start, effort);
        iterations += stop.iterations;
        let better = best.as_ref().is_none_or(|(_, _, evaluation, _)| stop.evaluation.value > evaluation.value + SAME);
        if stop.cause == StopCause::Converged && better {
            best = Some((free, stop.theta, stop.evaluation, iterations));
        }
    }
    let (free, scales, evaluation, _) = best?;
    let profile = model.profile(&scales)?;
    let zero = |place: usize| scales[place].abs() < 1e-3;
    let (no_first, no_second) = (present[0] && zero(L11), present[1] && zero(L21) && zero(L22));
    let boundary = match (no_first, no_second) {
        (true, true) => Boundary::BothVariancesZero,
        (true, false) => Boundary::Tau2SensZero,
        (false, true) => Boundary::Tau2SpecZero,
        (false, false) if present == [true, true] && zero(L22) => {
            if scales[L11] * scales[L21] < 0.0 {
                Boundary::RhoMinusOne
            } else {
                Boundary::RhoPlusOne
            }
        }
        (false, false) => Boundary::None,
    };
    Some(NormalFit {
        present,
        mu: [profile.mean[0], profile.mean[1]],
        covariance: [0, 1]
            .map(|i| [0, 1].map(|j| if present[i] && present[j] { profile.covariance[(i, j)] } else { 0.0 })),
        log_likelihood: evaluation.value,
        gradient_norm: (0..free.len()).filter(|i| free[*i]).map(|i| evaluation.gradient[i].powi(2)).sum::<f64>().sqrt(),
        scales,
        boundary,
        iterations,
        corrected,
    })
}

fn observe(study: &Counts) -> Observed {
    let cells = study.cells();
    let half = if cells.iter().flatten().any(|cell| *cell == 0) { 0.5 } else { 0.0 };
    let [tp, fp, fn_, tn] = cells.map(|cell| cell.map(|n| f64::from(n) + half));
    let arm = |correct: Option<f64>, wrong: Option<f64>| match (correct, wrong) {
        (Some(a), Some(b)) if a + b > 2.0 * half => ((a / b).ln(), Some(1.0 / a + 1.0 / b)),
        _ => (0.0, None),
    };
    let ((sens, v1), (spec, v2)) = (arm(tp, fn_), arm(tn, fp));
    Observed { logit: Vector2::new(sens, spec), variance: [v1, v2] }
}

/// Simplest first: no variance, one, a correlation of ±1, all.
fn starts(present: [bool; 2]) -> Vec<(Vec<bool>, Theta)> {
    let start = |free: [bool; 3], scales: [f64; 3]| {
        let mut theta = Theta::zeros(5);
        let mut all = vec![false; 5];
        for (place, (is_free, scale)) in [L11, L21, L22].into_iter().zip(free.into_iter().zip(scales)) {
            (all[place], theta[place]) = (is_free, scale);
        }
        (all, theta)
    };
    let mut list = vec![start([false; 3], [0.0; 3])];
    let one_variance = [([true, false, false], [0.6, 0.0, 0.0]), ([false, false, true], [0.0, 0.0, 0.6])];
    list.extend((0..2).filter(|arm| present[*arm]).map(|arm| start(one_variance[arm].0, one_variance[arm].1)));
    if present == [true, true] {
        for direction in [-1.0, 1.0] {
            list.push(start([true, true, false], [0.6, 0.6 * direction, 0.0]));
        }
        for direction in [-1.0, 1.0] {
            list.push(start([true; 3], [0.6, 0.3 * direction, 0.5]));
        }
    }
    list
}

struct Normal<'a> {
    observed: &'a [Observed],
    present: [bool; 2],
    restricted: bool,
}

/// The means that are best for given scales, and what was met on the way.
struct Profile {
    mean: Vector2<f64>,
    covariance: Matrix2<f64>,
    weights: Vec<Matrix2<f64>>,
    log_determinants: f64,
    logits: f64,
}

impl Normal<'_> {
    fn profile(&self, theta: &Theta) -> Option<Profile> {
        let (l11, l21, l22) = (theta[L11], theta[L21], theta[L22]);
        let (t1, t2, between) = (l11 * l11, l21 * l21 + l22 * l22, l11 * l21);
        let (mut information, mut moment) = (Matrix2::zeros(), Vector2::zeros());
        let (mut log_determinants, mut logits) = (0.0, 0.0);
        let mut weights = Vec::with_capacity(self.observed.len());
        for study in self.observed {
            let (weight, determinant) = match study.variance {
                [Some(v1), Some(v2)] => {
                    let (a, d) = (v1 + t1, v2 + t2);
                    let determinant = a * d - between * between;
                    (Matrix2::new(d, -between, -between, a) / determinant, determinant)
                }
                [Some(v1), None] => (Matrix2::new(1.0 / (v1 + t1), 0.0, 0.0, 0.0), v1 + t1),
                [None, Some(v2)] => (Matrix2::new(0.0, 0.0, 0.0, 1.0 / (v2 + t2)), v2 + t2),
                [None, None] => (Matrix2::zeros(), 1.0),
            };
            logits += study.variance.iter().flatten().count() as f64;
            log_determinants += determinant.ln();
            information += weight;
            moment += weight * study.logit;
            weights.push(weight);
        }
        for arm in (0..2).filter(|arm| !self.present[*arm]) {
            information[(arm, arm)] = 1.0;
        }
        let covariance = information.try_inverse()?;
        Some(Profile { mean: covariance * moment, covariance, weights, log_determinants, logits })
    }

    /// Value and gradient on the scales: with `D` the derivative of `Sigma`,
    /// `-1/2 [sum tr(W D) - tr(C sum W D W) - sum r'W D W r]`, the middle term for restricted likelihood only.
    fn slope(&self, theta: &Theta) -> Option<(f64, Theta)> {
        let at = self.profile(theta)?;
        let (l11, l21, l22) = (theta[L11], theta[L21], theta[L22]);
        let derivatives = [
            (L11, Matrix2::new(2.0 * l11, l21, l21, 0.0)),
            (L21, Matrix2::new(0.0, l11, l11, 2.0 * l21)),
            (L22, Matrix2::new(0.0, 0.0, 0.0, 2.0 * l22)),
        ];
        let mut gradient = Theta::zeros(5);
        let mut squares = 0.0;
        for (study, weight) in self.observed.iter().zip(&at.weights) {
            let pull = weight * (study.logit - at.mean);
            squares += (study.logit - at.mean).dot(&pull);
            for (place, derivative) in &derivatives {
                let spread = weight * derivative;
                let lost = if self.restricted { (at.covariance * spread * weight).trace() } else { 0.0 };
                gradient[*place] += 0.5 * (pull.dot(&(derivative * pull)) + lost - spread.trace());
            }
        }
        let (means, lost) = if self.restricted {
            let means = self.present.iter().filter(|present| **present).count() as f64;
            (means, -at.covariance.determinant().ln())
        } else {
            (0.0, 0.0)
        };
        let constant = (at.logits - means) * std::f64::consts::TAU.ln();
        let value = -0.5 * (constant + at.log_determinants + lost + squares);
        value.is_finite().then_some((value, gradient))
    }
}

impl Likelihood for Normal<'_> {
    /// The Hessian is a central difference of the exact gradient: good to about nine digits, and only the way to the maximum
    /// depends on it.
    fn at(&mut self, theta: &Theta) -> Evaluation {
        let mut hessian = Hessian::zeros(5, 5);
        let nowhere = || Evaluation {
            value: f64::NEG_INFINITY,
            gradient: Theta::zeros(5),
            hessian: Hessian::zeros(5, 5),
            studies: Vec::new(),
        };
        let Some((value, gradient)) = self.slope(theta) else { return nowhere() };
        for place in [L11, L21, L22] {
            let step = 1e-5 * (1.0 + theta[place].abs());
            let mut moved = [theta.clone(), theta.clone()];
            moved[0][place] += step;
            moved[1][place] -= step;
            let [Some((_, up)), Some((_, down))] = moved.map(|theta| self.slope(&theta)) else { return nowhere() };
            hessian.set_column(place, &((up - down) / (2.0 * step)));
        }
        Evaluation { value, gradient, hessian: 0.5 * (&hessian + hessian.transpose()), studies: Vec::new() }
    }
}
