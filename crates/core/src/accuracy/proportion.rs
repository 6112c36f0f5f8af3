//! Intervals for one proportion.

use crate::distribution::beta_quantile;
use crate::{Estimate, Level, Probability};
use serde::{Deserialize, Serialize};

/// Interval for a binomial proportion.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum ProportionMethod {
    /// Score interval without continuity correction (Wilson 1927).
    #[default]
    Wilson,
    /// Exact tail interval (Clopper and Pearson 1934), `alpha/2` in each tail also at 0 and n.
    ClopperPearson,
    /// Wald interval about the shrunken point `(x + z²/2)/(n + z²)` (Agresti and Coull 1998), cut to `[0, 1]`.
    AgrestiCoull,
    /// Equal-tailed `Beta(x + 1/2, n - x + 1/2)` quantiles, with bound 0 at `x = 0` and 1 at `x = n`
    /// (Brown, Cai and DasGupta 2001).
    Jeffreys,
}

/// Interval for the proportion `x / n`.
///
/// With `p = x/n` and `z` the normal deviate of the level:
/// - Wilson: `(p + z²/2n ± z sqrt(p(1-p)/n + z²/4n²)) / (1 + z²/n)`;
/// - Clopper-Pearson: beta quantiles `B(a; x, n-x+1)` and `B(1-a; x+1, n-x)`, `a = (1-level)/2`;
/// - Agresti-Coull: `p~ ± z sqrt(p~(1-p~)/n~)`, `n~ = n + z²`, `p~ = (x + z²/2)/n~`;
/// - Jeffreys: beta quantiles with both counts raised by 1/2.
///
/// `None` when `n = 0` (nothing was observed) or `x > n`. At `x = 0` the lower bound is exactly 0, at `x = n`
/// the upper bound exactly 1, by every method.
///
/// ```
/// use pruvex_core::accuracy::{ProportionMethod, proportion_interval};
/// let ci = proportion_interval(0, 24, Default::default(), ProportionMethod::Wilson).unwrap();
/// assert!((ci.upper.get() - 0.138).abs() < 5e-4);
/// ```
#[must_use]
pub fn proportion_interval(x: u64, n: u64, level: Level, method: ProportionMethod) -> Option<Estimate<Probability>> {
    if n == 0 || x > n {
        return None;
    }
    let (xf, nf, z) = (x as f64, n as f64, level.z());
    let (lower, upper) = match method {
        ProportionMethod::Wilson => {
            let p = xf / nf;
            let z2 = z * z;
            let centre = p + z2 / (2.0 * nf);
            let half = z * (p * (1.0 - p) / nf + z2 / (4.0 * nf * nf)).sqrt();
            let scale = 1.0 + z2 / nf;
            ((centre - half) / scale, (centre + half) / scale)
        }
        ProportionMethod::ClopperPearson => {
            let a = level.tail();
            (beta_quantile(a, xf, nf - xf + 1.0).at, beta_quantile(a, nf - xf, xf + 1.0).complement)
        }
        ProportionMethod::AgrestiCoull => {
            let n2 = nf + z * z;
            let p = (xf + z * z / 2.0) / n2;
            let half = z * (p * (1.0 - p) / n2).sqrt();
            (p - half, p + half)
        }
        ProportionMethod::Jeffreys => {
            let a = level.tail();
            (beta_quantile(a, xf + 0.5, nf - xf + 0.5).at, beta_quantile(a, nf - xf + 0.5, xf + 0.5).complement)
        }
    };
    let lower = if x == 0 { 0.0 } else { lower };
    let upper = if x == n { 1.0 } else { upper };
    Some(Estimate::around(Probability::of(x, n), Probability::rounded(lower), Probability::rounded(upper)))
}
