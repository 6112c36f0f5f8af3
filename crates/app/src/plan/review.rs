//! The way of a plan to its readers.

use pruvex_store::history::Act;
use pruvex_store::plan as store;
use uuid::Uuid;

use super::PlanView;
use super::plans::view;
use crate::app::commit;
use crate::catalogue::StepInput;
use crate::fields::short_text;
use crate::people::DraftReader;
use crate::{App, AppError};

/// Submits a plan for review, signs it off, sends it back, archives it, and so on.
///
/// # Errors
/// [`AppError::NotAllowed`], a comment that is too long, no such plan, [`AppError::Conflict`], a step that does not start here, a plan with
/// tests that learners do not see.
pub async fn step_plan(
    app: &App,
    by: &DraftReader,
    id: Uuid,
    version: i32,
    input: StepInput,
) -> Result<PlanView, AppError> {
    let step = input.step_of(by.role())?;
    let comment = short_text("comment", &input.comment)?;
    let act = Act { action: step.code(), comment: &comment, by: Some(by.id()) };
    let transaction = app.begin().await?;
    let record = store::step_plan(&transaction, id, version, step, act).await?;
    commit(transaction).await?;
    view(app, by.role(), record).await
}
