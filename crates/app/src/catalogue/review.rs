//! The way of a sheet to its readers.

use pruvex_core::TestId;
use pruvex_core::catalogue::Step;
use pruvex_store::catalogue as store;
use pruvex_store::history::Act;
use serde::Deserialize;
use utoipa::ToSchema;

use super::TestView;
use crate::app::commit;
use crate::fields::short_text;
use crate::people::DraftReader;
use crate::{App, AppError};

/// A step, and why.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct StepInput {
    step: Step,
    /// For the others, in your own words.
    #[serde(default)]
    comment: String,
}

/// Submits a sheet for review, signs it off, sends it back, archives it, and so on.
///
/// # Errors
/// [`AppError::NotAllowed`], a comment that is too long, no such test, [`AppError::Conflict`], a step that does not start here.
pub async fn step_test(
    app: &App,
    by: &DraftReader,
    id: TestId,
    version: i32,
    input: StepInput,
) -> Result<TestView, AppError> {
    let StepInput { step, comment } = input;
    if !by.role().may(step.right()) {
        return Err(AppError::NotAllowed { right: step.right() });
    }
    let comment = short_text("comment", &comment)?;
    let act = Act { action: step.code(), comment: &comment, by: Some(by.id()) };
    let transaction = app.begin().await?;
    let record = store::step_test(&transaction, id, version, step, act).await?;
    commit(transaction).await?;
    Ok(TestView::of(record, by.account()))
}
