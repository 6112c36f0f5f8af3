//! What is asked of the database before and after it is restored.

use pruvex_store::history::{Kind, count};

use crate::people::Operator;
use crate::{App, AppError};

/// Whether the database holds nothing at all, not even empty tables.
///
/// # Errors
/// Database errors.
pub async fn is_blank(app: &App, _by: &Operator) -> Result<bool, AppError> {
    Ok(pruvex_store::has_no_table(&app.db).await?)
}

/// How many tests and studies have a history.
///
/// # Errors
/// Database errors.
pub async fn records(app: &App, _by: &Operator) -> Result<(u64, u64), AppError> {
    Ok((count(&app.db, Kind::Test).await?, count(&app.db, Kind::Study).await?))
}
