//! What a pool's summary, or one result of it, would be against the truth, if the reference standard errs.

use std::sync::Arc;

use pruvex_core::accuracy::{CorrectedOverRange, ReferenceRange, correct_over_range};
use pruvex_core::pooling::{called_positive, correct_summary};
use pruvex_core::{FieldErrorCode, ResultId};
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
    /// One of its results, in the pool or not, instead of the summary.
    #[serde(default)]
    result: Option<ResultId>,
    reference: ReferenceRange,
}

/// A pool's summary, or a result, corrected: a sensitivity analysis, no answer.
#[derive(Debug, Serialize, ToSchema)]
pub struct CorrectionAnswer {
    /// Share of the people in studies of both groups whom the reference called positive.
    prevalence: Option<f64>,
    /// `null` where the pool has no summary of both groups, or the result reports one only.
    corrected: Option<CorrectedOverRange>,
    not_pooled: Option<NoPool>,
}

/// Corrects a pool's summary point for a reference standard that errs, at the share that the reference called positive in the studies of both groups; or one
/// result.
///
/// # Errors
/// As [`super::answer_pool`]; a result that is not one of its tests'.
pub async fn correct_pool(app: &App, by: &Reader, input: CorrectionInput) -> Result<CorrectionAnswer, AppError> {
    let CorrectionInput { pool, result, reference } = input;
    let gathered = gather(&pool, by.account(), &app.db).await?;
    if let Some(id) = result {
        let place = gathered.members.iter().position(|member| member.id == id).ok_or_else(|| {
            let message = "These tests have no such result.";
            AppError::field("result", FieldErrorCode::Unknown, id, message, "Read the pool again.")
        })?;
        let counts = gathered.counts[place];
        let corrected = match counts.cells() {
            [Some(tp), Some(fp), Some(fn_), Some(tn)] => {
                Some(correct_over_range([tp, fp, fn_, tn].map(f64::from), reference))
            }
            _ => None,
        };
        return Ok(CorrectionAnswer { prevalence: called_positive(&[counts]), corrected, not_pooled: None });
    }
    let pools = Arc::clone(&app.pools);
    let answer = blocking(move || {
        let chosen = gathered.choose(&pool, &pools);
        let corrected = match &chosen.pooled {
            Ok(pooled) => correct_summary(&chosen.counts, &pooled.summary, reference),
            Err(_) => None,
        };
        CorrectionAnswer { prevalence: called_positive(&chosen.counts), corrected, not_pooled: chosen.pooled.err() }
    });
    answer.await
}
