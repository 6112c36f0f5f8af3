//! Which study matters: the pool without each study in turn.

use serde::Serialize;

use super::answer::{Model, Pooled};
use super::derived::Summary;
use super::ladder::{PoolError, PoolOptions, pool_near};
use super::multistart::Near;
use crate::accuracy::Counts;

/// The pool without one study.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct LeftOut {
    /// Position of the study left out.
    pub study: usize,
    /// The model that the rest could carry.
    pub model: Model,
    /// The summary of the rest.
    pub summary: Summary,
    /// Cook's distance of the study on the two means, `(mu - mu(-i))' cov^-1 (mu - mu(-i)) / 2` with the full pool's
    /// covariance; `None` unless both pools estimate both means.
    pub cook_distance: Option<f64>,
}

/// Leaves each study out in turn.
///
/// A rest begins its search where the fit of all studies ended, and looks at the boundaries anew, since a single study may be
/// all that kept the maximum away from one; where that does not lead to a maximum it is searched for from all starts.
///
/// # Errors
/// [`PoolError`] as for [`super::pool`]; [`PoolError::NoStudies`] also for one study, without which none is left.
pub fn leave_one_out(studies: &[Counts], options: PoolOptions) -> Result<Vec<LeftOut>, PoolError> {
    each_left_out(studies, options)?.collect()
}

/// The same one after the other, so that who asks can stop.
///
/// # Errors
/// As for [`leave_one_out`].
pub fn each_left_out(
    studies: &[Counts],
    options: PoolOptions,
) -> Result<impl Iterator<Item = Result<LeftOut, PoolError>> + use<>, PoolError> {
    if studies.len() < 2 {
        return Err(PoolError::NoStudies);
    }
    let mut order: Vec<usize> = (0..studies.len()).collect();
    order.sort_by_key(|study| studies[*study].cells());
    let sorted: Vec<Counts> = order.iter().map(|study| studies[*study]).collect();
    let mut places = vec![0; studies.len()];
    for (place, study) in order.into_iter().enumerate() {
        places[study] = place;
    }
    // The rests by the same method as the whole, also where they have just few enough studies for another.
    let options = PoolOptions { interval: options.interval.method(options.model, studies.len()).into(), ..options };
    let (full, fit) = pool_near(&sorted, options, None)?;
    let without = move |study: usize| {
        let mut rest = sorted.clone();
        rest.remove(places[study]);
        let near = fit.as_ref().map(|fit| Near { fit, left_out: places[study] });
        let (pooled, _) = pool_near(&rest, options, near)?;
        Ok(LeftOut {
            study,
            model: pooled.model,
            cook_distance: cook_distance(&full, &pooled),
            summary: pooled.summary,
        })
    };
    let count = studies.len();
    Ok((0..count).map(without))
}

fn cook_distance(full: &Pooled, rest: &Pooled) -> Option<f64> {
    let [[a, b], [_, d]] = full.cov_mu?.both()?;
    let (x, y) = (full.mu.sens? - rest.mu.sens?, full.mu.spec? - rest.mu.spec?);
    let determinant = a * d - b * b;
    (determinant > 0.0).then(|| 0.5 * (d * x * x - 2.0 * b * x * y + a * y * y) / determinant)
}
