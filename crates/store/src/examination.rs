//! Examinations that were carried out: records without a patient's name, private to the account that owns them until it shares one.

use chrono::{DateTime, NaiveDate, Utc};
use pruvex_core::catalogue::{Region, name_key};
use pruvex_core::examination::{
    ClosedExamination, ExaminationConduct, ExaminationOutcome, LABELS, ReferenceResult, examination_label,
};
use pruvex_core::plan::{ExaminationPlan, PlanAction};
use sea_orm::{
    ActiveModelTrait,
    ActiveValue::Set,
    ColumnTrait, Condition, ConnectionTrait, EntityTrait, FromQueryResult, PaginatorTrait, QueryFilter, QueryOrder,
    QuerySelect,
    sea_query::{Expr, LikeExpr},
};
use serde::Serialize;
use serde::de::DeserializeOwned;
use serde_json::Value;
use uuid::Uuid;

use crate::StoreError;
use crate::entities::account;
use crate::entities::examination::{ActiveModel, Column, Entity, Model};

const WHAT: &str = "examination";

/// A stored examination.
#[derive(Debug, Clone, PartialEq)]
pub struct ExaminationRecord {
    /// Id.
    pub id: Uuid,
    /// Rises by one with every save.
    pub version: i32,
    /// The account whose it is.
    pub owner: Uuid,
    /// What it is called; unique among its owner's.
    pub label: String,
    /// The plan that is carried out.
    pub plan_id: Uuid,
    /// Its version then.
    pub plan_version: i32,
    /// What it said then.
    pub plan: ExaminationPlan,
    /// It goes by a made-up plan.
    pub sample: bool,
    /// What is known of the patient, as the application reads it.
    pub patient: Value,
    /// What was done and found.
    pub conduct: ExaminationConduct,
    /// What it came to; none while it is not finished.
    pub outcome: Option<ExaminationOutcome>,
    /// What was found out later; empty while nothing was.
    pub reference: Vec<ReferenceResult>,
    /// When it was begun.
    pub created_at: DateTime<Utc>,
    /// When it was saved last.
    pub saved_at: DateTime<Utc>,
    /// When it was finished.
    pub finished_at: Option<DateTime<Utc>>,
    /// When it was shared for teaching.
    pub shared_at: Option<DateTime<Utc>>,
}

/// An examination that is begun.
#[derive(Debug, Clone, PartialEq)]
pub struct NewExamination {
    /// Whose it is.
    pub owner: Uuid,
    /// The plan that is carried out.
    pub plan_id: Uuid,
    /// Its version.
    pub plan_version: i32,
    /// What it says.
    pub plan: ExaminationPlan,
    /// It is made up.
    pub sample: bool,
    /// What is known of the patient.
    pub patient: Value,
}

/// Which examinations are listed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum ExaminationState {
    /// All of one's own, the newest first.
    #[default]
    All,
    /// Those that are not finished.
    Running,
    /// Those that are.
    Finished,
    /// Those of which something is due, the most overdue first.
    Due,
    /// Finished ones of which nothing was found out yet, the oldest first.
    Awaiting,
    /// Those that others share, the newest first.
    Shared,
}

/// What is asked of the list.
#[derive(Debug, Clone, Default)]
pub struct ExaminationsAsked<'a> {
    /// In this state.
    pub state: ExaminationState,
    /// Of this region.
    pub region: Option<Region>,
    /// By this plan.
    pub plan: Option<Uuid>,
    /// With all of these words in label, plan, conditions or conclusion, in their compared form.
    pub words: &'a [&'a str],
}

/// What a list says of an examination.
#[derive(Debug, Clone, PartialEq, FromQueryResult)]
struct SummaryRow {
    id: Uuid,
    version: i32,
    label: String,
    region: String,
    plan_id: Uuid,
    title: String,
    conditions: Value,
    action: Option<String>,
    concluded: Option<String>,
    urgent: bool,
    due: Option<NaiveDate>,
    sample: bool,
    created_at: DateTime<Utc>,
    finished_at: Option<DateTime<Utc>>,
    shared_at: Option<DateTime<Utc>>,
}

