//! Several results of one patient, one after the other.

use serde::Serialize;

use super::{
    NaturalFrequencies, natural_frequencies, post_test, post_test_interval, post_test_uncertain, supported_share,
};
use crate::combine::{CombineError, LatentCorrelation, MAX_TESTS, TestAccuracy, pattern_result_latent};
use crate::pooling::Summary;
use crate::{Estimate, Level, Probability, Ratio};

/// A result that was found.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Finding {
    /// What is known of the test.
    pub summary: Summary,
    /// Positive, else negative. A test that could not be done or read is neither, and is no finding.
    pub positive: bool,
}

impl Finding {
    /// The likelihood ratio of this result.
    #[must_use]
    pub fn lr(&self) -> Option<Estimate<Ratio>> {
        if self.positive { self.summary.lr_positive } else { self.summary.lr_negative }
    }
}

/// Sensitivity and specificity as far as the data support them (see [`supported_share`]).
#[must_use]
pub fn supported_accuracy(summary: &Summary) -> Option<TestAccuracy> {
    let (sensitivity, specificity) = summary.sensitivity.zip(summary.specificity)?;
    Some(TestAccuracy { sensitivity: supported_share(sensitivity), specificity: supported_share(specificity) })
}

/// What one result of a chain does.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ChainStep {
    /// Its likelihood ratio; `None` when not estimable.
    pub lr: Option<Estimate<Ratio>>,
    /// The probability after it and all before it; `None` when it is not estimable and moves nothing.
    pub after: Option<Estimate<Probability>>,
}

/// What tests that know of each other's results would make of a chain.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Dependence {
    /// Latent correlation of any two of the tests, in people with the condition and in people without it.
    pub correlation: f64,
    /// Probability after all results when the tests are independent: where the chain ends.
    pub independent: Probability,
    /// The same at that correlation; `None` when such results can happen to nobody.
    pub dependent: Option<Probability>,
    /// Of 1 000 people, those who show exactly these results (as "positive"), when the tests are independent.
    pub crowd: NaturalFrequencies,
}

/// A patient's results.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Chain {
    /// One for each result, in their order.
    pub steps: Vec<ChainStep>,
    /// Where they end; the pre-test probability without any.
    pub end: Estimate<Probability>,
    /// Of two results and more, all of them estimable.
    pub dependence: Option<Dependence>,
}

/// Probability after one result. A pre-test probability without spread takes the ratio's bounds as they are; one with spread adds its
/// variance, see [`post_test_uncertain`].
#[must_use]
pub fn after_result(
    pre_test: Estimate<Probability>,
    lr: Estimate<Ratio>,
    level: Level,
) -> Option<Estimate<Probability>> {
    if pre_test.lower == pre_test.upper {
        post_test_interval(pre_test.estimate, lr)
    } else {
        post_test_uncertain(pre_test, lr, level)
    }
}

/// Follows results one after the other, each starting where the one before it ended: Bayes' rule with the product of the ratios, which
/// takes the tests as independent given the condition. Beside it stands what they would be worth together if they were not, by a latent
/// normal variable behind each test (see [`pattern_result_latent`]).
///
/// After a ratio whose point is infinite or 0 the chain goes on from the bound that the data support (see [`supported_share`]): otherwise an
/// empty cell of one small study would silence every result after it.
///
/// # Errors
/// [`CombineError`] for more than [`MAX_TESTS`] results or a correlation outside [0, 0.99].
pub fn chain(
    pre_test: Estimate<Probability>,
    findings: &[Finding],
    correlation: f64,
    level: Level,
) -> Result<Chain, CombineError> {
    if findings.len() > MAX_TESTS {
        return Err(CombineError::Tests(findings.len()));
    }
    let mut end = pre_test;
    let mut steps = Vec::with_capacity(findings.len());
    for finding in findings {
        let lr = finding.lr();
        let after = lr.and_then(|lr| after_result(end, lr, level));
        end = after.map_or(end, |after| Estimate { estimate: supported_share(after), ..after });
        steps.push(ChainStep { lr, after });
    }
    let tests: Option<Vec<TestAccuracy>> = findings.iter().map(|it| supported_accuracy(&it.summary)).collect();
    let dependence = match tests {
        Some(tests) if tests.len() > 1 => {
            Some(dependence([pre_test.estimate, end.estimate], &tests, findings, correlation)?)
        }
        _ => None,
    };
    Ok(Chain { steps, end, dependence })
}

fn dependence(
    [pre_test, independent]: [Probability; 2],
    tests: &[TestAccuracy],
    findings: &[Finding],
    correlation: f64,
) -> Result<Dependence, CombineError> {
    let chance = |of: fn(&TestAccuracy) -> f64| -> f64 {
        tests.iter().zip(findings).map(|(test, it)| if it.positive { of(test) } else { 1.0 - of(test) }).product()
    };
    let (with, without) = (chance(|it| it.sensitivity.get()), chance(|it| 1.0 - it.specificity.get()));
    let correlations = LatentCorrelation { diseased: correlation, non_diseased: correlation };
    let positive: Vec<bool> = findings.iter().map(|it| it.positive).collect();
    let dependent_lr = pattern_result_latent(tests, &positive, correlations)?.lr;
    Ok(Dependence {
        correlation,
        independent,
        dependent: dependent_lr.and_then(|lr| post_test(pre_test, lr)),
        crowd: natural_frequencies(1_000, pre_test, Probability::rounded(with), Probability::rounded(1.0 - without)),
    })
}
