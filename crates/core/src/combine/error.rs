//! Why tests cannot be combined.

use crate::pooling::PoolError;

/// More patterns than 2^12 are neither readable nor needed.
pub const MAX_TESTS: usize = 12;

/// A covariance outside its bounds.
#[derive(Debug, Clone, Copy, PartialEq, thiserror::Error)]
#[error("a covariance of {value:.4} is impossible; these tests allow {lower:.4} to {upper:.4}")]
pub struct DependenceError {
    /// The covariance given.
    pub value: f64,
    /// The least possible.
    pub lower: f64,
    /// The largest possible.
    pub upper: f64,
}

/// Why tests cannot be combined.
#[derive(Debug, Clone, Copy, PartialEq, thiserror::Error)]
pub enum CombineError {
    /// None, or too many.
    #[error("{0} tests are given; between 1 and {max} can be combined", max = MAX_TESTS)]
    Tests(usize),
    /// A rule that asks for no positive test, or for more than there are.
    #[error("a rule asks for {k} of {n} tests; it needs between 1 and {n}")]
    Rule {
        /// Positive tests asked for.
        k: usize,
        /// Tests given.
        n: usize,
    },
    /// A latent correlation that is none, or next to 1.
    #[error("a correlation of {0} is given; between 0 and 0.99 can be used")]
    Correlation(f64),
    /// A result that is no part of a test's results.
    #[error("a result reaches from the share {0} to the share {1}; both lie between 0 and 1, the smaller one first")]
    Band(f64, f64),
    /// A range of a share that is none.
    #[error("a share from {0} to {1} is given; both lie between 0 and 1, the smaller one first")]
    Range(f64, f64),
    /// A covariance that the two tests do not allow.
    #[error(transparent)]
    Covariance(DependenceError),
    /// A covariance of other than two tests.
    #[error("a covariance is given for {0} tests; it is of two, and more depend on each other by a correlation")]
    CovarianceOf(usize),
    /// Studies of the rule that cannot be pooled.
    #[error(transparent)]
    Published(PoolError),
}