/// What a list says of an examination.
#[derive(Debug, Clone, PartialEq)]
pub struct ExaminationSummary {
    /// Id.
    pub id: Uuid,
    /// Rises by one with every save.
    pub version: i32,
    /// What it is called.
    pub label: String,
    /// Region of its plan.
    pub region: Region,
    /// Its plan.
    pub plan_id: Uuid,
    /// Title of its plan.
    pub title: String,
    /// What it decided about.
    pub conditions: Vec<String>,
    /// What is done.
    pub action: Option<PlanAction>,
    /// What was concluded.
    pub concluded: String,
    /// An urgent finding was met.
    pub urgent: bool,
    /// When something of it is due.
    pub due: Option<NaiveDate>,
    /// It goes by a made-up plan.
    pub sample: bool,
    /// When it was begun.
    pub created_at: DateTime<Utc>,
    /// When it was finished.
    pub finished_at: Option<DateTime<Utc>>,
    /// When it was shared.
    pub shared_at: Option<DateTime<Utc>>,
}

/// Begins an examination under a label that its owner has not had yet: the first free one of those that begin with the number drawn; call within a
/// transaction.
///
/// # Errors
/// Database errors; [`StoreError::Damaged`] when somebody has used every label.
pub async fn create_examination(
    db: &impl ConnectionTrait,
    new: NewExamination,
    drawn: u64,
) -> Result<ExaminationRecord, StoreError> {
    let id = Uuid::now_v7();
    // Two beginnings at once would find the same label free.
    account::Entity::find_by_id(new.owner).lock_exclusive().one(db).await?;
    let taken = |label: String| Entity::find().filter(Column::OwnerId.eq(new.owner)).filter(Column::Label.eq(label));
    let mut label = None;
    for step in 0..LABELS {
        // A prime that divides neither the words nor the numbers, so that every label comes once.
        let candidate = examination_label(drawn % LABELS + step * 7_919);
        if taken(candidate.clone()).count(db).await? == 0 {
            label = Some(candidate);
            break;
        }
    }
    let label = label.ok_or_else(|| damaged(id, "no label is free"))?;
    let now = Utc::now();
    let row = ActiveModel {
        id: Set(id),
        owner_id: Set(new.owner),
        region: Set(new.plan.region.code().to_owned()),
        plan_id: Set(new.plan_id),
        plan_version: Set(new.plan_version),
        plan: Set(value(id, &new.plan)?),
        patient: Set(new.patient),
        conduct: Set(value(id, &ExaminationConduct::default())?),
        said: Set(said(&label, &new.plan, &ExaminationConduct::default())),
        label: Set(label),
        sample: Set(new.sample),
        version: Set(1),
        created_at: Set(now),
        updated_at: Set(now),
        outcome: Set(None),
        reference: Set(None),
        due: Set(None),
        finished_at: Set(None),
        shared_at: Set(None),
        deleted_at: Set(None),
    };
    record(row.insert(db).await?)
}

/// One examination: an own one, or one that is shared.
///
/// # Errors
/// [`StoreError::NotFound`], also for what belongs to others; database errors.
pub async fn get_examination(
    db: &impl ConnectionTrait,
    account: Uuid,
    id: Uuid,
) -> Result<ExaminationRecord, StoreError> {
    let mine = Condition::any().add(Column::OwnerId.eq(account)).add(Column::SharedAt.is_not_null());
    let row = Entity::find_by_id(id).filter(Column::DeletedAt.is_null()).filter(mine).one(db).await?;
    record(row.ok_or(StoreError::NotFound { what: WHAT, id })?)
}

