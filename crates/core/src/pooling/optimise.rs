//! Newton's method with a Levenberg shift, on the parameters a model leaves free.

use nalgebra::{DMatrix, DVector};
use serde::Serialize;

use super::marginal::{Evaluation, Hessian, L11, L21, M1, StudyData, Theta, evaluate};
use super::quadrature::rule;

/// Why an optimisation stopped. Only [`StopCause::Converged`] is success.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum StopCause {
    /// Gradient zero to rounding, curvature negative definite.
    Converged,
    /// No iteration was needed: the answer has a closed form.
    ClosedForm,
    /// Gradient zero, but not a maximum.
    Saddle,
    /// A parameter left every sensible range: no finite maximum.
    Diverged,
    /// Another start had already come higher than this one could.
    Abandoned,
    /// The iteration limit was reached.
    IterationLimit,
}

/// Which of m1, m2, l11, l21, l22 are estimated; the others are held where the search starts.
pub(super) type Free = [bool; 5];

/// A stop of the optimiser with all it knows there.
#[derive(Debug, Clone)]
pub(super) struct Stop {
    pub theta: Theta,
    pub evaluation: Evaluation,
    pub cause: StopCause,
    pub iterations: usize,
}

/// Far beyond what data with a finite maximum reach (arms all right in one study and all wrong in the next come
/// to a scale of about 14); the likelihood is flat there.
const MAX_MEAN: f64 = 60.0;
const MAX_SCALE: f64 = 40.0;
/// Newton's decrement is twice the gain in log-likelihood still to be had. Newton doubles its digits each step,
/// so meeting this means that the step before it was already below a ten-thousandth of a standard error.
pub(super) const EXACT: f64 = 1e-10;
/// Enough to tell starts apart.
pub(super) const ROUGH: f64 = 1e-5;
/// Value and derivatives of a coarse rule agree only so far on steep integrands; more nodes follow.
const NOISE: f64 = 1e-4;
/// Within this decrement of a maximum a falling decrement is as good a sign as a rising value.
const NEAR: f64 = 0.1;
const MAX_ITERATIONS: usize = 60;
/// Smallest acceptable curvature relative to the largest: below, a parameter is not identified by the data.
const MIN_RELATIVE_CURVATURE: f64 = 1e-9;

/// How far to go.
#[derive(Debug, Clone, Copy)]
pub(super) struct Effort {
    /// Position of the quadrature rule in [`super::quadrature::NODE_COUNTS`].
    pub nodes: usize,
    /// Newton's decrement that is small enough.
    pub tolerance: f64,
    /// A value another start has reached; a search that cannot come near it any more stops.
    pub to_beat: f64,
}

/// Maximises the likelihood over the free parameters from `start`.
pub(super) fn maximise(
    studies: &[StudyData],
    free: Free,
    start: Theta,
    effort: Effort,
    modes: &mut [[f64; 2]],
) -> Stop {
    let Effort { nodes, tolerance, to_beat } = effort;
    let rule = rule(nodes);
    let mut theta = start;
    let mut now = evaluate(studies, &theta, rule, modes);
    let mut shift = 0.0;
    for iterations in 0..MAX_ITERATIONS {
        let stop = |theta, evaluation, cause| Stop { theta, evaluation, cause, iterations };
        if !now.value.is_finite() || theta.amax() > MAX_MEAN {
            return stop(theta, now, StopCause::Diverged);
        }
        if theta.rows(2, 3).amax() > MAX_SCALE {
            return stop(theta, now, StopCause::Diverged);
        }
        let (step, decrement, definite) = newton_step(&now, free, shift);
        if decrement < tolerance && (definite || shift > 0.0) {
            let cause = if definite { StopCause::Converged } else { StopCause::Saddle };
            return stop(theta, now, cause);
        }
        // Half the decrement is the gain to be expected; ten times that, and a margin, will not do.
        if definite && decrement < NEAR && now.value + 5.0 * decrement + 0.5 < to_beat {
            return stop(theta, now, StopCause::Abandoned);
        }
        // A step longer than 2 on a logit scale trusts the quadratic too far.
        let step = step * (2.0 / step.amax()).min(1.0);
        let next = theta + step;
        let trial = evaluate(studies, &next, rule, modes);
        // With few nodes value and gradient agree only approximately: near the maximum trust the gradient.
        let settles = || {
            let (_, after, definite_after) = newton_step(&trial, free, 0.0);
            definite && definite_after && decrement < NEAR && after < 0.25 * decrement
        };
        if trial.value > now.value || settles() {
            theta = next;
            now = trial;
            shift = if definite { 0.0 } else { shift * 0.3 };
        } else {
            shift = if shift == 0.0 { 0.05 } else { shift * 8.0 };
            if shift > 1e9 {
                // No direction improves: the noise of this quadrature rule is reached, or there is no maximum here.
                let cause = if definite && decrement < NOISE { StopCause::Converged } else { StopCause::Saddle };
                return stop(theta, now, cause);
            }
        }
    }
    Stop { theta, evaluation: now, cause: StopCause::IterationLimit, iterations: MAX_ITERATIONS }
}

