//! The way of a sheet to its readers.

use pruvex_core::TestId;
use pruvex_core::catalogue::Step;
use pruvex_core::people::Role;
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
    pub(crate) comment: String,
}

impl StepInput {
    /// The step, if this role may take it.
    ///
    /// # Errors
    /// [`AppError::NotAllowed`].
    pub(crate) fn step_of(&self, role: Role) -> Result<Step, AppError> {
        let right = self.step.right();
        if role.may(right) { Ok(self.step) } else { Err(AppError::NotAllowed { right }) }
    }
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
    let step = input.step_of(by.role())?;
    let comment = short_text("comment", &input.comment)?;
    let act = Act { action: step.code(), comment: &comment, by: Some(by.id()) };
    let transaction = app.begin().await?;
    let record = store::step_test(&transaction, id, version, step, act).await?;
    commit(transaction).await?;
    Ok(TestView::of(record, by.account()))
}