/// An own examination that was read at `version`, held until the transaction ends.
///
/// # Errors
/// [`StoreError::NotFound`] for what belongs to others; [`StoreError::Conflict`] when it was saved meanwhile; database errors.
pub async fn hold_examination(
    db: &impl ConnectionTrait,
    owner: Uuid,
    id: Uuid,
    version: i32,
) -> Result<ExaminationRecord, StoreError> {
    record(held(db, owner, id, version, false).await?)
}

/// Saves an examination that is held, with what changes of it: what is known of the patient, what was done, and, when it is finished, what it came to.
///
/// # Errors
/// Database errors.
pub async fn save_examination(
    db: &impl ConnectionTrait,
    held: &ExaminationRecord,
    patient: Value,
    conduct: &ExaminationConduct,
    outcome: Option<&ExaminationOutcome>,
) -> Result<ExaminationRecord, StoreError> {
    let id = held.id;
    let now = Utc::now();
    let mut row = ActiveModel {
        id: Set(id),
        version: Set(held.version + 1),
        patient: Set(patient),
        conduct: Set(value(id, conduct)?),
        said: Set(said(&held.label, &held.plan, conduct)),
        updated_at: Set(now),
        ..Default::default()
    };
    if let Some(outcome) = outcome {
        row.outcome = Set(Some(value(id, outcome)?));
        row.finished_at = Set(Some(now));
    }
    // While it goes on nothing of it is due.
    let finished = outcome.is_some() || held.outcome.is_some();
    row.due = Set(conduct.next_due().filter(|_| finished));
    record(row.update(db).await?)
}

/// Keeps what was found out later of an examination that is held.
///
/// # Errors
/// Database errors.
pub async fn save_reference(
    db: &impl ConnectionTrait,
    held: &ExaminationRecord,
    reference: &[ReferenceResult],
) -> Result<ExaminationRecord, StoreError> {
    let row = ActiveModel {
        id: Set(held.id),
        version: Set(held.version + 1),
        updated_at: Set(Utc::now()),
        reference: Set(Some(value(held.id, &reference)?)),
        ..Default::default()
    };
    record(row.update(db).await?)
}

/// Shares a finished examination for teaching, or ends that; call within a transaction.
///
/// # Errors
/// As [`hold_examination`].
pub async fn set_examination_shared(
    db: &impl ConnectionTrait,
    owner: Uuid,
    id: Uuid,
    version: i32,
    shared: bool,
) -> Result<ExaminationRecord, StoreError> {
    let held = held(db, owner, id, version, false).await?;
    let row = ActiveModel { shared_at: Set(shared.then(Utc::now)), ..touched(&held) };
    record(row.update(db).await?)
}

/// Marks an examination as deleted, or brings it back; call within a transaction. What is deleted is not shared any more.
///
/// # Errors
/// As [`hold_examination`]; one that is deleted already, or not deleted, is not found.
pub async fn set_examination_deleted(
    db: &impl ConnectionTrait,
    owner: Uuid,
    id: Uuid,
    version: i32,
    deleted: bool,
) -> Result<ExaminationRecord, StoreError> {
    let held = held(db, owner, id, version, !deleted).await?;
    let row = ActiveModel { deleted_at: Set(deleted.then(Utc::now)), shared_at: Set(None), ..touched(&held) };
    record(row.update(db).await?)
}

/// Whether somebody ever began an examination, also one that is deleted.
///
/// # Errors
/// Database errors.
pub async fn has_examinations(db: &impl ConnectionTrait, owner: Uuid) -> Result<bool, StoreError> {
    Ok(Entity::find().filter(Column::OwnerId.eq(owner)).limit(1).count(db).await? > 0)
}

/// What waits in somebody's own examinations.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, FromQueryResult)]
pub struct ExaminationsWaiting {
    /// Something of them was due before this day.
    pub overdue: i64,
    /// Something of them is due from that day on, until `soon`.
    pub due: i64,
    /// Finished ones of which nothing was found out yet.
    pub awaiting: i64,
}

