//! Plans of examinations.

use std::collections::HashMap;

use chrono::{DateTime, Utc};
use pruvex_core::catalogue::{Region, Status, Step, name_key};
use pruvex_core::evidence::CareSetting;
use pruvex_core::plan::ExaminationPlan;
use pruvex_core::{FieldError, FieldErrorCode, TestId};
use sea_orm::{
    ActiveModelTrait,
    ActiveValue::{NotSet, Set},
    ColumnTrait, ConnectionTrait, EntityTrait, FromQueryResult, QueryFilter, QueryOrder, QuerySelect,
};
use serde_json::Value;
use uuid::Uuid;

use crate::StoreError;
use crate::catalogue::{TestRecord, get_tests};
use crate::condition::find_condition;
use crate::entities::examination_plan::{ActiveModel, Column, Entity, Model};
use crate::history::{Act, Kind, alone, keep};
use crate::review::step_from;
use crate::sql::with_values;

/// A stored plan.
#[derive(Debug, Clone, PartialEq)]
pub struct PlanRecord {
    /// Id.
    pub id: Uuid,
    /// Rises by one with every save.
    pub version: i32,
    /// It is made up.
    pub sample: bool,
    /// Where it stands.
    pub status: Status,
    /// The version that learners see, if there is one.
    pub published_version: Option<i32>,
    /// Versions of its tests' sheets when it was signed off; empty before.
    pub sheets: HashMap<TestId, i32>,
    /// When it was saved last.
    pub saved_at: DateTime<Utc>,
    /// What it says.
    pub plan: ExaminationPlan,
}

const WHAT: &str = "plan";

/// Whose eyes a plan is read with.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum PlanReader {
    /// Learners: what was signed off and is still taught, as it was then.
    Taught,
    /// Those who see drafts: everything as it stands.
    Drafts,
}

/// Plans by title; of one region when that is given.
///
/// # Errors
/// Database errors.
pub async fn list_plans(
    db: &impl ConnectionTrait,
    reader: PlanReader,
    region: Option<Region>,
) -> Result<Vec<PlanRecord>, StoreError> {
    let mut query = Entity::find().order_by_asc(Column::TitleKey).order_by_asc(Column::Id);
    if let Some(region) = region {
        query = query.filter(Column::Region.eq(region.code()));
    }
    if reader == PlanReader::Taught {
        query = query.filter(Column::Published.is_not_null()).filter(Column::Status.ne(Status::Retired.code()));
    }
    query.all(db).await?.into_iter().filter_map(|row| read_by(row, reader).transpose()).collect()
}

/// What a list says of a plan.
#[derive(Debug, Clone, PartialEq)]
pub struct PlanSummary {
    /// Id.
    pub id: Uuid,
    /// Rises by one with every save.
    pub version: i32,
    /// It is made up.
    pub sample: bool,
    /// Where it stands.
    pub status: Status,
    /// The version that learners see, if there is one.
    pub published_version: Option<i32>,
    /// When it was saved last.
    pub saved_at: DateTime<Utc>,
    /// Its title.
    pub title: String,
    /// Its region.
    pub region: Region,
    /// Where its patients are seen.
    pub setting: Option<CareSetting>,
    /// What it decides about.
    pub conditions: Vec<String>,
    /// How many tests it has.
    pub tests: usize,
}

/// A row of [`SUMMARIES`].
#[derive(FromQueryResult)]
struct SummaryRow {
    id: Uuid,
    version: i32,
    sample: bool,
    status: String,
    published_version: Option<i32>,
    updated_at: DateTime<Utc>,
    region: String,
    title: String,
    setting: Option<String>,
    conditions: Value,
    tests: i32,
}

/// The database takes out what is listed: reading hundreds of plans whole takes ten times as long.
const SUMMARIES: &str = "SELECT id, CASE WHEN $1 THEN version ELSE published_version END AS version, sample,
        CASE WHEN $1 THEN status ELSE 'published' END AS status, published_version, updated_at, region,
        said->>'title' AS title, said->>'setting' AS setting,
        jsonb_path_query_array(said, '$.questions[*].condition') AS conditions, jsonb_array_length(said->'tests') AS tests
    FROM (SELECT *, CASE WHEN $1 THEN content ELSE published END AS said FROM examination_plan) plan
    WHERE said IS NOT NULL AND ($1 OR status <> 'retired') AND ($2::text IS NULL OR region = $2)";

