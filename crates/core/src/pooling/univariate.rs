//! Meta-analysis of one quantity from estimates and their variances: for kappa (own standard error), intraclass
//! correlation (Fisher's z), or the logit of one proportion. Accuracy itself is pooled by the bivariate model.

use super::optimise::StopCause;
use crate::distribution::{chi_square_upper, t_upper};
use crate::quantity::centred;
use crate::{Estimate, Level};
use serde::{Deserialize, Serialize};

/// An estimate with its sampling variance.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Effect {
    value: f64,
    variance: f64,
}

/// Why an estimate cannot be pooled.
#[derive(Debug, Clone, Copy, PartialEq, thiserror::Error)]
pub enum EffectError {
    /// An estimate that is no finite number.
    #[error("{0} is not a finite estimate")]
    Value(f64),
    /// A variance that is not positive and finite, or absurdly small or large.
    #[error("{0} is not a variance; it must be positive (between 1e-30 and 1e30)")]
    Variance(f64),
    /// Nothing to pool.
    #[error("at least two estimates are needed; {0} is given")]
    TooFew(usize),
    /// Coefficients of different kinds.
    #[error("kappa and intraclass correlation measure different things and are not pooled together")]
    Mixed,
}

impl Effect {
    /// Checked constructor.
    ///
    /// # Errors
    /// [`EffectError`].
    pub fn new(value: f64, variance: f64) -> Result<Self, EffectError> {
        match (value.is_finite() && value.abs() < 1e15, (1e-30..1e30).contains(&variance)) {
            (false, _) => Err(EffectError::Value(value)),
            (_, false) => Err(EffectError::Variance(variance)),
            _ => Ok(Self { value, variance }),
        }
    }

    /// The estimate.
    #[must_use]
    pub fn value(&self) -> f64 {
        self.value
    }

    /// Its sampling variance.
    #[must_use]
    pub fn variance(&self) -> f64 {
        self.variance
    }
}

/// Fisher's `z = atanh(r)`, on which intervals of an intraclass correlation are about symmetric.
///
/// # Errors
/// [`EffectError::Value`] outside (-1, 1).
pub fn fisher_z(correlation: f64) -> Result<f64, EffectError> {
    let z = correlation.atanh();
    if z.is_finite() { Ok(z) } else { Err(EffectError::Value(correlation)) }
}

/// How the variance between studies is estimated.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum TauMethod {
    /// None: all studies estimate the same value.
    Fixed,
    /// Moments (DerSimonian and Laird 1986).
    DerSimonianLaird,
    /// Restricted maximum likelihood.
    #[default]
    Reml,
    /// Generalised Q equal to its expectation (Paule and Mandel 1982).
    PauleMandel,
}

/// A pooled quantity.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct UnivariatePooled {
    /// Studies.
    pub k: usize,
    /// The method.
    pub method: TauMethod,
    /// Variance between studies.
    pub tau2: f64,
    /// How the search for it ended; a closed form needs none.
    pub stop: StopCause,
    /// Halvings of its bracket.
    pub iterations: usize,
    /// Point with the normal interval.
    pub mu: Estimate<f64>,
    /// Its standard error.
    pub se: f64,
    /// Interval of Hartung and Knapp (2001) with `t(k - 1)`; random-effects methods only.
    pub hartung_knapp: Option<Estimate<f64>>,
    /// Where a new study's true value is expected, `t(k - 2)` (Higgins 2009); from three studies on.
    pub prediction: Option<Estimate<f64>>,
    /// Cochran's Q, its degrees of freedom and p.
    pub q: f64,
    /// `k - 1`.
    pub df: usize,
    /// Chance of a larger Q if all studies agreed.
    pub q_p: f64,
    /// `max(0, (Q - df) / Q)` (Higgins and Thompson 2002).
    pub i2: f64,
}