/// How many of somebody's own examinations wait for something on a day: overdue before it, due from it until `soon`, awaiting a reference result.
///
/// # Errors
/// Database errors.
pub async fn count_waiting(
    db: &impl ConnectionTrait,
    owner: Uuid,
    today: NaiveDate,
    soon: NaiveDate,
) -> Result<ExaminationsWaiting, StoreError> {
    let overdue = Expr::cust_with_values("count(*) FILTER (WHERE due < $1)", [today]);
    let due = Expr::cust_with_values("count(*) FILTER (WHERE due BETWEEN $1 AND $2)", [today, soon]);
    let awaiting = Expr::cust("count(*) FILTER (WHERE finished_at IS NOT NULL AND reference IS NULL)");
    let counted = Entity::find()
        .select_only()
        .column_as(overdue, "overdue")
        .column_as(due, "due")
        .column_as(awaiting, "awaiting")
        .filter(Column::OwnerId.eq(owner))
        .filter(Column::DeletedAt.is_null())
        .into_model::<ExaminationsWaiting>()
        .one(db)
        .await?;
    Ok(counted.unwrap_or_default())
}

/// Examinations as a list shows them, and how many there are in all.
///
/// # Errors
/// Database errors.
pub async fn list_examinations(
    db: &impl ConnectionTrait,
    account: Uuid,
    asked: &ExaminationsAsked<'_>,
    offset: u64,
    limit: u64,
) -> Result<(Vec<ExaminationSummary>, u64), StoreError> {
    let found = asked_for(account, asked);
    // Which rows, and how many there are in all, in one go; what is in them only of those that are shown.
    let page: Vec<(Uuid, i64)> = ordered(found.clone(), asked.state)
        .offset(offset)
        .limit(limit)
        .select_only()
        .column(Column::Id)
        .column_as(Expr::cust("count(*) OVER ()"), "total")
        .into_tuple()
        .all(db)
        .await?;
    let Some((_, total)) = page.first() else {
        // Past the end, nothing says how many there are.
        return Ok((Vec::new(), if offset > 0 { found.count(db).await? } else { 0 }));
    };
    let text = |path: &str| Expr::cust(path.to_owned());
    let rows = Entity::find()
        .filter(Column::Id.is_in(page.iter().map(|(id, _)| *id)))
        .select_only()
        .columns([
            Column::Id,
            Column::Version,
            Column::Label,
            Column::Region,
            Column::PlanId,
            Column::Due,
            Column::Sample,
            Column::CreatedAt,
            Column::FinishedAt,
            Column::SharedAt,
        ])
        .column_as(text("plan->>'title'"), "title")
        .column_as(text("jsonb_path_query_array(plan, '$.questions[*].condition')"), "conditions")
        .column_as(text("conduct->'conclusion'->>'action'"), "action")
        .column_as(text("conduct->'conclusion'->>'text'"), "concluded")
        .column_as(text("jsonb_array_length(conduct->'urgent') > 0"), "urgent")
        .into_model::<SummaryRow>()
        .all(db)
        .await?;
    let mut rows = rows.into_iter().map(summary).collect::<Result<Vec<_>, _>>()?;
    rows.sort_by_key(|row| page.iter().position(|(id, _)| *id == row.id));
    Ok((rows, u64::try_from(*total).unwrap_or_default()))
}

/// A finished examination as the database cuts it out of its record.
#[derive(Debug, FromQueryResult)]
struct ClosedRow {
    id: Uuid,
    questions: Value,
    tests: Value,
    reference: Option<Value>,
    sample: bool,
}

