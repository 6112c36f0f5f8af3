//! Conditional independence: given the condition (and given its absence) no test knows of another's result. Tests of
//! the same tissue break it; see [`super::two_dependent_tests`].

use serde::{Deserialize, Serialize};

use super::error::{CombineError, MAX_TESTS};
use crate::{Probability, Ratio};

/// A test's accuracy as it enters a combination.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct TestAccuracy {
    /// Sensitivity.
    pub sensitivity: Probability,
    /// Specificity.
    pub specificity: Probability,
}

/// What it means that exactly `positive` tests were positive.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct CountResult {
    /// Positive tests.
    pub positive: usize,
    /// How often, with the condition.
    pub diseased: Probability,
    /// How often, without it.
    pub non_diseased: Probability,
    /// Likelihood ratio; `None` when it can happen to nobody.
    pub lr: Option<Ratio>,
}

/// What one pattern of results means.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct PatternResult {
    /// Per test, whether it was positive.
    pub positive: Vec<bool>,
    /// How often, with the condition.
    pub diseased: Probability,
    /// How often, without it.
    pub non_diseased: Probability,
    /// Likelihood ratio; `None` when it can happen to nobody.
    pub lr: Option<Ratio>,
}

/// Accuracy of a rule over several tests.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct RuleAccuracy {
    /// Positive tests from which on the rule is positive.
    pub k: usize,
    /// Sensitivity of the rule.
    pub sensitivity: Probability,
    /// Specificity of the rule.
    pub specificity: Probability,
    /// LR+ of the rule.
    pub lr_positive: Option<Ratio>,
    /// LR- of the rule.
    pub lr_negative: Option<Ratio>,
}

/// `a / b`; infinite for `a > 0 = b`, nothing for 0/0.
pub(super) fn ratio(a: f64, b: f64) -> Option<Ratio> {
    (a > 0.0 || b > 0.0).then(|| Ratio::rounded(if b > 0.0 { a / b } else { f64::INFINITY }))
}

pub(super) fn check(tests: &[TestAccuracy]) -> Result<(), CombineError> {
    check_number(tests.len())
}

pub(super) fn check_number(n: usize) -> Result<(), CombineError> {
    if (1..=MAX_TESTS).contains(&n) { Ok(()) } else { Err(CombineError::Tests(n)) }
}

pub(super) fn check_rule(k: usize, n: usize) -> Result<(), CombineError> {
    if (1..=n).contains(&k) { Ok(()) } else { Err(CombineError::Rule { k, n }) }
}

/// Distribution of the number of positive tests, the Poisson binomial, by the recursion
/// `P_j(m) = P_j(m-1) (1 - p_m) + P_{j-1}(m-1) p_m`.
pub(super) fn poisson_binomial(chances: impl Iterator<Item = f64>) -> Vec<f64> {
    let mut distribution = vec![1.0];
    for p in chances {
        distribution.push(0.0);
        for j in (0..distribution.len()).rev() {
            let fewer = if j > 0 { distribution[j - 1] } else { 0.0 };
            distribution[j] = distribution[j] * (1.0 - p) + fewer * p;
        }
    }
    distribution
}

/// For each number of positive tests, how often it happens and its likelihood ratio.
///
/// # Errors
/// [`CombineError::Tests`].
pub fn count_results(tests: &[TestAccuracy]) -> Result<Vec<CountResult>, CombineError> {
    check(tests)?;
    let diseased = poisson_binomial(tests.iter().map(|test| test.sensitivity.get()));
    let others = poisson_binomial(tests.iter().map(|test| 1.0 - test.specificity.get()));
    Ok(counted(diseased, others))
}

pub(super) fn counted(diseased: Vec<f64>, others: Vec<f64>) -> Vec<CountResult> {
    let results = diseased.into_iter().zip(others).enumerate().map(|(positive, (d, o))| CountResult {
        positive,
        diseased: Probability::rounded(d),
        non_diseased: Probability::rounded(o),
        lr: ratio(d, o),
    });
    results.collect()
}

/// The rule "positive when at least `k` tests are": any-positive is `k = 1`, all-positive `k = n`.
///
/// As `k` grows sensitivity falls and specificity rises. "Any" (`k = 1`) is at most as specific as the least specific test, "all" at most as sensitive
/// as the least sensitive one; a count in between can raise both.
///
/// # Errors
/// [`CombineError`].
pub fn at_least(tests: &[TestAccuracy], k: usize) -> Result<RuleAccuracy, CombineError> {
    let counts = count_results(tests)?;
    check_rule(k, tests.len())?;
    Ok(rule(&counts, k))
}

/// The rule from the distribution of the number of positive tests.
pub(super) fn rule(counts: &[CountResult], k: usize) -> RuleAccuracy {
    let of =
        |chance: fn(&CountResult) -> Probability| counts.iter().map(|count| chance(count).get()).collect::<Vec<_>>();
    let Shares { se, miss, alarm, sp } = Shares::of([&of(|it| it.diseased), &of(|it| it.non_diseased)], k);
    RuleAccuracy {
        k,
        sensitivity: Probability::rounded(se),
        specificity: Probability::rounded(sp),
        lr_positive: ratio(se, alarm),
        lr_negative: ratio(miss, sp),
    }
}

/// Shares of people whom a rule calls positive and negative, with and without the condition.
#[derive(Debug, Clone, Copy)]
pub(super) struct Shares {
    pub se: f64,
    pub miss: f64,
    pub alarm: f64,
    pub sp: f64,
}

impl Shares {
    /// By the laws of the number of positive tests, with and without the condition. Each tail is summed by itself, so that a small one keeps its
    /// digits.
    pub fn of([diseased, others]: [&[f64]; 2], k: usize) -> Self {
        let sum = |shares: &[f64]| shares.iter().sum();
        Self { se: sum(&diseased[k..]), miss: sum(&diseased[..k]), alarm: sum(&others[k..]), sp: sum(&others[..k]) }
    }
}

/// Every pattern of results, all-negative first, the last test changing fastest.
///
/// # Errors
/// [`CombineError::Tests`].
pub fn pattern_results(tests: &[TestAccuracy]) -> Result<Vec<PatternResult>, CombineError> {
    check(tests)?;
    let n = tests.len();
    let result = |bits: usize| {
        let positive = positives(n, bits);
        let chance = |of: fn(&TestAccuracy) -> f64| {
            tests
                .iter()
                .zip(&positive)
                .map(|(t, positive)| if *positive { of(t) } else { 1.0 - of(t) })
                .product::<f64>()
        };
        let (d, o) = (chance(|t| t.sensitivity.get()), chance(|t| 1.0 - t.specificity.get()));
        pattern(n, bits, d, o)
    };
    Ok((0..1 << n).map(result).collect())
}

fn positives(n: usize, bits: usize) -> Vec<bool> {
    (0..n).map(|i| bits >> (n - 1 - i) & 1 == 1).collect()
}

/// The pattern whose results are the binary digits of `bits`, the first test first.
pub(super) fn pattern(n: usize, bits: usize, diseased: f64, others: f64) -> PatternResult {
    PatternResult {
        positive: positives(n, bits),
        diseased: Probability::rounded(diseased),
        non_diseased: Probability::rounded(others),
        lr: ratio(diseased, others),
    }
}
