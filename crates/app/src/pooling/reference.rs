//! What a pool's summary would be against the truth, if the reference standard errs.

use std::sync::Arc;

use pruvex_core::accuracy::{CorrectedOverRange, ReferenceRange, correct_over_range};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::gather::{NoPool, PoolInput, gather};
use crate::blocking::blocking;
use crate::people::Reader;
use crate::{App, AppError};

/// A pool, and how its reference standard errs.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CorrectionInput {
    pool: PoolInput,
    reference: ReferenceRange,
}

/// A pool's summary corrected: a sensitivity analysis, no answer.
#[derive(Debug, Serialize, ToSchema)]
pub struct CorrectionAnswer {
    /// Share of the people in studies of both groups whom the reference called positive.
    prevalence: Option<f64>,
    /// `null` where the pool has no summary of both groups.
    corrected: Option<CorrectedOverRange>,
    not_pooled: Option<NoPool>,
}

/// Corrects a pool's summary point for a reference standard that errs, at the share that the reference called positive in the studies of both groups.
///
/// # Errors
/// As [`super::answer_pool`].
pub async fn correct_pool(app: &App, by: &Reader, input: CorrectionInput) -> Result<CorrectionAnswer, AppError> {
    let CorrectionInput { pool, reference } = input;
    let gathered = gather(&pool, by.account(), &app.db).await?;
    let pools = Arc::clone(&app.pools);
    let answer = blocking(move || {
        let chosen = gathered.choose(&pool, &pools);
        let (mut with, mut all) = (0.0, 0.0);
        for [diseased, others] in chosen.counts.iter().map(|it| it.arms()) {
            if let (Some(diseased), Some(others)) = (diseased, others) {
                with += diseased.n as f64;
                all += (diseased.n + others.n) as f64;
            }
        }
        let prevalence = (all > 0.0).then(|| with / all);
        let summary = chosen.pooled.as_ref().ok().map(|pooled| pooled.summary);
        let corrected = summary.zip(prevalence).and_then(|(summary, share)| {
            let (se, sp) = (summary.sensitivity?.estimate.get(), summary.specificity?.estimate.get());
            let rest = 1.0 - share;
            Some(correct_over_range([share * se, rest * (1.0 - sp), share * (1.0 - se), rest * sp], reference))
        });
        CorrectionAnswer { prevalence, corrected, not_pooled: chosen.pooled.err() }
    });
    answer.await
}
