//! Tests that are not independent given the condition: behind each stands a normal variable, and all of them share a factor.

use serde::{Deserialize, Serialize};
use statrs::distribution::{ContinuousCDF, Normal};

use super::rules::{CombineError, CountResult, PatternResult, TestAccuracy, check, counted, pattern, poisson_binomial};
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
/// The shared factor is summed over ±9 standard deviations. At a correlation of 0.99 the chances change over a tenth of one, twice
/// this step, and the sum's error is far below rounding.
const STEP: f64 = 0.05;
const REACH: i32 = 180;

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
    let [diseased, others] = averaged(tests, correlation, tests.len() + 1, |chances, sum, weight| {
        for (total, p) in sum.iter_mut().zip(poisson_binomial(chances.iter().copied())) {
            *total += weight * p;
        }
    })?;
    Ok(counted(diseased, others))
}

/// Every pattern of results with such tests, in the order of [`super::pattern_results`].
///
/// # Errors
/// As [`count_results_latent`].
pub fn pattern_results_latent(
    tests: &[TestAccuracy],
    correlation: LatentCorrelation,
) -> Result<Vec<PatternResult>, CombineError> {
    let n = tests.len();
    let [diseased, others] = averaged(tests, correlation, 1 << n.min(super::MAX_TESTS), |chances, sum, weight| {
        let mut products = vec![weight];
        for p in chances {
            products = products.iter().flat_map(|product| [product * (1.0 - p), product * p]).collect();
        }
        for (total, p) in sum.iter_mut().zip(products) {
            *total += p;
        }
    })?;
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
    if bands.is_empty() || bands.len() > super::MAX_TESTS {
        return Err(CombineError::Tests(bands.len()));
    }
    let groups = [
        (correlation.diseased, bands.iter().map(|it| it.diseased).collect::<Vec<_>>()),
        (correlation.non_diseased, bands.iter().map(|it| it.non_diseased).collect()),
    ];
    for (r, stretches) in &groups {
        if !(0.0..=MAX_CORRELATION).contains(r) {
            return Err(CombineError::Correlation(*r));
        }
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
        let at = |factor: f64| {
            let below = |end: f64| normal_cdf((end - r.sqrt() * factor) / (1.0 - r).sqrt());
            ends.iter().map(|[low, high]| below(*high) - below(*low)).product::<f64>() * weight(factor)
        };
        (-REACH..=REACH).map(|i| at(f64::from(i) * STEP)).sum()
    }))
}

/// Weight of a value of the shared factor.
fn weight(factor: f64) -> f64 {
    STEP * (-0.5 * factor * factor).exp() / std::f64::consts::TAU.sqrt()
}

/// Sums `add` over the shared factor, for people with the condition and without it. It gets each test's chance of being positive
/// at a value of the factor, the sums, and the weight of that value.
fn averaged(
    tests: &[TestAccuracy],
    correlation: LatentCorrelation,
    size: usize,
    add: impl Fn(&[f64], &mut [f64], f64),
) -> Result<[Vec<f64>; 2], CombineError> {
    check(tests)?;
    let standard = Normal::standard();
    type ChanceOfPositive = fn(&TestAccuracy) -> f64;
    let groups: [(f64, ChanceOfPositive); 2] = [
        (correlation.diseased, |test| test.sensitivity.get()),
        (correlation.non_diseased, |test| 1.0 - test.specificity.get()),
    ];
    for (r, _) in groups {
        if !(0.0..=MAX_CORRELATION).contains(&r) {
            return Err(CombineError::Correlation(r));
        }
    }
    Ok(groups.map(|(r, chance)| {
        let thresholds: Vec<f64> = tests.iter().map(|test| standard.inverse_cdf(chance(test))).collect();
        let mut sums = vec![0.0; size];
        let mut chances = vec![0.0; tests.len()];
        for factor in (-REACH..=REACH).map(|i| f64::from(i) * STEP) {
            for (p, threshold) in chances.iter_mut().zip(&thresholds) {
                *p = normal_cdf((threshold + r.sqrt() * factor) / (1.0 - r).sqrt());
            }
            add(&chances, &mut sums, weight(factor));
        }
        sums
    }))
}
