//! The way of a sheet to its readers, and its history.

use chrono::{DateTime, Utc};
use pruvex_core::catalogue::{SheetInput, Step};
use pruvex_store::catalogue as store;
use pruvex_store::history::{Act, Kind, Revision, list_revisions};
use pruvex_store::{StoreError, TransactionTrait};
use rocket::serde::json::Json;
use rocket::serde::{Deserialize, Serialize};
use rocket::{get, post};
use utoipa::ToSchema;

use super::catalogue::TestView;
use crate::body::JsonBody;
use crate::etag::{IfMatch, Tagged};
use crate::params::{RecordId, text_field};
use crate::people::{DraftReader, SheetWriter};
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

/// One version of a sheet.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct RevisionView {
    version: i32,
    /// `created`, `edited`, `restored`, `imported`, or a step's code.
    action: String,
    /// Why, in the words of who did it.
    comment: String,
    /// Who; `null` for imports.
    by: Option<String>,
    at: DateTime<Utc>,
    /// The text as it was then.
    sheet: SheetInput,
}

/// Every version of a sheet, the newest first.
#[utoipa::path(context_path = "/api/v1", tag = "review", params(("id" = Uuid, Path)),
    responses((status = 200, body = Vec<RevisionView>), (status = 403, body = Problem), (status = 404, body = Problem)))]
#[get("/tests/<id>/history")]
pub(crate) async fn list_versions(
    _by: DraftReader,
    id: Result<RecordId, ApiError>,
    db: Db<'_>,
) -> Result<Json<Vec<RevisionView>>, ApiError> {
    let id = id?.0;
    store::get_test(db.0, id).await?;
    let revisions = list_revisions(db.0, Kind::Test, id).await?;
    let view = |Revision { version, action, comment, content, by, at, .. }: Revision| {
        let sheet = serde_json::from_value(content).map_err(|_| ApiError::Internal)?;
        Ok(RevisionView { version, action, comment, by, at, sheet })
    };
    revisions.into_iter().map(view).collect::<Result<_, ApiError>>().map(Json)
}

/// Which version to bring back.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(crate = "rocket::serde", deny_unknown_fields)]
pub(crate) struct RestoreInput {
    version: i32,
}

/// Brings the text of an earlier version back, as a new version.
#[utoipa::path(context_path = "/api/v1", tag = "review", request_body = RestoreInput,
    params(("id" = Uuid, Path), ("If-Match" = String, Header, description = "ETag that was read")),
    responses((status = 200, body = TestView), (status = 404, body = Problem), (status = 412, body = Problem),
        (status = 422, body = Problem)))]
#[post("/tests/<id>/restore", data = "<input>")]
pub(crate) async fn restore_test(
    by: SheetWriter,
    id: Result<RecordId, ApiError>,
    version: IfMatch,
    input: JsonBody<RestoreInput>,
    db: Db<'_>,
) -> Result<Tagged<TestView>, ApiError> {
    let comment = format!("version {}", input.0.version);
    let act = Act { action: "restored", comment: &comment, by: Some(by.0.id) };
    let transaction = db.0.begin().await.map_err(StoreError::from)?;
    let record = store::restore_test(&transaction, id?.0, version.0, input.0.version, act).await?;
    transaction.commit().await.map_err(StoreError::from)?;
    Ok(Tagged::ok(record.version, TestView::of(record, &by.0)))
}
