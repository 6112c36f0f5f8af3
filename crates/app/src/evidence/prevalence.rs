//! How common a condition is with and without symptoms, and what that makes of a positive finding.

use std::sync::Arc;

use pruvex_core::catalogue::Condition;
use pruvex_core::evidence::{PooledPrevalence, PrevalenceOf, pool_prevalence};
use pruvex_store::condition::get_condition;
use uuid::Uuid;

use crate::blocking::blocking;
use crate::people::{Reader, current_settings};
use crate::{App, AppError};

/// The prevalence of a condition over the reports that are about these people.
///
/// # Errors
/// No such condition.
pub async fn answer_prevalence(
    app: &App,
    _by: &Reader,
    id: Uuid,
    of: PrevalenceOf,
) -> Result<PooledPrevalence, AppError> {
    prevalence_of(app, get_condition(&app.db, id).await?.condition, of).await
}

pub(crate) async fn prevalence_of(
    app: &App,
    condition: Condition,
    of: PrevalenceOf,
) -> Result<PooledPrevalence, AppError> {
    let (pools, interval) = (Arc::clone(&app.pools), current_settings(&app.db).await?.interval);
    let pool = move || pool_prevalence(&condition.prevalence, of, |tables| pools.of(tables, interval).ok_or(()));
    blocking(pool).await?.map_err(|()| AppError::internal("reports of prevalence that cannot be pooled"))
}