/// What a list says of plans, by title; of one region when that is given.
///
/// # Errors
/// Database errors.
pub async fn list_plan_summaries(
    db: &impl ConnectionTrait,
    reader: PlanReader,
    region: Option<Region>,
) -> Result<Vec<PlanSummary>, StoreError> {
    let values = [(reader == PlanReader::Drafts).into(), region.map(Region::code).into()];
    let rows = SummaryRow::find_by_statement(with_values(SUMMARIES, values)).all(db).await?;
    let mut found = rows.into_iter().map(summary).collect::<Result<Vec<_>, _>>()?;
    found.sort_by_cached_key(|it| (name_key(&it.title), it.id));
    Ok(found)
}

fn summary(row: SummaryRow) -> Result<PlanSummary, StoreError> {
    let id = row.id;
    Ok(PlanSummary {
        id,
        version: row.version,
        sample: row.sample,
        status: Status::from_code(&row.status).ok_or_else(|| damaged(id, "unknown status"))?,
        published_version: row.published_version,
        saved_at: row.updated_at,
        title: row.title,
        region: Region::from_code(&row.region).ok_or_else(|| damaged(id, "unknown region"))?,
        setting: row.setting.as_deref().and_then(CareSetting::from_code),
        conditions: serde_json::from_value(row.conditions).map_err(|why| damaged(id, why))?,
        tests: usize::try_from(row.tests).unwrap_or_default(),
    })
}

/// One plan.
///
/// # Errors
/// [`StoreError::NotFound`], for learners also while it is not published; database errors.
pub async fn get_plan(db: &impl ConnectionTrait, reader: PlanReader, id: Uuid) -> Result<PlanRecord, StoreError> {
    let row = Entity::find_by_id(id).one(db).await?;
    let read = row.map(|row| read_by(row, reader)).transpose()?.flatten();
    read.ok_or(StoreError::NotFound { what: WHAT, id })
}

/// Adds a plan, as a draft; sample data that no person brought counts as published. Call within a transaction.
///
/// # Errors
/// [`StoreError::Fields`] for a title that the region has already, tests, variants and conditions that are not there; database errors.
pub async fn create_plan(
    db: &impl ConnectionTrait,
    plan: &ExaminationPlan,
    sample: bool,
    act: Act<'_>,
) -> Result<PlanRecord, StoreError> {
    alone(db).await?;
    let id = Uuid::now_v7();
    let tests = check(db, id, plan).await?;
    let content = value(id, plan)?;
    let shown = sample && act.by.is_none();
    let (status, published_version) = if shown { (Status::Published, Some(1)) } else { (Status::Draft, None) };
    let row = ActiveModel {
        sample: Set(sample),
        status: Set(status.code().to_owned()),
        published: Set(shown.then(|| content.clone())),
        sheets: Set(if shown { sheets(&tests) } else { Value::Object(serde_json::Map::new()) }),
        published_version: Set(published_version),
        created_at: Set(Utc::now()),
        ..row(id, 1, plan, content)
    };
    let record = record(row.insert(db).await?)?;
    keep(db, Kind::Plan, id, 1, plan, act).await?;
    Ok(record)
}

/// Saves a plan that was read at `version`; it is a draft then. Call within a transaction.
///
/// # Errors
/// As [`create_plan`]; [`StoreError::Conflict`] when it was saved meanwhile, [`StoreError::NotFound`].
pub async fn update_plan(
    db: &impl ConnectionTrait,
    id: Uuid,
    version: i32,
    plan: &ExaminationPlan,
    act: Act<'_>,
) -> Result<PlanRecord, StoreError> {
    let old = locked(db, id, version).await?;
    check(db, id, plan).await?;
    let status = old.status.after_edit();
    let changed = ActiveModel { status: Set(status.code().to_owned()), ..row(id, version + 1, plan, value(id, plan)?) };
    let record = record(changed.update(db).await?)?;
    keep(db, Kind::Plan, id, record.version, plan, act).await?;
    Ok(record)
}

