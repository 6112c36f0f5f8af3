//! What was changed, by whom and when, and bringing it back.

use std::collections::HashMap;

use chrono::{DateTime, Utc};
use pruvex_core::catalogue::SheetInput;
use pruvex_store::catalogue as store;
use pruvex_store::evidence::{agreements_of, appraisals_of, get_studies, results_of};
use pruvex_store::history::{Act, Change, Kind, Revision, list_changes, list_revisions};
use pruvex_store::{StoreError, TransactionTrait};
use rocket::serde::json::{Json, Value};
use rocket::serde::{Deserialize, Serialize};
use rocket::{get, post};
use utoipa::ToSchema;
use uuid::Uuid;

use super::catalogue::TestView;
use crate::body::JsonBody;
use crate::etag::{IfMatch, Tagged};
use crate::params::RecordId;
use crate::people::{DraftReader, SheetWriter};
use crate::problem::{ApiError, Problem};
use crate::state::Db;

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
#[utoipa::path(context_path = "/api/v1", tag = "history", params(("id" = Uuid, Path)),
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

/// A change of a record, with what it said before.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct ChangeView {
    kind: Kind,
    record_id: Uuid,
    version: i32,
    /// Of a result or an appraisal: the reference of its study.
    study: Option<String>,
    /// `created`, `edited`, `deleted`, `restored` or `imported`.
    action: String,
    /// Who; `null` for imports.
    by: Option<String>,
    at: DateTime<Utc>,
    /// The record as it is since.
    content: Value,
    /// The record as it was; `null` for its first version.
    before: Option<Value>,
}

impl From<Change> for ChangeView {
    fn from(Change { kind, record_id, revision, before }: Change) -> Self {
        let Revision { version, action, content, by, at, .. } = revision;
        Self { kind, record_id, version, study: None, action, by, at, content, before }
    }
}

fn views(changes: Vec<Change>) -> Json<Vec<ChangeView>> {
    Json(changes.into_iter().map(ChangeView::from).collect())
}

/// Every change of a test's results, of accuracy and of agreement, of their studies and of what was judged of these, deleted ones
/// included, the newest first.
#[utoipa::path(context_path = "/api/v1", tag = "history", params(("id" = Uuid, Path)),
    responses((status = 200, body = Vec<ChangeView>), (status = 403, body = Problem), (status = 404, body = Problem)))]
#[get("/tests/<id>/results/history")]
pub(crate) async fn list_study_changes(
    _by: DraftReader,
    id: Result<RecordId, ApiError>,
    db: Db<'_>,
) -> Result<Json<Vec<ChangeView>>, ApiError> {
    let id = id?.0;
    store::get_test(db.0, id).await?;
    let mut results = results_of(db.0, id).await?;
    results.extend(agreements_of(db.0, id).await?);
    let mut of: HashMap<Uuid, Uuid> = results.into_iter().collect();
    let studies = get_studies(db.0, of.values().copied()).await?;
    let appraised = appraisals_of(db.0, &studies.keys().copied().collect::<Vec<_>>()).await?;
    of.extend(appraised.into_values().flatten().map(|it| (it.id, it.study_id)));
    let records: Vec<Uuid> = of.keys().chain(studies.keys()).copied().collect();
    let kinds = [Kind::Result, Kind::Agreement, Kind::Study, Kind::Appraisal];
    let changes = list_changes(db.0, &kinds, Some(&records)).await?;
    let view = |change: Change| {
        let study = of.get(&change.record_id).and_then(|study| studies.get(study));
        let study = study.map(|record| record.study.reference.clone());
        ChangeView { study, ..ChangeView::from(change) }
    };
    Ok(Json(changes.into_iter().map(view).collect()))
}

/// What people changed in the vocabulary of structures and conditions, the newest first.
#[utoipa::path(context_path = "/api/v1", tag = "history",
    responses((status = 200, body = Vec<ChangeView>), (status = 403, body = Problem)))]
#[get("/vocabulary/history")]
pub(crate) async fn list_vocabulary_changes(_by: DraftReader, db: Db<'_>) -> Result<Json<Vec<ChangeView>>, ApiError> {
    Ok(views(list_changes(db.0, &[Kind::Structure, Kind::Condition], None).await?))
}

/// Which version to bring back.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(crate = "rocket::serde", deny_unknown_fields)]
pub(crate) struct RestoreInput {
    version: i32,
}

/// Brings the text of an earlier version back, as a new version.
#[utoipa::path(context_path = "/api/v1", tag = "history", request_body = RestoreInput,
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
