//! Tests that are not independent given the condition: behind each stands a normal variable, and all of them share a factor.

use serde::{Deserialize, Serialize};
use statrs::distribution::{ContinuousCDF, Normal};

use super::error::{CombineError, MAX_TESTS};
use super::rules::{
    CountResult, PatternResult, RuleAccuracy, TestAccuracy, check, count_results, counted, pattern, poisson_binomial,
    rule,
};
use crate::Probability;
use crate::distribution::normal_cdf;

/// Correlation of the latent variables of any two tests, with the condition and without it.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct LatentCorrelation {
    /// With the condition.
    pub diseased: f64,
    /// Without it.
    pub non_diseased: f64,
}

/// Above it the tests are practically the same test.
const MAX_CORRELATION: f64 = 0.99;
/// The shared factor is summed over ±9 standard deviations.
const REACH: f64 = 9.0;
/// Steps of that sum, at the finest and at the coarsest.
const STEPS: [f64; 2] = [0.05, 0.5];

/// Values of the shared factor of `n` events with this correlation, with their weights.
///
/// Along the factor a chance changes over `sqrt((1 - r) / r)`, and a product of `n` over `sqrt(n)` less. A sum in steps of `h` over something that is as
/// smooth as a normal density of variance `v = 1 / (1 + n r / (1 - r))` errs by about `exp(-(2 pi / h)^2 v / 2)`; the step keeps that below rounding.
fn factors(n: usize, r: f64) -> impl Iterator<Item = (f64, f64)> {
    let inverse = 1.0 + n as f64 * r / (1.0 - r);
    let step = (std::f64::consts::TAU / (70.0 * inverse).sqrt()).clamp(STEPS[0], STEPS[1]);
    let reach = (REACH / step).ceil() as i32;
    (-reach..=reach).map(move |i| {
        let factor = f64::from(i) * step;
        (factor, step * (-0.5 * factor * factor).exp() / std::f64::consts::TAU.sqrt())
    })
}

/// For each number of positive tests, how often it happens and its likelihood ratio, when test `j` is positive as
/// `sqrt(r) F + sqrt(1 - r) E_j > -Phi^-1(p_j)`, with `F` shared and `E_j` its own, all standard normal. A correlation of 0 is
/// independence.
///
/// # Errors
/// [`CombineError`] for the number of tests and for a correlation outside [0, 0.99].
pub fn count_results_latent(
    tests: &[TestAccuracy],
    correlation: LatentCorrelation,
) -> Result<Vec<CountResult>, CombineError> {
    check(tests)?;
    check_correlation(correlation.diseased)?;
    check_correlation(correlation.non_diseased)?;
    let chances = |of: fn(&TestAccuracy) -> f64| tests.iter().map(of).collect::<Vec<f64>>();
    Ok(counted(
        latent_counts(&chances(|it| it.sensitivity.get()), correlation.diseased),
        latent_counts(&chances(|it| 1.0 - it.specificity.get()), correlation.non_diseased),
    ))
}

/// What dependence makes of every rule.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct RulesAt {
    /// Correlation of the latent variables of any two tests, the same with and without the condition.
    pub correlation: f64,
    /// Rules, "any positive" first.
    pub rules: Vec<RuleAccuracy>,
    /// Of each rule, whether it raises both: sensitivity above that of every single test, and specificity, too.
    pub raises_both: Vec<bool>,
}

/// Every rule at correlations from 0 (independence) to 0.95, in steps of 0.05.
///
/// # Errors
/// [`CombineError::Tests`].
pub fn rules_by_correlation(tests: &[TestAccuracy]) -> Result<Vec<RulesAt>, CombineError> {
    let best = |of: fn(&TestAccuracy) -> Probability| tests.iter().map(|it| of(it).get()).fold(0.0, f64::max);
    let (sensitivity, specificity) = (best(|it| it.sensitivity), best(|it| it.specificity));
    let at = |step: u32| {
        let correlation = f64::from(step) / 20.0;
        let counts = match step {
            0 => count_results(tests),
            _ => count_results_latent(tests, LatentCorrelation { diseased: correlation, non_diseased: correlation }),
        }?;
        let rules: Vec<RuleAccuracy> = (1..=tests.len()).map(|k| rule(&counts, k)).collect();
        let both = |it: &RuleAccuracy| {
            it.sensitivity.get() > sensitivity + 1e-12 && it.specificity.get() > specificity + 1e-12
        };
        Ok(RulesAt { correlation, raises_both: rules.iter().map(both).collect(), rules })
    };
    (0..20).map(at).collect()
}