/// Takes a step with a plan that was read at `version`; call within a transaction. What is signed off keeps the versions of its tests' sheets.
///
/// # Errors
/// [`StoreError::Conflict`], [`StoreError::NotFound`], [`StoreError::Fields`] for a step that does not lead from here, for somebody who would
/// sign off what they wrote themselves, and for a plan whose tests cannot all be taught.
pub async fn step_plan(
    db: &impl ConnectionTrait,
    id: Uuid,
    version: i32,
    step: Step,
    act: Act<'_>,
) -> Result<PlanRecord, StoreError> {
    let old = locked(db, id, version).await?;
    let status = step_from(db, Kind::Plan, id, old.status, step, act).await?;
    let mut changed = ActiveModel {
        id: Set(id),
        version: Set(version + 1),
        status: Set(status.code().to_owned()),
        updated_at: Set(Utc::now()),
        ..Default::default()
    };
    if step == Step::SignOff {
        let tests = check(db, id, &old.plan).await?;
        taught(&old.plan, &tests)?;
        changed.published = Set(Some(value(id, &old.plan)?));
        changed.published_version = Set(Some(version + 1));
        changed.sheets = Set(sheets(&tests));
    }
    let record = record(changed.update(db).await?)?;
    keep(db, Kind::Plan, id, record.version, &record.plan, act).await?;
    Ok(record)
}

/// Plans that ask about a condition follow it to its new name, as they stand and as they were signed off; call within a transaction.
///
/// # Errors
/// Database errors.
pub async fn follow_condition_in_plans(
    db: &impl ConnectionTrait,
    region: Region,
    from: &str,
    to: &str,
) -> Result<(), StoreError> {
    alone(db).await?;
    for row in Entity::find().filter(Column::Region.eq(region.code())).all(db).await? {
        let id = row.id;
        let renamed = |content: Value| -> Result<_, StoreError> {
            let mut plan: ExaminationPlan = serde_json::from_value(content).map_err(|why| damaged(id, why))?;
            plan.rename_condition(from, to).then(|| value(id, &plan)).transpose()
        };
        let content = renamed(row.content)?;
        let published = row.published.map(renamed).transpose()?.flatten();
        if content.is_some() || published.is_some() {
            let content = content.map_or(NotSet, Set);
            let published = published.map_or(NotSet, |published| Set(Some(published)));
            ActiveModel { id: Set(id), content, published, ..Default::default() }.update(db).await?;
        }
    }
    Ok(())
}

/// The tests of the plan, if everything that it names is there.
async fn check(db: &impl ConnectionTrait, id: Uuid, plan: &ExaminationPlan) -> Result<Vec<TestRecord>, StoreError> {
    let mut errors = Vec::new();
    let tests = get_tests(db, &plan.tests.iter().map(|it| it.test).collect::<Vec<_>>()).await?;
    for (nth, planned) in plan.tests.iter().enumerate() {
        let Some(test) = tests.iter().find(|it| it.id == planned.test) else {
            let (message, remedy) = ("No test has this id.", "Choose a test of the catalogue.");
            let field = format!("tests[{nth}].test");
            errors.push(FieldError::new(field, FieldErrorCode::Unknown, planned.test, message, remedy));
            continue;
        };
        let known = |name: &str| test.sheet.variants.iter().any(|it| name_key(&it.name) == name_key(name));
        if !planned.variant.is_empty() && !known(&planned.variant) {
            let message = format!("{} has no variant of this name.", test.sheet.name);
            let remedy = "Choose a variant of its sheet, or leave it empty for the taught one.";
            let field = format!("tests[{nth}].variant");
            errors.push(FieldError::new(field, FieldErrorCode::Unknown, &planned.variant, message, remedy));
        }
    }
    for (nth, question) in plan.questions.iter().enumerate() {
        if find_condition(db, plan.region, &question.condition).await?.is_none() {
            let message = "The region has no condition of this name.";
            let remedy = "Choose one of the region's conditions.";
            let field = format!("questions[{nth}].condition");
            errors.push(FieldError::new(field, FieldErrorCode::Unknown, &question.condition, message, remedy));
        }
    }
    let same =
        Entity::find().filter(Column::Region.eq(plan.region.code())).filter(Column::TitleKey.eq(name_key(&plan.title)));
    if same.filter(Column::Id.ne(id)).one(db).await?.is_some() {
        let message = "The region has a plan of this title already.";
        let remedy = "Choose another title, or edit the plan that is there.";
        errors.push(FieldError::new("title", FieldErrorCode::Duplicate, &plan.title, message, remedy));
    }
    if errors.is_empty() { Ok(tests) } else { Err(StoreError::Fields(errors)) }
}

