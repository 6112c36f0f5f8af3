//! What a demonstration has beside its sheets and studies, so that no page of it is empty.

use pruvex_core::people::Role;
use pruvex_store::catalogue::tests_by_any_name;
use pruvex_store::pooling::list_snapshots;
use serde_json::json;

use crate::people::{DemoInput, StudyWriter, authorise, enter_demo, sign_out};
use crate::pooling::freeze_pool;
use crate::{App, AppError};

/// The sample test whose pool stands frozen from the beginning.
const FROZEN: &str = "Carpal compression, sustained";

/// Freezes the pool of a sample test, unless something is frozen already.
///
/// # Errors
/// Database errors.
pub(crate) async fn furnish(app: &App) -> Result<(), AppError> {
    if !list_snapshots(&app.db, None).await?.is_empty() {
        return Ok(());
    }
    let named = tests_by_any_name(&app.db, std::iter::once(FROZEN)).await?;
    let Some(test) = named.into_values().find(|test| test.sample) else { return Ok(()) };
    let signed = enter_demo(app, true, DemoInput { role: Role::Author }).await?;
    let by: StudyWriter = authorise(app, Some(&signed.secret)).await?;
    let input = json!({
        "title": format!("{FROZEN}: all studies (sample data)"),
        "note": "Frozen for the teaching sheet of the sample module. Made-up studies: never use it for a patient.",
        "pool": { "tests": [test.id] },
    });
    freeze_pool(app, &by, serde_json::from_value(input).map_err(AppError::internal)?).await?;
    sign_out(app, Some(&signed.secret)).await
}
