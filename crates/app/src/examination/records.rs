//! Records of examinations: listed, read, shared, deleted and brought back.

use chrono::{DateTime, Days, NaiveDate, Utc};
use pruvex_core::FieldErrorCode;
use pruvex_core::catalogue::{Region, name_key};
use pruvex_core::examination::{ClosedExamination, ReferenceResult};
use pruvex_core::plan::PlanAction;
use pruvex_store::examination::{self as store, ExaminationState, ExaminationSummary, ExaminationsAsked};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

use super::view::{ExaminationView, shown, view};
use crate::app::commit;
use crate::fields::asked_text;
use crate::people::{Reader, SheetWriter};
use crate::{App, AppError};

/// More are not counted at once.
const MOST_CLOSED: u64 = 20_000;

/// Which examinations are asked for.
#[derive(Debug, Default)]
pub struct ExaminationFilter<'a> {
    /// In this state.
    pub state: ExaminationState,
    /// Of this region.
    pub region: Option<Region>,
    /// By this plan.
    pub plan: Option<Uuid>,
    /// With these words in label, plan, conditions or conclusion.
    pub search: Option<&'a str>,
}

/// A part of the list.
#[derive(Debug, Serialize, ToSchema)]
pub struct ExaminationPage {
    rows: Vec<ExaminationRow>,
    /// How many there are in all.
    total: u64,
}

/// An examination as it stands in the list.
#[derive(Debug, Serialize, ToSchema)]
pub struct ExaminationRow {
    id: Uuid,
    version: i32,
    label: String,
    region: Region,
    plan_id: Uuid,
    /// Title of its plan.
    title: String,
    /// What it decided about.
    conditions: Vec<String>,
    /// What is done.
    action: Option<PlanAction>,
    /// What was concluded.
    concluded: String,
    /// An urgent finding was met.
    urgent: bool,
    /// When something of it is due.
    due: Option<NaiveDate>,
    /// That day is past.
    overdue: bool,
    sample: bool,
    created_at: DateTime<Utc>,
    finished_at: Option<DateTime<Utc>>,
    shared_at: Option<DateTime<Utc>>,
}

/// Whether an examination is shared for teaching.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SharingInput {
    /// It is.
    shared: bool,
    /// Whoever shares it has read it and confirms that nothing in it tells who the patient is.
    #[serde(default)]
    identifies_nobody: bool,
}

/// What waits in your own examinations.
#[derive(Debug, Serialize, ToSchema)]
pub struct ExaminationsWaiting {
    /// Those of which something was due before today.
    overdue: i64,
    /// Those of which something is due today or within a week.
    due: i64,
    /// Finished ones of which nothing was found out yet.
    awaiting: i64,
}

/// How many of your own examinations wait for something.
///
/// # Errors
/// Database errors.
pub async fn count_waiting(app: &App, by: &Reader) -> Result<ExaminationsWaiting, AppError> {
    let today = Utc::now().date_naive();
    let store::ExaminationsWaiting { overdue, due, awaiting } =
        store::count_waiting(&app.db, by.id(), today, today + Days::new(7)).await?;
    Ok(ExaminationsWaiting { overdue, due, awaiting })
}

/// The words that are looked for.
pub(super) fn words(search: Option<&str>) -> Result<String, AppError> {
    Ok(asked_text("search", search)?.map(|text| name_key(&text)).unwrap_or_default())
}

/// Your examinations, or those that others share; at most `limit` of them.
///
/// # Errors
/// A search that is too long.
pub async fn list_examinations(
    app: &App,
    by: &Reader,
    filter: &ExaminationFilter<'_>,
    offset: u64,
    limit: u64,
) -> Result<ExaminationPage, AppError> {
    let wanted = words(filter.search)?;
    let words: Vec<&str> = wanted.split_whitespace().collect();
    let &ExaminationFilter { state, region, plan, .. } = filter;
    let asked = ExaminationsAsked { state, region, plan, words: &words };
    let (found, total) = store::list_examinations(&app.db, by.id(), &asked, offset, limit).await?;
    let today = Utc::now().date_naive();
    Ok(ExaminationPage { rows: found.into_iter().map(|it| row(it, today)).collect(), total })
}

fn row(of: ExaminationSummary, today: NaiveDate) -> ExaminationRow {
    let ExaminationSummary { id, version, label, region, plan_id, title, conditions, action, concluded, .. } = of;
    let ExaminationSummary { urgent, due, sample, created_at, finished_at, shared_at, .. } = of;
    ExaminationRow {
        id,
        version,
        label,
        region,
        plan_id,
        title,
        conditions,
        action,
        concluded,
        urgent,
        due,
        overdue: due.is_some_and(|due| due < today),
        sample,
        created_at,
        finished_at,
        shared_at,
    }
}

/// An examination of your own, or one that is shared.
///
/// # Errors
/// No such examination that this person may see.
pub async fn get_examination(app: &App, by: &Reader, id: Uuid) -> Result<ExaminationView, AppError> {
    view(app, by, store::get_examination(&app.db, by.id(), id).await?).await
}

/// Shares a finished examination of your own for teaching, or ends that.
///
/// # Errors
/// No such examination of this person, [`AppError::Conflict`]; one that is not finished; nobody confirms that it identifies no one.
pub async fn share_examination(
    app: &App,
    by: &SheetWriter,
    id: Uuid,
    version: i32,
    input: &SharingInput,
) -> Result<ExaminationView, AppError> {
    if input.shared && !input.identifies_nobody {
        let message = "Nobody confirms that this record identifies no patient.";
        let remedy = "Read it through, remove what could tell who it is, and confirm.";
        return Err(AppError::field("identifies_nobody", FieldErrorCode::Missing, "false", message, remedy));
    }
    let transaction = app.begin().await?;
    let record = store::set_examination_shared(&transaction, by.id(), id, version, input.shared).await?;
    if input.shared && record.outcome.is_none() {
        let message = "This examination is not finished.";
        return Err(AppError::field("shared", FieldErrorCode::Invalid, "true", message, "Finish it first."));
    }
    commit(transaction).await?;
    shown(app, by.id(), by.role(), record, None).await
}

/// Deletes an examination of your own, or brings a deleted one back. It is not shared any more then.
///
/// # Errors
/// No such examination of this person, [`AppError::Conflict`].
pub async fn set_examination_deleted(
    app: &App,
    by: &Reader,
    id: Uuid,
    version: i32,
    deleted: bool,
) -> Result<ExaminationView, AppError> {
    let transaction = app.begin().await?;
    let record = store::set_examination_deleted(&transaction, by.id(), id, version, deleted).await?;
    commit(transaction).await?;
    view(app, by, record).await
}

/// Reference results of everybody, of one region when that is given.
pub(super) async fn all_references(
    app: &App,
    region: Option<Region>,
) -> Result<Vec<(Uuid, Vec<ReferenceResult>)>, AppError> {
    Ok(store::reference_results(&app.db, region, MOST_CLOSED).await?)
}

/// The finished examinations of an account, with what was found out later, and whether some of it is made up.
pub(super) async fn closed_examinations(
    app: &App,
    owner: Uuid,
    region: Option<Region>,
) -> Result<(Vec<ClosedExamination>, bool), AppError> {
    Ok(store::closed_examinations(&app.db, owner, region, MOST_CLOSED).await?)
}
