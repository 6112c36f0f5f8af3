//! Newton's method with a Levenberg shift, on the parameters a model leaves free.

use nalgebra::{DMatrix, DVector};
use serde::{Deserialize, Serialize};

use super::marginal::{Evaluation, Hessian, L11, L21, L22, Marginal, Theta, arm_of};

/// Why an optimisation stopped. Only [`StopCause::Converged`] is success.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
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
    /// Where the likelihood was evaluated last; `theta` is a last small step further.
    pub at: Theta,
    /// Derivatives there, and the value that the step leads to.
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
/// Enough where only the value counts, or before the last nodes are added: the last step leaves less than a billionth of a log-likelihood.
pub(super) const NEARLY: f64 = 1e-7;
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

impl Likelihood for Marginal<'_> {
    fn at(&mut self, theta: &Theta) -> Evaluation {
        self.at(theta)
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
pub(super) fn maximise(likelihood: &mut impl Likelihood, free: &[bool], start: Theta, effort: Effort) -> Stop {
    let evaluation = likelihood.at(&start);
    maximise_from(likelihood, free, start, evaluation, effort)
}

/// The same from a point at which the likelihood is known.
///
/// The last step is taken on trust, its gain added to the value: where it is within the tolerance, evaluating once more would
/// tell nothing new.
pub(super) fn maximise_from(
    likelihood: &mut impl Likelihood,
    free: &[bool],
    start: Theta,
    evaluation: Evaluation,
    effort: Effort,
) -> Stop {
    let Effort { tolerance, to_beat } = effort;
    let (mut theta, mut now) = (start, evaluation);
    let mut shift = 0.0;
    for iterations in 0..MAX_ITERATIONS {
        let stop = |theta: Theta, at: Theta, evaluation, cause| Stop { theta, at, evaluation, cause, iterations };
        if !now.value.is_finite() || theta.amax() > MAX_MEAN || theta.rows(L11, 3).amax() > MAX_SCALE {
            return stop(theta.clone(), theta, now, StopCause::Diverged);
        }
        let chart = Chart::at(&theta, free);
        let (step, decrement, definite) = newton_step(&chart, &now, free, shift);
        if decrement < tolerance && definite {
            now.value += 0.5 * decrement;
            return stop(chart.moved(&theta, &step), theta, now, StopCause::Converged);
        }
        if decrement < tolerance && shift > 0.0 {
            return stop(theta.clone(), theta, now, StopCause::Saddle);
        }
        // Half the decrement is the gain to be expected; ten times that, and a margin, will not do.
        if definite && decrement < 10.0 * NEAR && now.value + 5.0 * decrement + 0.5 < to_beat {
            return stop(theta.clone(), theta, now, StopCause::Abandoned);
        }
        // A step longer than 2 on a logit scale trusts the quadratic too far.
        let next = chart.moved(&theta, &(&step * (2.0 / step.amax()).min(1.0)));
        let trial = likelihood.at(&next);
        // With few nodes value and gradient agree only approximately: near the maximum trust the gradient.
        let settles = || {
            let (_, after, definite_after) = newton_step(&Chart::at(&next, free), &trial, free, 0.0);
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
                return stop(theta.clone(), theta, now, cause);
            }
        }
    }
    let cause = StopCause::IterationLimit;
    Stop { theta: theta.clone(), at: theta, evaluation: now, cause, iterations: MAX_ITERATIONS }
}

/// The coordinates in which a step is taken.
///
/// The spread of the second arm is often known far better than how much of it follows the first arm: `l21` and `l22` then lie on a narrow ring,
/// along which straight steps get nowhere. Where both are free, a step goes outwards and along the ring instead.
enum Chart {
    Straight,
    /// `l21 = radius sin`, `l22 = radius cos`.
    Ring {
        radius: f64,
        sin: f64,
        cos: f64,
    },
}

impl Chart {
    fn at(theta: &Theta, free: &[bool]) -> Self {
        let radius = theta[L21].hypot(theta[L22]);
        if free[L21] && free[L22] && radius > 1e-8 {
            Self::Ring { radius, sin: theta[L21] / radius, cos: theta[L22] / radius }
        } else {
            Self::Straight
        }
    }

    /// Gradient and Hessian in these coordinates: `l21` becomes the way outwards, `l22` the way along the ring.
    ///
    /// The rotation is orthonormal; the ring's own curvature adds the gradient times the second derivatives of `l21` and `l22`, which along the
    /// ring are `-(sin, cos) / radius` and, mixed, `(cos, -sin) / radius`.
    fn derivatives(&self, now: &Evaluation) -> (Theta, Hessian) {
        let (mut gradient, mut hessian) = (now.gradient.clone(), now.hessian.clone());
        let Self::Ring { radius, sin, cos } = *self else { return (gradient, hessian) };
        let turned = |a: f64, b: f64| (sin * a + cos * b, cos * a - sin * b);
        let (g21, g22) = (gradient[L21], gradient[L22]);
        (gradient[L21], gradient[L22]) = turned(g21, g22);
        for i in 0..hessian.nrows() {
            (hessian[(i, L21)], hessian[(i, L22)]) = turned(hessian[(i, L21)], hessian[(i, L22)]);
        }
        for i in 0..hessian.ncols() {
            (hessian[(L21, i)], hessian[(L22, i)]) = turned(hessian[(L21, i)], hessian[(L22, i)]);
        }
        hessian[(L22, L22)] -= (sin * g21 + cos * g22) / radius;
        let mixed = (cos * g21 - sin * g22) / radius;
        hessian[(L21, L22)] += mixed;
        hessian[(L22, L21)] += mixed;
        (gradient, hessian)
    }

    fn moved(&self, theta: &Theta, step: &Theta) -> Theta {
        let mut next = theta + step;
        if let Self::Ring { radius, sin, cos } = *self {
            // More than a radian along the ring trusts the quadratic too far.
            let (by_sin, by_cos) = (step[L22] / radius).clamp(-1.0, 1.0).sin_cos();
            let reached = radius + step[L21];
            next[L21] = reached * (sin * by_cos + cos * by_sin);
            next[L22] = reached * (cos * by_cos - sin * by_sin);
        }
        next
    }
}

/// Step in the chart's coordinates, decrement `g' step`, and whether the unshifted curvature is negative definite.
fn newton_step(chart: &Chart, now: &Evaluation, free: &[bool], shift: f64) -> (Theta, f64, bool) {
    let (all_gradient, hessian) = chart.derivatives(now);
    let index: Vec<usize> = (0..free.len()).filter(|i| free[*i]).collect();
    let size = index.len();
    let curvature = |shift: f64| {
        DMatrix::from_fn(size, size, |i, j| {
            let value = -hessian[(index[i], index[j])];
            if i == j { value + shift * (value.abs() + 1e-2) } else { value }
        })
    };
    let gradient = DVector::from_fn(size, |i, _| all_gradient[index[i]]);
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
    if index.is_empty() {
        return Some(Hessian::zeros(free.len(), free.len()));
    }
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