/// Learners can follow the plan: they see each of its tests.
fn taught(plan: &ExaminationPlan, tests: &[TestRecord]) -> Result<(), StoreError> {
    let hidden = plan.tests.iter().enumerate().filter_map(|(nth, planned)| {
        let test = tests.iter().find(|it| it.id == planned.test && !it.is_taught())?;
        let message = "Learners do not see this test: its sheet is not published, or it is archived.";
        let remedy = "Publish the sheet first, or take the test out of the plan.";
        Some(FieldError::new(format!("tests[{nth}].test"), FieldErrorCode::Invalid, &test.sheet.name, message, remedy))
    });
    let errors: Vec<FieldError> = hidden.collect();
    if errors.is_empty() { Ok(()) } else { Err(StoreError::Fields(errors)) }
}

fn sheets(tests: &[TestRecord]) -> Value {
    let version = |test: &TestRecord| Value::from(test.published_version.unwrap_or(test.version));
    Value::Object(tests.iter().map(|test| (test.id.to_string(), version(test))).collect())
}

async fn locked(db: &impl ConnectionTrait, id: Uuid, version: i32) -> Result<PlanRecord, StoreError> {
    alone(db).await?;
    let row = Entity::find_by_id(id).lock_exclusive().one(db).await?;
    let record = record(row.ok_or(StoreError::NotFound { what: WHAT, id })?)?;
    if record.version == version {
        Ok(record)
    } else {
        Err(StoreError::Conflict { what: WHAT, current: record.version })
    }
}

fn row(id: Uuid, version: i32, plan: &ExaminationPlan, content: Value) -> ActiveModel {
    ActiveModel {
        id: Set(id),
        region: Set(plan.region.code().to_owned()),
        title_key: Set(name_key(&plan.title)),
        content: Set(content),
        version: Set(version),
        updated_at: Set(Utc::now()),
        ..Default::default()
    }
}

fn value(id: Uuid, plan: &ExaminationPlan) -> Result<Value, StoreError> {
    serde_json::to_value(plan).map_err(|why| damaged(id, why))
}

fn damaged(id: Uuid, why: impl ToString) -> StoreError {
    StoreError::Damaged { what: WHAT, id, why: why.to_string() }
}

fn record(row: Model) -> Result<PlanRecord, StoreError> {
    let id = row.id;
    Ok(PlanRecord {
        id,
        version: row.version,
        sample: row.sample,
        status: Status::from_code(&row.status).ok_or_else(|| damaged(id, "unknown status"))?,
        published_version: row.published_version,
        sheets: serde_json::from_value(row.sheets).map_err(|why| damaged(id, why))?,
        saved_at: row.updated_at,
        plan: serde_json::from_value(row.content).map_err(|why| damaged(id, why))?,
    })
}

/// None where this reader sees nothing of it.
fn read_by(mut row: Model, reader: PlanReader) -> Result<Option<PlanRecord>, StoreError> {
    if reader == PlanReader::Drafts {
        return record(row).map(Some);
    }
    let (Some(content), Some(version)) = (row.published.take(), row.published_version) else { return Ok(None) };
    if row.status == Status::Retired.code() {
        return Ok(None);
    }
    let status = Status::Published.code().to_owned();
    record(Model { content, version, status, ..row }).map(Some)
}
