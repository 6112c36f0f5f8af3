//! Plans of examinations: list, read, write.

use std::collections::HashMap;

use chrono::{DateTime, Utc};
use pruvex_core::TestId;
use pruvex_core::catalogue::{Region, Status, Step, name_key};
use pruvex_core::evidence::CareSetting;
use pruvex_core::people::{Right, Role};
use pruvex_core::plan::{ExaminationPlan, ExaminationPlanInput};
use pruvex_store::catalogue::get_tests;
use pruvex_store::history::{Act, Kind, list_changes};
use pruvex_store::plan::{self as store, PlanReader, PlanRecord, PlanSummary};
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

use crate::app::commit;
use crate::catalogue::{NamedTest, named};
use crate::fields::asked_text;
use crate::history::ChangeView;
use crate::people::{DraftReader, Reader, SheetWriter};
use crate::{App, AppError, Versioned};

/// A plan as it stands in the list.
#[derive(Debug, Serialize, ToSchema)]
pub struct PlanRow {
    id: Uuid,
    version: i32,
    title: String,
    region: Region,
    setting: Option<CareSetting>,
    /// What it decides about.
    conditions: Vec<String>,
    /// How many tests it has.
    tests: usize,
    /// Where it stands.
    status: Status,
    /// The version that learners see, if there is one.
    published_version: Option<i32>,
    /// It is made up.
    sample: bool,
    saved_at: DateTime<Utc>,
}

/// A plan of an examination.
#[derive(Debug, Serialize, ToSchema)]
pub struct PlanView {
    id: Uuid,
    version: i32,
    /// Where it stands.
    status: Status,
    /// The version that learners see, if there is one.
    published_version: Option<i32>,
    /// Steps that you can take from here.
    next_steps: Vec<Step>,
    /// It is made up.
    sample: bool,
    saved_at: DateTime<Utc>,
    #[serde(flatten)]
    plan: ExaminationPlan,
    /// Names of its tests, of those that you may see.
    named_tests: Vec<NamedTest>,
    /// What became of its tests' sheets since it was signed off.
    changed_sheets: Vec<ChangedSheet>,
}

/// A sheet that is not any more what it was when the plan was signed off.
#[derive(Debug, Serialize, ToSchema)]
pub struct ChangedSheet {
    test: TestId,
    name: String,
    change: SheetChange,
}

/// What became of a sheet.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum SheetChange {
    /// Another text of it was published.
    Changed,
    /// It is archived.
    Archived,
}

impl From<PlanSummary> for PlanRow {
    fn from(of: PlanSummary) -> Self {
        let PlanSummary { id, version, sample, status, published_version, saved_at, .. } = of;
        let PlanSummary { title, region, setting, conditions, tests, .. } = of;
        Self { id, version, title, region, setting, conditions, tests, status, published_version, sample, saved_at }
    }
}

impl Versioned for PlanView {
    fn version(&self) -> i32 {
        self.version
    }
}

/// Which plans are asked for.
#[derive(Debug, Default)]
pub struct PlanFilter<'a> {
    /// Of this region.
    pub region: Option<Region>,
    /// With these words in title or conditions.
    pub search: Option<&'a str>,
    /// In this state.
    pub status: Option<Status>,
}

pub(crate) fn eyes(role: Role) -> PlanReader {
    if role.may(Right::ReadDrafts) { PlanReader::Drafts } else { PlanReader::Taught }
}

/// Plans by title, those that you may see.
///
/// # Errors
/// A search that is too long.
pub async fn list_plans(app: &App, by: &Reader, filter: &PlanFilter<'_>) -> Result<Vec<PlanRow>, AppError> {
    let wanted = asked_text("search", filter.search)?.map(|text| name_key(&text)).unwrap_or_default();
    let words: Vec<&str> = wanted.split_whitespace().collect();
    let found = store::list_plan_summaries(&app.db, eyes(by.role()), filter.region).await?;
    let rows = found.into_iter().filter(|it| filter.status.is_none_or(|status| it.status == status)).map(PlanRow::from);
    let said_all = |row: &PlanRow| {
        let said = name_key(&format!("{} {}", row.title, row.conditions.join(" ")));
        words.iter().all(|word| said.contains(word))
    };
    Ok(rows.filter(said_all).collect())
}

