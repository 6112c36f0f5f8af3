//! The way of a sheet to its readers.

use pruvex_core::catalogue::Step;
use pruvex_store::catalogue as store;
use pruvex_store::history::Act;
use pruvex_store::{StoreError, TransactionTrait};
use rocket::post;
use rocket::serde::Deserialize;
use utoipa::ToSchema;

use super::catalogue::TestView;
use crate::body::JsonBody;
use crate::etag::{IfMatch, Tagged};
use crate::params::{RecordId, text_field};
use crate::people::DraftReader;
use crate::problem::{ApiError, Problem};
use crate::state::Db;

/// A step, and why.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(crate = "rocket::serde", deny_unknown_fields)]
pub(crate) struct StepInput {
    step: Step,
    /// For the others, in your own words.
    #[serde(default)]
    comment: String,
}

/// Hands a sheet in, signs it off, sends it back, retires it, and so on.
#[utoipa::path(context_path = "/api/v1", tag = "review", request_body = StepInput,
    params(("id" = Uuid, Path), ("If-Match" = String, Header, description = "ETag that was read")),
    responses((status = 200, body = TestView), (status = 403, body = Problem), (status = 404, body = Problem),
        (status = 412, body = Problem), (status = 422, body = Problem)))]
#[post("/tests/<id>/steps", data = "<input>")]
pub(crate) async fn step_test(
    by: DraftReader,
    id: Result<RecordId, ApiError>,
    version: IfMatch,
    input: JsonBody<StepInput>,
    db: Db<'_>,
) -> Result<Tagged<TestView>, ApiError> {
    let StepInput { step, comment } = input.0;
    if !by.0.role.may(step.right()) {
        return Err(ApiError::NotAllowed { right: step.right() });
    }
    let comment = text_field("comment", &comment)?;
    let act = Act { action: step.code(), comment: &comment, by: Some(by.0.id) };
    let transaction = db.0.begin().await.map_err(StoreError::from)?;
    let record = store::step_test(&transaction, id?.0, version.0, step, act).await?;
    transaction.commit().await.map_err(StoreError::from)?;
    Ok(Tagged::ok(record.version, TestView::of(record, &by.0)))
}