/// Pools estimates.
///
/// With weights `w = 1 / (v + tau2)`: `mu = Σ w y / Σ w`, `se = 1 / sqrt(Σ w)`. Hartung-Knapp's
/// `se² = Σ w (y - mu)² / ((k - 1) Σ w)`, without a floor. Prediction interval `mu ± t(k-2) sqrt(tau2 + se²)`.
///
/// # Errors
/// [`EffectError::TooFew`] below two estimates.
pub fn pool_effects(effects: &[Effect], method: TauMethod, level: Level) -> Result<UnivariatePooled, EffectError> {
    if effects.len() < 2 {
        return Err(EffectError::TooFew(effects.len()));
    }
    let k = effects.len();
    let q = Weighted::at(effects, 0.0).q;
    let df = k as f64 - 1.0;
    let Root { at: tau2, stop, iterations } = match method {
        TauMethod::Fixed => Root::known(0.0),
        TauMethod::DerSimonianLaird => Root::known(dersimonian_laird(effects, q)),
        TauMethod::PauleMandel => root(|tau2| Weighted::at(effects, tau2).q - df, effects),
        TauMethod::Reml => root(|tau2| reml_score(effects, tau2), effects),
    };
    let weighted = Weighted::at(effects, tau2);
    let se = weighted.sum.recip().sqrt();
    let around = |half: f64| centred(weighted.mean, half);
    let random = method != TauMethod::Fixed;
    let knapp = (weighted.q / (df * weighted.sum)).sqrt();
    Ok(UnivariatePooled {
        k,
        method,
        tau2,
        stop,
        iterations,
        mu: around(level.z() * se),
        se,
        hartung_knapp: random.then(|| around(t_upper(level.tail(), df) * knapp)),
        prediction: (random && k > 2).then(|| around(t_upper(level.tail(), df - 1.0) * (tau2 + se * se).sqrt())),
        q,
        df: k - 1,
        q_p: chi_square_upper(q, df),
        i2: if q > df { (q - df) / q } else { 0.0 },
    })
}

struct Weighted {
    sum: f64,
    mean: f64,
    q: f64,
}

impl Weighted {
    fn at(effects: &[Effect], tau2: f64) -> Self {
        let weight = |e: &Effect| 1.0 / (e.variance + tau2);
        let sum: f64 = effects.iter().map(weight).sum();
        let mean = effects.iter().map(|e| weight(e) * e.value).sum::<f64>() / sum;
        let q = effects.iter().map(|e| weight(e) * (e.value - mean).powi(2)).sum();
        Self { sum, mean, q }
    }
}

fn dersimonian_laird(effects: &[Effect], q: f64) -> f64 {
    let (sum, squares) = effects.iter().fold((0.0, 0.0), |(s, s2), e| (s + 1.0 / e.variance, s2 + e.variance.powi(-2)));
    ((q - (effects.len() as f64 - 1.0)) / (sum - squares / sum)).max(0.0)
}

/// Twice the derivative of the restricted log-likelihood: `Σ w² (y - mu)² - Σ w + Σ w² / Σ w`.
fn reml_score(effects: &[Effect], tau2: f64) -> f64 {
    let at = Weighted::at(effects, tau2);
    let (mut fit, mut squares) = (0.0, 0.0);
    for effect in effects {
        let w2 = (effect.variance + tau2).powi(-2);
        fit += w2 * (effect.value - at.mean).powi(2);
        squares += w2;
    }
    fit - at.sum + squares / at.sum
}

/// Where an estimating function is zero, and how that was found.
struct Root {
    at: f64,
    stop: StopCause,
    iterations: usize,
}

impl Root {
    fn known(at: f64) -> Self {
        Self { at, stop: StopCause::ClosedForm, iterations: 0 }
    }
}

/// A root of an estimating function that is negative for large variances; 0 when it is negative at 0 already.
/// Bisection on a doubling bracket: it cannot miss, and its 200 halvings cost microseconds.
fn root(f: impl Fn(f64) -> f64, effects: &[Effect]) -> Root {
    if f(0.0) <= 0.0 {
        return Root { at: 0.0, stop: StopCause::Converged, iterations: 0 };
    }
    let spread = effects.iter().map(|e| e.variance).fold(0.0, f64::max);
    let mut high = spread.max(1e-12);
    while f(high) > 0.0 && high < 1e40 {
        high *= 2.0;
    }
    let bracketed = f(high) <= 0.0;
    let mut low = 0.0;
    for iterations in 0..200 {
        let middle = 0.5 * (low + high);
        if middle <= low || middle >= high {
            let stop = if bracketed { StopCause::Converged } else { StopCause::Diverged };
            return Root { at: middle, stop, iterations };
        }
        if f(middle) > 0.0 { low = middle } else { high = middle }
    }
    Root { at: 0.5 * (low + high), stop: StopCause::IterationLimit, iterations: 200 }
}