/// A plan: as it was signed off for those who may not see drafts.
///
/// # Errors
/// No such plan that this person may see.
pub async fn get_plan(app: &App, by: &Reader, id: Uuid) -> Result<PlanView, AppError> {
    view(app, by.role(), store::get_plan(&app.db, eyes(by.role()), id).await?).await
}

/// Adds a plan, as a draft.
///
/// # Errors
/// A plan that breaks rules.
pub async fn create_plan(app: &App, by: &SheetWriter, input: ExaminationPlanInput) -> Result<PlanView, AppError> {
    let plan = ExaminationPlan::check(&input).map_err(AppError::Fields)?;
    let transaction = app.begin().await?;
    let record = store::create_plan(&transaction, &plan, false, Act::of("created", Some(by.id()))).await?;
    commit(transaction).await?;
    view(app, by.role(), record).await
}

/// Saves a plan that was read at this version; it is a draft then.
///
/// # Errors
/// A plan that breaks rules, no such plan, [`AppError::Conflict`].
pub async fn update_plan(
    app: &App,
    by: &SheetWriter,
    id: Uuid,
    version: i32,
    input: ExaminationPlanInput,
) -> Result<PlanView, AppError> {
    let plan = ExaminationPlan::check(&input).map_err(AppError::Fields)?;
    let transaction = app.begin().await?;
    let record = store::update_plan(&transaction, id, version, &plan, Act::of("edited", Some(by.id()))).await?;
    commit(transaction).await?;
    view(app, by.role(), record).await
}

/// Every change of a plan, the newest first.
///
/// # Errors
/// No such plan.
pub async fn list_plan_changes(app: &App, _by: &DraftReader, id: Uuid) -> Result<Vec<ChangeView>, AppError> {
    store::get_plan(&app.db, PlanReader::Drafts, id).await?;
    let changes = list_changes(&app.db, &[Kind::Plan], Some(&[id])).await?;
    Ok(changes.into_iter().map(ChangeView::from).collect())
}

pub(super) async fn view(app: &App, role: Role, record: PlanRecord) -> Result<PlanView, AppError> {
    let PlanRecord { id, version, sample, status, published_version, sheets, saved_at, plan } = record;
    let names = named(app, role, plan.tests.iter().map(|it| it.test)).await?;
    let named_tests = plan.tests.iter().filter_map(|it| names.get(&it.test).cloned()).collect();
    let next_steps = status.steps(role);
    let changed_sheets =
        if status == Status::Published { changed_sheets(app, &plan, &sheets).await? } else { Vec::new() };
    Ok(PlanView {
        id,
        version,
        status,
        published_version,
        next_steps,
        sample,
        saved_at,
        plan,
        named_tests,
        changed_sheets,
    })
}

async fn changed_sheets(
    app: &App,
    plan: &ExaminationPlan,
    sheets: &HashMap<TestId, i32>,
) -> Result<Vec<ChangedSheet>, AppError> {
    let ids: Vec<TestId> = plan.tests.iter().map(|it| it.test).collect();
    let tests = get_tests(&app.db, &ids).await?;
    let changed = ids.iter().filter_map(|id| {
        let record = tests.iter().find(|it| it.id == *id)?;
        let change = match sheets.get(id) {
            _ if !record.is_taught() => SheetChange::Archived,
            Some(then) if record.published_version != Some(*then) => SheetChange::Changed,
            _ => return None,
        };
        Some(ChangedSheet { test: *id, name: record.sheet.name.clone(), change })
    });
    Ok(changed.collect())
}