/// Every pattern of results with such tests, in the order of [`super::pattern_results`].
///
/// # Errors
/// As [`count_results_latent`].
pub fn pattern_results_latent(
    tests: &[TestAccuracy],
    correlation: LatentCorrelation,
) -> Result<Vec<PatternResult>, CombineError> {
    check(tests)?;
    check_correlation(correlation.diseased)?;
    check_correlation(correlation.non_diseased)?;
    let n = tests.len();
    let laws = |of: fn(&TestAccuracy) -> f64, r: f64| {
        let chances: Vec<f64> = tests.iter().map(of).collect();
        over_factor(&chances, r, 1 << n, |chances, sum, weight| {
            let mut products = vec![weight];
            for p in chances {
                products = products.iter().flat_map(|product| [product * (1.0 - p), product * p]).collect();
            }
            for (total, p) in sum.iter_mut().zip(products) {
                *total += p;
            }
        })
    };
    let diseased = laws(|it| it.sensitivity.get(), correlation.diseased);
    let others = laws(|it| 1.0 - it.specificity.get(), correlation.non_diseased);
    Ok(diseased.into_iter().zip(others).enumerate().map(|(bits, (d, o))| pattern(n, bits, d, o)).collect())
}

/// A result of a test as a stretch of the normal variable behind it: the shares of people whose variable lies below the stretch, and below its
/// upper end. A positive result reaches from `1 - p` to 1, a negative one from 0 to `1 - p`; a level of a graded finding lies between.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ResultBand {
    /// With the condition.
    pub diseased: [f64; 2],
    /// Without it.
    pub non_diseased: [f64; 2],
}

impl ResultBand {
    /// A positive or negative result of a test of this accuracy.
    #[must_use]
    pub fn of(test: TestAccuracy, positive: bool) -> Self {
        let band = |p: f64| if positive { [1.0 - p, 1.0] } else { [0.0, 1.0 - p] };
        Self { diseased: band(test.sensitivity.get()), non_diseased: band(1.0 - test.specificity.get()) }
    }
}

/// How often such tests give exactly these results, in people with the condition and in people without it. Between two results of the same
/// tests it agrees with [`pattern_results_latent`].
///
/// # Errors
/// As [`count_results_latent`]; [`CombineError::Band`] for a stretch outside [0, 1] or that ends before it begins.
pub fn results_together(bands: &[ResultBand], correlation: LatentCorrelation) -> Result<[f64; 2], CombineError> {
    if bands.is_empty() || bands.len() > MAX_TESTS {
        return Err(CombineError::Tests(bands.len()));
    }
    let groups = [
        (correlation.diseased, bands.iter().map(|it| it.diseased).collect::<Vec<_>>()),
        (correlation.non_diseased, bands.iter().map(|it| it.non_diseased).collect()),
    ];
    for (r, stretches) in &groups {
        check_correlation(*r)?;
        if let Some([low, high]) = stretches.iter().find(|[low, high]| !(0.0 <= *low && low <= high && *high <= 1.0)) {
            return Err(CombineError::Band(*low, *high));
        }
    }
    let standard = Normal::standard();
    // The ends of the scale, where the quantile has none.
    let quantile = |share: f64| match share {
        0.0 => f64::NEG_INFINITY,
        1.0 => f64::INFINITY,
        share => standard.inverse_cdf(share),
    };
    Ok(groups.map(|(r, stretches)| {
        let ends: Vec<[f64; 2]> = stretches.iter().map(|ends| ends.map(quantile)).collect();
        let at = |(factor, weight): (f64, f64)| {
            let below = |end: f64| normal_cdf((end - r.sqrt() * factor) / (1.0 - r).sqrt());
            ends.iter().map(|[low, high]| below(*high) - below(*low)).product::<f64>() * weight
        };
        factors(ends.len(), r).map(at).sum()
    }))
}

pub(super) fn check_correlation(r: f64) -> Result<(), CombineError> {
    if (0.0..=MAX_CORRELATION).contains(&r) { Ok(()) } else { Err(CombineError::Correlation(r)) }
}

/// Law of the number of events with these chances whose latent variables are so correlated.
pub(super) fn latent_counts(chances: &[f64], r: f64) -> Vec<f64> {
    over_factor(chances, r, chances.len() + 1, |chances, sum, weight| {
        for (total, p) in sum.iter_mut().zip(poisson_binomial(chances.iter().copied())) {
            *total += weight * p;
        }
    })
}

/// Sums `add` over the shared factor, in one group of people.
fn over_factor(chances: &[f64], r: f64, size: usize, add: impl Fn(&[f64], &mut [f64], f64)) -> Vec<f64> {
    let standard = Normal::standard();
    let thresholds: Vec<f64> = chances.iter().map(|p| standard.inverse_cdf(*p)).collect();
    let mut sums = vec![0.0; size];
    let mut at_factor = vec![0.0; chances.len()];
    for (factor, weight) in factors(chances.len(), r) {
        for (p, threshold) in at_factor.iter_mut().zip(&thresholds) {
            *p = normal_cdf((threshold + r.sqrt() * factor) / (1.0 - r).sqrt());
        }
        add(&at_factor, &mut sums, weight);
    }
    sums
}
