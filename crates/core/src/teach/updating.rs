//! How somebody's own post-test probabilities follow the evidence, beside Bayes' rule.

use serde::Serialize;

use crate::{Probability, Ratio};

/// Certainties are taken as this close to 0 and 1, so that one that was wrong has a finite error.
const CLIP: f64 = 1e-6;

/// A post-test probability as somebody gave it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct OwnEstimate {
    /// The probability before the result.
    pub pre_test: Probability,
    /// Likelihood ratio of the result.
    pub ratio: Ratio,
    /// The probability after it, as it was given.
    pub given: Probability,
}

/// How own estimates follow the evidence. Errors are differences of log odds, own minus Bayes' rule.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Updating {
    /// How many could be compared.
    pub n: usize,
    /// Mean error: above 0 where they are too high.
    pub mean_error: f64,
    /// Mean of its size.
    pub mean_absolute_error: f64,
    /// Root of its mean square.
    pub root_mean_square_error: f64,
    /// Mean distance of the probabilities themselves.
    pub mean_absolute_probability_error: f64,
    /// How the error depends on the evidence; none while all ratios are the same.
    pub line: Option<UpdatingLine>,
    /// Slope of the own change of log odds on `ln LR` through the origin; none while all ratios are 1.
    pub through_origin: Option<f64>,
}

/// Least squares of the own change of log odds on `ln LR`.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct UpdatingLine {
    /// 1 where somebody follows the evidence, below 1 where they are conservative, above 1 where they make too much of it.
    pub slope: f64,
    /// Its standard error; none with two estimates.
    pub slope_se: Option<f64>,
    /// Error at a ratio of 1.
    pub intercept: f64,
}

/// Compares own estimates with Bayes' rule in odds form: `logit given = logit pre-test + ln LR + error`. Conservatism (Edwards 1968) is a slope below 1.
///
/// Estimates after a ratio of 0 or infinity, or from certainty, have no finite error and are left out; `None` when none is left.
#[must_use]
pub fn updating(estimates: &[OwnEstimate]) -> Option<Updating> {
    let logit = |p: f64| (p / (1.0 - p)).ln();
    let compared = estimates.iter().filter_map(|it| {
        let (evidence, prior) = (it.ratio.get().ln(), logit(it.pre_test.get()));
        let given = it.given.get().clamp(CLIP, 1.0 - CLIP);
        let right = prior + evidence;
        let distance = (given - 1.0 / (1.0 + (-right).exp())).abs();
        right.is_finite().then_some((evidence, logit(given) - prior, distance))
    });
    let compared: Vec<(f64, f64, f64)> = compared.collect();
    if compared.is_empty() {
        return None;
    }
    let n = compared.len() as f64;
    let mean = |of: &dyn Fn(&(f64, f64, f64)) -> f64| compared.iter().map(of).sum::<f64>() / n;
    let error = |(evidence, change, _): &(f64, f64, f64)| change - evidence;
    let (at, mean_error) = (mean(&|it| it.0), mean(&error));
    let spread = compared.iter().map(|it| (it.0 - at).powi(2)).sum::<f64>();
    let line = (spread > 1e-12).then(|| {
        let off = compared.iter().map(|it| (it.0 - at) * (error(it) - mean_error)).sum::<f64>() / spread;
        let intercept = mean_error - off * at;
        let left = compared.iter().map(|it| (error(it) - intercept - off * it.0).powi(2)).sum::<f64>();
        let slope_se = (compared.len() > 2).then(|| (left / (n - 2.0) / spread).sqrt());
        UpdatingLine { slope: 1.0 + off, slope_se, intercept }
    });
    let squares = compared.iter().map(|it| it.0 * it.0).sum::<f64>();
    let through_origin = (squares > 1e-12).then(|| compared.iter().map(|it| it.0 * it.1).sum::<f64>() / squares);
    Some(Updating {
        n: compared.len(),
        mean_error,
        mean_absolute_error: mean(&|it| error(it).abs()),
        root_mean_square_error: mean(&|it| error(it).powi(2)).sqrt(),
        mean_absolute_probability_error: mean(&|it| it.2),
        line,
        through_origin,
    })
}
