//! A cluster of tests whose rule was itself studied: its own 2x2 tables outrank any calculation from the parts.

use serde::Serialize;

use super::error::CombineError;
use super::latent::{LatentCorrelation, count_results_latent};
use super::rules::{RuleAccuracy, TestAccuracy, at_least, rule};
use crate::accuracy::Counts;
use crate::pooling::{PoolOptions, Pooled, pool};

/// Where the figures to be used come from, best first.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum ClusterSource {
    /// Studies of this very rule.
    Published,
    /// Calculated from the tests, with an assumed dependence.
    Dependent,
    /// Calculated from the tests as if they were independent given the condition.
    Independent,
}

/// A rule over several tests, from every source there is.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ClusterAnswer {
    /// Which of the following to use.
    pub source: ClusterSource,
    /// Studies of the rule, pooled.
    pub published: Option<Pooled>,
    /// Calculated with the assumed dependence.
    pub dependent: Option<RuleAccuracy>,
    /// Calculated as if independent; shown beside the others so that the difference is seen.
    pub independent: RuleAccuracy,
}

/// The rule "positive when at least `k` tests are", from studies of it if there are any, else calculated.
///
/// # Errors
/// [`CombineError`] for the tests, the rule, the correlation or studies that cannot be pooled.
pub fn cluster_answer(
    tests: &[TestAccuracy],
    k: usize,
    correlation: Option<LatentCorrelation>,
    published: &[Counts],
    options: PoolOptions,
) -> Result<ClusterAnswer, CombineError> {
    let independent = at_least(tests, k)?;
    let dependent = correlation
        .map(|correlation| count_results_latent(tests, correlation).map(|counts| rule(&counts, k)))
        .transpose()?;
    let published = match published {
        [] => None,
        studies => Some(pool(studies, options).map_err(CombineError::Published)?),
    };
    let source = match (&published, &dependent) {
        (Some(_), _) => ClusterSource::Published,
        (None, Some(_)) => ClusterSource::Dependent,
        (None, None) => ClusterSource::Independent,
    };
    Ok(ClusterAnswer { source, published, dependent, independent })
}
