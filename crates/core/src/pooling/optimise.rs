//! Newton's method with a Levenberg shift, on the parameters a model leaves free.

use nalgebra::{DMatrix, DVector};
use serde::Serialize;

use super::marginal::{Evaluation, Hessian, L11, L21, StudyData, Theta, arm_of, evaluate};
use super::quadrature::{Rule, rule};

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

/// Which parameters are estimated; the others are held where the search starts.
pub(super) type Free = Vec<bool>;

/// A stop of the optimiser with all it knows there.
#[derive(Debug, Clone)]
pub(super) struct Stop {
    pub theta: Theta,
    pub evaluation: Evaluation,
    pub cause: StopCause,
    pub iterations: usize,
    /// Newton's decrement before the last step: twice the gain in log-likelihood that it brought.
    pub decrement: f64,
}

/// Far beyond what data with a finite maximum reach (arms all right in one study and all wrong in the next come
/// to a scale of about 14); the likelihood is flat there.
const MAX_MEAN: f64 = 60.0;
const MAX_SCALE: f64 = 40.0;
/// Newton's decrement is twice the gain in log-likelihood still to be had. Newton doubles its digits each step,
/// so meeting this means that the step before it was already below a ten-thousandth of a standard error.
pub(super) const EXACT: f64 = 1e-10;
/// Enough to go on with more nodes: the step that follows unevaluated leaves an error of the order of its square.
pub(super) const CLOSE: f64 = 1e-4;
/// Enough to tell starts apart.
pub(super) const ROUGH: f64 = 1e-3;
/// Value and derivatives of a coarse rule agree only so far on steep integrands; more nodes follow.
const NOISE: f64 = 1e-4;
/// Within this decrement of a maximum a falling decrement is as good a sign as a rising value.
const NEAR: f64 = 0.1;
const MAX_ITERATIONS: usize = 60;
/// Smallest acceptable curvature relative to the largest: below, a parameter is not identified by the data.
const MIN_RELATIVE_CURVATURE: f64 = 1e-9;

/// What is maximised.
pub(super) trait Likelihood {
    /// Value and derivatives at a point.
    fn at(&mut self, theta: &Theta) -> Evaluation;
}

/// The exact likelihood by quadrature; each study's mode is kept from one point to the next.
pub(super) struct Exact<'a> {
    studies: &'a [StudyData],
    rule: &'static Rule,
    modes: &'a mut [[f64; 2]],
}

impl<'a> Exact<'a> {
    /// `nodes` is a position in [`super::quadrature::NODE_COUNTS`].
    pub fn new(studies: &'a [StudyData], nodes: usize, modes: &'a mut [[f64; 2]]) -> Self {
        Self { studies, rule: rule(nodes), modes }
    }
}

impl Likelihood for Exact<'_> {
    fn at(&mut self, theta: &Theta) -> Evaluation {
        evaluate(self.studies, theta, self.rule, self.modes)
    }
}

/// How far to go.
#[derive(Debug, Clone, Copy)]
pub(super) struct Effort {
    /// Newton's decrement that is small enough.
    pub tolerance: f64,
    /// A value another start has reached; a search that cannot come near it any more stops.
    pub to_beat: f64,
}

/// Maximises the likelihood over the free parameters from `start`.
///
/// The last step is taken on trust, its gain added to the value: where it is within the tolerance, evaluating once more would
/// tell nothing new.
pub(super) fn maximise(likelihood: &mut impl Likelihood, free: &[bool], start: Theta, effort: Effort) -> Stop {
    let Effort { tolerance, to_beat } = effort;
    let mut theta = start;
    let mut now = likelihood.at(&theta);
    let mut shift = 0.0;
    let mut last = f64::INFINITY;
    for iterations in 0..MAX_ITERATIONS {
        let stop = |theta, evaluation, cause, decrement| Stop { theta, evaluation, cause, iterations, decrement };
        if !now.value.is_finite() || theta.amax() > MAX_MEAN {
            return stop(theta, now, StopCause::Diverged, last);
        }
        if theta.rows(L11, 3).amax() > MAX_SCALE {
            return stop(theta, now, StopCause::Diverged, last);
        }
        let (step, decrement, definite) = newton_step(&now, free, shift);
        last = decrement;
        if decrement < tolerance && definite {
            now.value += 0.5 * decrement;
            return stop(theta + step, now, StopCause::Converged, decrement);
        }
        if decrement < tolerance && shift > 0.0 {
            return stop(theta, now, StopCause::Saddle, decrement);
        }
        // Half the decrement is the gain to be expected; ten times that, and a margin, will not do.
        if definite && decrement < 10.0 * NEAR && now.value + 5.0 * decrement + 0.5 < to_beat {
            return stop(theta, now, StopCause::Abandoned, decrement);
        }
        // A step longer than 2 on a logit scale trusts the quadratic too far.
        let step = &step * (2.0 / step.amax()).min(1.0);
        let next = &theta + step;
        let trial = likelihood.at(&next);
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
                return stop(theta, now, cause, decrement);
            }
        }
    }
    Stop { theta, evaluation: now, cause: StopCause::IterationLimit, iterations: MAX_ITERATIONS, decrement: last }
}

/// Step, decrement `g' step`, and whether the unshifted curvature is negative definite.
fn newton_step(now: &Evaluation, free: &[bool], shift: f64) -> (Theta, f64, bool) {
    let index: Vec<usize> = (0..free.len()).filter(|i| free[*i]).collect();
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
                let mut step = Theta::zeros(free.len());
                for (i, position) in index.iter().enumerate() {
                    step[*position] = solved[i];
                }
                return (step, decrement.max(0.0), definite);
            }
        }
        used *= 4.0;
        if used > 1e15 {
            return (Theta::zeros(free.len()), 0.0, false);
        }
    }
}

/// Covariance of the estimates: the inverse observed information over all free parameters. Those that are not free have
/// variance 0. `None` when the information is singular, that is, when a parameter is not
/// identified.
pub(super) fn covariance_of_estimates(hessian: &Hessian, free: &[bool]) -> Option<Hessian> {
    let index: Vec<usize> = (0..free.len()).filter(|i| free[*i]).collect();
    // Without l21 the likelihood factorises over the arms: what quadrature leaves between them is rounding.
    let apart = |i: usize, j: usize| !free[L21] && arm_of(i) != arm_of(j);
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
    let mut covariance = Hessian::zeros(free.len(), free.len());
    for (i, a) in index.iter().enumerate() {
        for (j, b) in index.iter().enumerate() {
            covariance[(*a, *b)] = inverse[(i, j)] / (scale[i] * scale[j]);
        }
    }
    covariance.iter().all(|v| v.is_finite()).then_some(covariance)
}
