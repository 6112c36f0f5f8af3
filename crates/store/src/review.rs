//! The way of a text to its readers, whatever kind of record it is.

use pruvex_core::catalogue::{Status, Step};
use pruvex_core::{FieldError, FieldErrorCode};
use sea_orm::ConnectionTrait;
use uuid::Uuid;

use crate::StoreError;
use crate::history::{Act, Kind, list_revisions};

/// Where this step leads from here.
///
/// # Errors
/// [`StoreError::Fields`] for a step that does not lead from here, and for somebody who would sign off what they wrote themselves; database
/// errors.
pub(crate) async fn step_from(
    db: &impl ConnectionTrait,
    kind: Kind,
    id: Uuid,
    status: Status,
    step: Step,
    act: Act<'_>,
) -> Result<Status, StoreError> {
    let no_step = |message: &str, remedy: &str| {
        let error = FieldError::new("step", FieldErrorCode::Invalid, step.code(), message, remedy);
        StoreError::Fields(vec![error])
    };
    let Some(after) = status.after(step) else {
        return Err(no_step("This step is not possible in the present state.", "Load it again and look."));
    };
    if step == Step::SignOff && wrote_last(db, kind, id).await?.is_some_and(|writer| Some(writer) == act.by) {
        return Err(no_step("You wrote this text yourself.", "Ask another second reader to sign it off."));
    }
    Ok(after)
}

/// Who made the newest version in which the text itself was written.
async fn wrote_last(db: &impl ConnectionTrait, kind: Kind, id: Uuid) -> Result<Option<Uuid>, StoreError> {
    let revisions = list_revisions(db, kind, id).await?;
    let written = |action: &str| matches!(action, "created" | "edited" | "restored" | "imported" | "taken_back");
    Ok(revisions.into_iter().find(|revision| written(&revision.action)).and_then(|revision| revision.account))
}
