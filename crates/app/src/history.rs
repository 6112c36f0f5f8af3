//! What was changed, by whom and when, and bringing it back.

use std::collections::HashMap;

use chrono::{DateTime, Utc};
use pruvex_core::catalogue::SheetInput;
use pruvex_core::{StudyId, TestId};
use pruvex_store::catalogue as store;
use pruvex_store::evidence::{agreements_of, appraisals_of, get_studies, results_of};
use pruvex_store::history::{Act, Change, Kind, Revision, list_changes, list_revisions};
use serde::{Deserialize, Serialize};
use serde_json::Value;
use utoipa::ToSchema;
use uuid::Uuid;

use crate::app::commit;
use crate::catalogue::TestView;
use crate::people::{DraftReader, SheetWriter};
use crate::{App, AppError};

/// One version of a sheet.
#[derive(Debug, Serialize, ToSchema)]
pub struct RevisionView {
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
pub async fn list_versions(app: &App, _by: &DraftReader, id: TestId) -> Result<Vec<RevisionView>, AppError> {
    store::get_test(&app.db, id).await?;
    let revisions = list_revisions(&app.db, Kind::Test, id).await?;
    let view = |Revision { version, action, comment, content, by, at, .. }: Revision| {
        let sheet = serde_json::from_value(content).map_err(AppError::internal)?;
        Ok(RevisionView { version, action, comment, by, at, sheet })
    };
    revisions.into_iter().map(view).collect()
}

/// A change of a record, with what it said before.
#[derive(Debug, Serialize, ToSchema)]
pub struct ChangeView {
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

/// Every change of a test's results, of accuracy and of agreement, of their studies and of what was judged of these, deleted ones
/// included, the newest first.
pub async fn list_study_changes(app: &App, _by: &DraftReader, id: TestId) -> Result<Vec<ChangeView>, AppError> {
    store::get_test(&app.db, id).await?;
    let results = results_of(&app.db, id).await?.into_iter().map(|(result, study)| (result.0, study));
    let mut of: HashMap<Uuid, StudyId> = results.collect();
    of.extend(agreements_of(&app.db, id).await?);
    let studies = get_studies(&app.db, of.values().copied()).await?;
    let appraised = appraisals_of(&app.db, &studies.keys().copied().collect::<Vec<_>>()).await?;
    of.extend(appraised.into_values().flatten().map(|it| (it.id, it.study_id)));
    let records: Vec<Uuid> = of.keys().copied().chain(studies.keys().map(|id| id.0)).collect();
    let kinds = [Kind::Result, Kind::Agreement, Kind::Study, Kind::Appraisal];
    let changes = list_changes(&app.db, &kinds, Some(&records)).await?;
    let view = |change: Change| {
        let study = of.get(&change.record_id).and_then(|study| studies.get(study));
        let study = study.map(|record| record.study.reference.clone());
        ChangeView { study, ..ChangeView::from(change) }
    };
    Ok(changes.into_iter().map(view).collect())
}

/// What people changed in the vocabulary of structures and conditions and in the register of conflicting teaching, the newest first.
pub async fn list_vocabulary_changes(app: &App, _by: &DraftReader) -> Result<Vec<ChangeView>, AppError> {
    let changes = list_changes(&app.db, &[Kind::Structure, Kind::Condition, Kind::TeachingConflict], None).await?;
    Ok(changes.into_iter().map(ChangeView::from).collect())
}

/// Which version to bring back.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RestoreInput {
    version: i32,
}

/// Brings the text of an earlier version back, as a new version.
pub async fn restore_test(
    app: &App,
    by: &SheetWriter,
    id: TestId,
    version: i32,
    input: RestoreInput,
) -> Result<TestView, AppError> {
    let comment = format!("version {}", input.version);
    let act = Act { action: "restored", comment: &comment, by: Some(by.id()) };
    let transaction = app.begin().await?;
    let record = store::restore_test(&transaction, id, version, input.version, act).await?;
    commit(transaction).await?;
    Ok(TestView::of(record, by.account()))
}
