//! Profile-likelihood intervals of the means: better than Wald intervals with few studies and near a boundary.

use super::marginal::{L11, L22, Marginal, StudyData, Theta};
use super::multistart::{Fit, laid_out};
use super::optimise::{Effort, Free, NEARLY, StopCause, maximise};
use crate::Level;

/// Profile-likelihood interval of a mean: the values whose likelihood, maximised over everything else, stays within half the
/// chi-square quantile (1 degree of freedom) of the maximum. A side on which it never falls that far is unbounded.
///
/// A bound is where the signed root `r = sqrt(2 (maximum - profile))` reaches the normal deviate. `r` is close to a straight line in the mean and
/// its slope is known from the gradient, so Newton's method needs a few steps from the Wald bound; it is bracketed and ends after
/// [`MAX_STEPS`] at most.
///
/// `None` when the mean is not estimated or a constrained search fails.
pub(super) fn profile_interval(studies: &[StudyData], fit: &Fit, arm: usize, level: Level) -> Option<[f64; 2]> {
    if !fit.free[arm] {
        return None;
    }
    let studies = &*laid_out(studies, fit.apart);
    let (z, se) = (level.z(), fit.covariance[(arm, arm)].sqrt());
    let bound = |direction: f64| {
        let mut profile = Profile::new(studies, fit, arm);
        let at = |distance: f64| fit.theta[arm] + direction * distance;
        let (mut inside, mut outside) = (0.0, f64::INFINITY);
        let mut distance = z * se;
        for _ in 0..MAX_STEPS {
            let (height, slope) = profile.at(at(distance))?;
            let root = (2.0 * (fit.log_likelihood - height)).max(0.0).sqrt();
            if (root - z).abs() < PRECISION {
                return Some(at(distance));
            }
            if root < z {
                inside = distance
            } else {
                outside = distance
            }
            let newton = distance + (z - root) * root / (-slope * direction);
            distance = if newton > inside && newton < outside.min(3.0 * inside.max(distance)) {
                newton
            } else if outside.is_finite() {
                0.5 * (inside + outside)
            } else {
                1.6 * inside
            };
            // Flat likelihoods end at infinity.
            if outside.is_infinite() && at(distance).abs() > FAR {
                return Some(direction * f64::INFINITY);
            }
            if outside - inside < PRECISION * se {
                return Some(at(distance));
            }
        }
        None
    };
    Some([bound(-1.0)?, bound(1.0)?])
}

/// Of the signed root, and of a bound in standard errors.
const PRECISION: f64 = 1e-6;
/// No proportion is told from 0 or 1 beyond this logit.
const FAR: f64 = 30.0;
const MAX_STEPS: usize = 60;

/// The likelihood maximised with one mean held; each search starts where the last one ended.
struct Profile<'a> {
    likelihood: Marginal<'a>,
    free: Free,
    arm: usize,
    theta: Theta,
    /// How far the other parameters follow when the mean moves by one, at the maximum.
    follow: Theta,
}

impl<'a> Profile<'a> {
    fn new(studies: &'a [StudyData], fit: &Fit, arm: usize) -> Self {
        let mut free = fit.free.clone();
        free[arm] = false;
        let follow = fit.covariance.column(arm) / fit.covariance[(arm, arm)];
        let likelihood = Marginal::with_rules(studies, fit.rules.clone());
        Self { likelihood, free, arm, theta: fit.theta.clone(), follow }
    }

    /// Height of the profile at a mean, and its slope.
    fn at(&mut self, mean: f64) -> Option<(f64, f64)> {
        let mut start = &self.theta + &self.follow * (mean - self.theta[self.arm]);
        start[self.arm] = mean;
        let effort = Effort { tolerance: NEARLY, to_beat: f64::NEG_INFINITY };
        let mut best = maximise(&mut self.likelihood, &self.free, start, effort);
        // Away from the maximum a scale that was on its boundary may leave it: the curvature says so.
        let leaving: Vec<usize> = [L11, L22]
            .into_iter()
            .filter(|scale| !self.free[*scale] && best.evaluation.hessian[(*scale, *scale)] > 0.0)
            .collect();
        if !leaving.is_empty() {
            let mut wider = self.free.clone();
            let mut start = best.theta.clone();
            for scale in leaving {
                wider[scale] = true;
                start[scale] = 0.2;
            }
            let wide = maximise(&mut self.likelihood, &wider, start, effort);
            if wide.cause == StopCause::Converged && wide.evaluation.value > best.evaluation.value {
                best = wide;
            }
        }
        if best.cause != StopCause::Converged {
            return None;
        }
        let answer = (best.evaluation.value, best.evaluation.gradient[self.arm]);
        self.theta = best.theta;
        Some(answer)
    }
}

#[cfg(test)]
mod tests {
    use super::super::marginal::{M1, Marginal, StudyData, theta5};
    use super::super::multistart::{Shape, fit};
    use super::super::quadrature::NODE_COUNTS;
    use super::profile_interval;
    use crate::Level;
    use crate::accuracy::Counts;

    #[test]
    fn a_profile_bound_lies_where_the_best_likelihood_has_fallen_by_half_the_quantile() {
        let tables = [[20.0, 4.0, 5.0, 24.0], [31.0, 9.0, 22.0, 40.0], [14.0, 2.0, 3.0, 30.0], [9.0, 5.0, 11.0, 26.0]];
        let studies: Vec<StudyData> = tables
            .map(|[tp, fp, fn_, tn]| StudyData::new(&Counts::full(tp, fp, fn_, tn).unwrap(), [true, false]))
            .to_vec();
        let shape = Shape { arms: [true, false], variances: [true, false], correlated: false, levels: [1; 2] };
        let fit = fit(&studies, shape).unwrap();
        let bounds = profile_interval(&studies, &fit, M1, Level::default()).unwrap();
        let mut fine = Marginal::new(&studies, NODE_COUNTS.len() - 4);
        for bound in bounds {
            // Every scale from 0 to 3 by brute force.
            let best = (0..600)
                .map(|i| {
                    let theta = theta5([bound, 0.0, f64::from(i) / 200.0, 0.0, 0.0]);
                    fine.at(&theta).value
                })
                .fold(f64::NEG_INFINITY, f64::max);
            let fallen = 2.0 * (fit.log_likelihood - best);
            assert!((fallen - 3.841_458_820_694_124).abs() < 1e-3, "{fallen} at {bound}");
        }
        let wald = 1.96 * fit.covariance[(0, 0)].sqrt();
        assert!(bounds[1] - bounds[0] > 2.0 * wald, "with four studies the profile is the wider one");
    }
}