/// Somebody's own finished examinations as far as they count, of one region when that is given, the newest `limit` of them; and whether some of it is made up.
///
/// # Errors
/// Database errors.
pub async fn closed_examinations(
    db: &impl ConnectionTrait,
    owner: Uuid,
    region: Option<Region>,
    limit: u64,
) -> Result<(Vec<ClosedExamination>, bool), StoreError> {
    let asked = ExaminationsAsked { state: ExaminationState::Finished, region, ..ExaminationsAsked::default() };
    let pairs = |of: &str, a: &str, b: &str| {
        Expr::cust(format!(
            "(SELECT coalesce(jsonb_agg(jsonb_build_array({a}, {b})), '[]') FROM jsonb_array_elements(outcome->'{of}') it)"
        ))
    };
    let rows = ordered(asked_for(owner, &asked), asked.state)
        .limit(limit)
        .select_only()
        .column(Column::Id)
        .column(Column::Reference)
        .column_as(pairs("questions", "it->'condition'", "it->'after'->'estimate'"), "questions")
        .column_as(pairs("tests", "it->'test'", "it->'reading'->'outcome'"), "tests")
        .column_as(Expr::cust("sample OR coalesce((outcome->>'sample')::boolean, false)"), "sample")
        .into_model::<ClosedRow>()
        .all(db)
        .await?;
    let sample = rows.iter().any(|row| row.sample);
    let closed = |ClosedRow { id, questions, tests, reference, .. }: ClosedRow| {
        Ok(ClosedExamination {
            questions: read(id, questions)?,
            tests: read(id, tests)?,
            reference: reference.map(|reference| read(id, reference)).transpose()?.unwrap_or_default(),
        })
    };
    Ok((rows.into_iter().map(closed).collect::<Result<_, StoreError>>()?, sample))
}

/// Reference results of finished examinations of everybody, of one region when that is given, each with whose it is: counts are made of them, nothing else.
///
/// # Errors
/// Database errors.
pub async fn reference_results(
    db: &impl ConnectionTrait,
    region: Option<Region>,
    limit: u64,
) -> Result<Vec<(Uuid, Vec<ReferenceResult>)>, StoreError> {
    let mut found = Entity::find().filter(Column::DeletedAt.is_null()).filter(Column::Reference.is_not_null());
    if let Some(region) = region {
        found = found.filter(Column::Region.eq(region.code()));
    }
    let rows: Vec<(Uuid, Uuid, Value)> = found
        .order_by_desc(Column::CreatedAt)
        .limit(limit)
        .select_only()
        .columns([Column::Id, Column::OwnerId, Column::Reference])
        .into_tuple()
        .all(db)
        .await?;
    rows.into_iter().map(|(id, owner, reference)| Ok((owner, read(id, reference)?))).collect()
}

/// Whole examinations, at most `limit` after `offset` others, in the order of the list.
///
/// # Errors
/// Database errors.
pub async fn read_examinations(
    db: &impl ConnectionTrait,
    account: Uuid,
    asked: &ExaminationsAsked<'_>,
    offset: u64,
    limit: u64,
) -> Result<Vec<ExaminationRecord>, StoreError> {
    let rows = ordered(asked_for(account, asked), asked.state).offset(offset).limit(limit).all(db).await?;
    rows.into_iter().map(record).collect()
}

fn asked_for(account: Uuid, asked: &ExaminationsAsked<'_>) -> sea_orm::Select<Entity> {
    let mut found = Entity::find().filter(Column::DeletedAt.is_null());
    found = match asked.state {
        ExaminationState::Shared => found.filter(Column::SharedAt.is_not_null()).filter(Column::OwnerId.ne(account)),
        _ => found.filter(Column::OwnerId.eq(account)),
    };
    found = match asked.state {
        ExaminationState::Running => found.filter(Column::FinishedAt.is_null()),
        ExaminationState::Finished => found.filter(Column::FinishedAt.is_not_null()),
        ExaminationState::Due => found.filter(Column::Due.is_not_null()),
        ExaminationState::Awaiting => {
            found.filter(Column::FinishedAt.is_not_null()).filter(Column::Reference.is_null())
        }
        ExaminationState::All | ExaminationState::Shared => found,
    };
    if let Some(region) = asked.region {
        found = found.filter(Column::Region.eq(region.code()));
    }
    if let Some(plan) = asked.plan {
        found = found.filter(Column::PlanId.eq(plan));
    }
    for word in asked.words {
        let escaped = word.replace('\\', "\\\\").replace('%', "\\%").replace('_', "\\_");
        found = found.filter(Column::Said.like(LikeExpr::new(format!("%{escaped}%")).escape('\\')));
    }
    found
}