/// Step, decrement `g' step`, and whether the unshifted curvature is negative definite.
fn newton_step(now: &Evaluation, free: Free, shift: f64) -> (Theta, f64, bool) {
    let index: Vec<usize> = (0..5).filter(|i| free[*i]).collect();
    let size = index.len();
    let curvature = |shift: f64| {
        DMatrix::from_fn(size, size, |i, j| {
            let value = -now.hessian[(index[i], index[j])];
            if i == j { value + shift * (value.abs() + 1e-2) } else { value }
        })
    };
    let gradient = DVector::from_fn(size, |i, _| now.gradient[index[i]]);
    let definite = curvature(0.0).cholesky().is_some();
    let mut used = if definite { shift } else { shift.max(1e-3) };
    loop {
        if let Some(cholesky) = curvature(used).cholesky() {
            let solved = cholesky.solve(&gradient);
            let decrement = gradient.dot(&solved);
            if decrement.is_finite() {
                let mut step = Theta::zeros();
                for (i, position) in index.iter().enumerate() {
                    step[*position] = solved[i];
                }
                return (step, decrement.max(0.0), definite);
            }
        }
        used *= 4.0;
        if used > 1e15 {
            return (Theta::zeros(), 0.0, false);
        }
    }
}

/// Covariance of (m1, m2): the corner of the inverse observed information over all free parameters. Means that
/// are not free have variance 0. `None` when the information is singular, that is, when a parameter is not
/// identified.
pub(super) fn covariance_of_means(hessian: &Hessian, free: Free) -> Option<[[f64; 2]; 2]> {
    let index: Vec<usize> = (0..5).filter(|i| free[*i]).collect();
    // Without l21 the likelihood factorises over the arms: what quadrature leaves between them is rounding.
    let apart = |i: usize, j: usize| !free[L21] && (i == M1 || i == L11) != (j == M1 || j == L11);
    let entry = |i: usize, j: usize| if apart(i, j) { 0.0 } else { -hessian[(i, j)] };
    let information = DMatrix::from_fn(index.len(), index.len(), |i, j| entry(index[i], index[j]));
    let scale: Vec<f64> = (0..index.len()).map(|i| information[(i, i)].max(f64::MIN_POSITIVE).sqrt()).collect();
    let correlation = DMatrix::from_fn(index.len(), index.len(), |i, j| information[(i, j)] / (scale[i] * scale[j]));
    let eigenvalues = correlation.clone().symmetric_eigenvalues();
    let identified = eigenvalues.min() > MIN_RELATIVE_CURVATURE * eigenvalues.max();
    if !identified {
        return None;
    }
    let inverse = correlation.cholesky()?.inverse();
    let mut covariance = [[0.0; 2]; 2];
    for (i, a) in index.iter().enumerate().filter(|(_, a)| **a < 2) {
        for (j, b) in index.iter().enumerate().filter(|(_, b)| **b < 2) {
            covariance[*a][*b] = inverse[(i, j)] / (scale[i] * scale[j]);
        }
    }
    covariance.iter().flatten().all(|v| v.is_finite()).then_some(covariance)
}
