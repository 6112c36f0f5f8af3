//! Profile-likelihood intervals of the means: better than Wald intervals with few studies and near a boundary.

use super::marginal::{L11, L22, StudyData, Theta};
use super::optimise::{EXACT, Effort, Exact, Free, StopCause, maximise};
use super::quadrature::NODE_COUNTS;
use super::search::Fit;
use crate::Level;

/// Profile-likelihood interval of a mean: the values whose likelihood, maximised over everything else, stays within half the
/// chi-square quantile (1 degree of freedom) of the maximum. A side on which it never falls that far is unbounded.
///
/// `None` when the mean is not estimated or a constrained search fails.
pub(super) fn profile_interval(studies: &[StudyData], fit: &Fit, arm: usize, level: Level) -> Option<[f64; 2]> {
    if !fit.free[arm] {
        return None;
    }
    let target = fit.log_likelihood - 0.5 * level.z().powi(2);
    let se = fit.covariance[(arm, arm)].sqrt();
    let bound = |direction: f64| {
        let mut profile = Profile::new(studies, fit, arm);
        let at = |distance: f64| fit.theta[arm] + direction * distance;
        // Outwards until the likelihood has fallen far enough; flat likelihoods end at infinity.
        let (mut inner, mut outer) = (0.0, level.z() * se);
        while profile.height(at(outer))? > target {
            inner = outer;
            outer *= 1.6;
            if at(outer).abs() > 30.0 {
                return Some(direction * f64::INFINITY);
            }
        }
        for _ in 0..40 {
            let middle = 0.5 * (inner + outer);
            if outer - inner < 1e-6 * se {
                break;
            }
            if profile.height(at(middle))? > target { inner = middle } else { outer = middle }
        }
        Some(at(0.5 * (inner + outer)))
    };
    Some([bound(-1.0)?, bound(1.0)?])
}

/// The likelihood maximised with one mean held; each search starts where the last one ended.
struct Profile<'a> {
    studies: &'a [StudyData],
    free: Free,
    arm: usize,
    nodes: usize,
    theta: Theta,
    modes: Vec<[f64; 2]>,
}

impl<'a> Profile<'a> {
    fn new(studies: &'a [StudyData], fit: &Fit, arm: usize) -> Self {
        let mut free = fit.free.clone();
        free[arm] = false;
        let nodes = NODE_COUNTS.iter().position(|count| *count == fit.nodes).unwrap_or(NODE_COUNTS.len() - 1);
        Self { studies, free, arm, nodes, theta: fit.theta.clone(), modes: vec![[0.0; 2]; studies.len()] }
    }

    fn height(&mut self, mean: f64) -> Option<f64> {
        let mut start = self.theta.clone();
        start[self.arm] = mean;
        let effort = Effort { tolerance: EXACT, to_beat: f64::NEG_INFINITY };
        let mut likelihood = Exact::new(self.studies, self.nodes, &mut self.modes);
        let mut best = maximise(&mut likelihood, &self.free, start, effort);
        // Away from the maximum a scale that was on its boundary may leave it: the curvature says so.
        let leaving = [L11, L22]
            .into_iter()
            .filter(|scale| !self.free[*scale] && best.evaluation.hessian[(*scale, *scale)] > 0.0);
        let mut wider = self.free.clone();
        let mut start = best.theta.clone();
        for scale in leaving {
            wider[scale] = true;
            start[scale] = 0.2;
        }
        if wider != self.free {
            let wide = maximise(&mut likelihood, &wider, start, effort);
            if wide.cause == StopCause::Converged && wide.evaluation.value > best.evaluation.value {
                best = wide;
            }
        }
        if best.cause != StopCause::Converged {
            return None;
        }
        self.theta = best.theta;
        Some(best.evaluation.value)
    }
}

#[cfg(test)]
mod tests {
    use super::super::marginal::{M1, StudyData, evaluate, theta5};
    use super::super::quadrature::{NODE_COUNTS, rule};
    use super::super::search::{Shape, fit};
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
        let fine = rule(NODE_COUNTS.len() - 4);
        for bound in bounds {
            // Every scale from 0 to 3 by brute force.
            let best = (0..600)
                .map(|i| {
                    let theta = theta5([bound, 0.0, f64::from(i) / 200.0, 0.0, 0.0]);
                    evaluate(&studies, &theta, fine, &mut [[0.0; 2]; 4]).value
                })
                .fold(f64::NEG_INFINITY, f64::max);
            let fallen = 2.0 * (fit.log_likelihood - best);
            assert!((fallen - 3.841_458_820_694_124).abs() < 1e-3, "{fallen} at {bound}");
        }
        let wald = 1.96 * fit.covariance[(0, 0)].sqrt();
        assert!(bounds[1] - bounds[0] > 2.0 * wald, "with four studies the profile is the wider one");
    }
}
