//! Reliability as a report prints it, a kappa or intraclass correlation with its precision, and the pooling of several.

use serde::{Deserialize, Serialize};

use crate::pooling::{Effect, EffectError, StopCause, TauMethod, UnivariatePooled, fisher_z, pool_effects};
use crate::{Estimate, Level};

/// What a report gives.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum ReportedKind {
    /// Any kappa; its interval is symmetric on its own scale.
    Kappa,
    /// Any intraclass correlation; its interval is about symmetric in Fisher's z, with more than two raters less so.
    Icc,
}

/// How precisely.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Precision {
    /// Standard error, on the scale of the coefficient.
    StandardError(f64),
    /// Interval of this level.
    Interval {
        /// Lower bound.
        lower: f64,
        /// Upper bound.
        upper: f64,
        /// Its level.
        level: Level,
    },
}

/// A reported coefficient.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Reported {
    kind: ReportedKind,
    value: f64,
    effect: Effect,
}

/// Why a report was refused.
#[derive(Debug, Clone, Copy, PartialEq, thiserror::Error)]
pub enum ReportError {
    /// Coefficients lie between -1 and 1, an intraclass correlation strictly.
    #[error("{0} is not a coefficient of agreement; it must lie between -1 and 1")]
    Value(f64),
    /// The interval does not hold the value.
    #[error("{value} does not lie within its interval, {lower} to {upper}")]
    Outside {
        /// The value.
        value: f64,
        /// Lower bound.
        lower: f64,
        /// Upper bound.
        upper: f64,
    },
    /// A standard error or width that is no positive number.
    #[error("{0} is no standard error or width of an interval; it must be positive")]
    Precision(f64),
}

impl Reported {
    /// Checked constructor.
    ///
    /// The variance is found on the scale on which the interval is symmetric: `(upper - lower) / (2 z)` squared on that scale, or
    /// the standard error squared; for an intraclass correlation `r` on Fisher's scale, `(se / (1 - r²))²` by the delta method.
    ///
    /// # Errors
    /// [`ReportError`].
    pub fn new(kind: ReportedKind, value: f64, precision: Precision) -> Result<Self, ReportError> {
        let on_scale = |x: f64| match kind {
            ReportedKind::Kappa if x.abs() <= 1.0 => Ok(x),
            ReportedKind::Icc => fisher_z(x).map_err(|_| ReportError::Value(x)),
            ReportedKind::Kappa => Err(ReportError::Value(x)),
        };
        let at = on_scale(value)?;
        let (variance, said) = match precision {
            Precision::StandardError(se) if kind == ReportedKind::Icc => ((se / (1.0 - value * value)).powi(2), se),
            Precision::StandardError(se) => (se * se, se),
            Precision::Interval { lower, upper, level } => {
                if !(lower <= value && value <= upper) {
                    return Err(ReportError::Outside { value, lower, upper });
                }
                // Kappa's printed bounds may pass 1, where nothing is cut off.
                let ends = match kind {
                    ReportedKind::Kappa => [lower, upper],
                    ReportedKind::Icc => [on_scale(lower)?, on_scale(upper)?],
                };
                (((ends[1] - ends[0]) / (2.0 * level.z())).powi(2), upper - lower)
            }
        };
        if said.is_nan() || said <= 0.0 {
            return Err(ReportError::Precision(said));
        }
        let effect = Effect::new(at, variance).map_err(|_| ReportError::Precision(said))?;
        Ok(Self { kind, value, effect })
    }

    /// The coefficient with an interval of this level, made on its symmetric scale.
    #[must_use]
    pub fn estimate(&self, level: Level) -> Estimate<f64> {
        let half = level.z() * self.effect.variance().sqrt();
        let at = self.effect.value();
        Estimate::around(self.value, self.kind.back(at - half), self.kind.back(at + half))
    }
}

impl ReportedKind {
    fn back(self, scaled: f64) -> f64 {
        match self {
            Self::Kappa => scaled,
            Self::Icc => scaled.tanh(),
        }
    }
}

/// Several coefficients pooled, on their own scale again.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct PooledReliability {
    /// What was pooled.
    pub kind: ReportedKind,
    /// Studies.
    pub k: usize,
    /// How the variance between studies was estimated.
    pub method: TauMethod,
    /// Point with its normal interval.
    pub estimate: Estimate<f64>,
    /// Interval of Hartung and Knapp, better with few studies.
    pub hartung_knapp: Option<Estimate<f64>>,
    /// Where a new study's true coefficient is expected.
    pub prediction: Option<Estimate<f64>>,
    /// Variance between studies, for an intraclass correlation on Fisher's scale.
    pub tau2: f64,
    /// How the search for it ended; a closed form needs none.
    pub stop: StopCause,
    /// Halvings of its bracket.
    pub iterations: usize,
    /// Cochran's Q.
    pub q: f64,
    /// Its degrees of freedom.
    pub df: usize,
    /// Chance of a larger Q if all studies agreed.
    pub q_p: f64,
    /// Share of the variation that chance does not explain.
    pub i2: f64,
}

/// Pools reported coefficients of one kind: kappa on its own scale with its own variance, intraclass correlations in Fisher's z and
/// back. See [`pool_effects`].
///
/// # Errors
/// [`EffectError::TooFew`] below two; [`EffectError::Mixed`] for a mixture of kinds.
pub fn pool_reported(reports: &[Reported], method: TauMethod, level: Level) -> Result<PooledReliability, EffectError> {
    let kind = reports.first().map_or(ReportedKind::Kappa, |report| report.kind);
    if reports.iter().any(|report| report.kind != kind) {
        return Err(EffectError::Mixed);
    }
    let effects: Vec<Effect> = reports.iter().map(|report| report.effect).collect();
    let UnivariatePooled { k, tau2, stop, iterations, mu, hartung_knapp, prediction, q, df, q_p, i2, .. } =
        pool_effects(&effects, method, level)?;
    let back = |on_scale: Estimate<f64>| on_scale.map(|x| kind.back(x));
    Ok(PooledReliability {
        kind,
        k,
        method,
        estimate: back(mu),
        hartung_knapp: hartung_knapp.map(back),
        prediction: prediction.map(back),
        tau2,
        stop,
        iterations,
        q,
        df,
        q_p,
        i2,
    })
}