fn ordered(found: sea_orm::Select<Entity>, state: ExaminationState) -> sea_orm::Select<Entity> {
    match state {
        ExaminationState::Due => found.order_by_asc(Column::Due).order_by_desc(Column::CreatedAt),
        ExaminationState::Awaiting => found.order_by_asc(Column::FinishedAt),
        _ => found.order_by_desc(Column::CreatedAt),
    }
    .order_by_asc(Column::Id)
}

async fn held(
    db: &impl ConnectionTrait,
    owner: Uuid,
    id: Uuid,
    version: i32,
    deleted: bool,
) -> Result<Model, StoreError> {
    let row = Entity::find_by_id(id).filter(Column::OwnerId.eq(owner)).lock_exclusive().one(db).await?;
    let row = row.filter(|row| row.deleted_at.is_some() == deleted).ok_or(StoreError::NotFound { what: WHAT, id })?;
    if row.version == version { Ok(row) } else { Err(StoreError::Conflict { what: WHAT, current: row.version }) }
}

fn touched(held: &Model) -> ActiveModel {
    ActiveModel { id: Set(held.id), version: Set(held.version + 1), updated_at: Set(Utc::now()), ..Default::default() }
}

/// What a search looks at: label, plan, conditions and conclusion in their compared form.
fn said(label: &str, plan: &ExaminationPlan, conduct: &ExaminationConduct) -> String {
    let conditions = plan.questions.iter().map(|it| it.condition.as_str());
    let words = [label, &plan.title, &conduct.conclusion.text, &conduct.conclusion.next];
    name_key(&words.into_iter().chain(conditions).collect::<Vec<_>>().join(" "))
}

fn summary(row: SummaryRow) -> Result<ExaminationSummary, StoreError> {
    let id = row.id;
    let region = Region::from_code(&row.region).ok_or_else(|| damaged(id, "unknown region"))?;
    Ok(ExaminationSummary {
        id,
        version: row.version,
        label: row.label,
        region,
        plan_id: row.plan_id,
        title: row.title,
        conditions: read(id, row.conditions)?,
        action: row.action.map(|action| read(id, Value::String(action))).transpose()?,
        concluded: row.concluded.unwrap_or_default(),
        urgent: row.urgent,
        due: row.due,
        sample: row.sample,
        created_at: row.created_at,
        finished_at: row.finished_at,
        shared_at: row.shared_at,
    })
}

fn record(row: Model) -> Result<ExaminationRecord, StoreError> {
    let id = row.id;
    Ok(ExaminationRecord {
        id,
        version: row.version,
        owner: row.owner_id,
        label: row.label,
        plan_id: row.plan_id,
        plan_version: row.plan_version,
        plan: read(id, row.plan)?,
        sample: row.sample,
        patient: row.patient,
        conduct: read(id, row.conduct)?,
        outcome: row.outcome.map(|outcome| read(id, outcome)).transpose()?,
        reference: row.reference.map(|reference| read(id, reference)).transpose()?.unwrap_or_default(),
        created_at: row.created_at,
        saved_at: row.updated_at,
        finished_at: row.finished_at,
        shared_at: row.shared_at,
    })
}

fn value(id: Uuid, it: &impl Serialize) -> Result<Value, StoreError> {
    serde_json::to_value(it).map_err(|why| damaged(id, why))
}

fn read<T: DeserializeOwned>(id: Uuid, it: Value) -> Result<T, StoreError> {
    serde_json::from_value(it).map_err(|why| damaged(id, why))
}

fn damaged(id: Uuid, why: impl ToString) -> StoreError {
    StoreError::Damaged { what: WHAT, id, why: why.to_string() }
}
