//! Tests and their names.

use std::collections::HashMap;

use chrono::Utc;
use pruvex_core::catalogue::{Condition, Region, Sheet, SheetInput, Status, Step, name_key};
use pruvex_core::{FieldError, FieldErrorCode, TestId};
use sea_orm::{
    ActiveModelTrait,
    ActiveValue::{NotSet, Set},
    ColumnTrait, ConnectionTrait, DbErr, EntityTrait, IntoActiveModel, QueryFilter, QueryOrder, QuerySelect,
};
use uuid::Uuid;

use crate::StoreError;
use crate::among::among;
use crate::condition::put_condition;
use crate::constraint::refused;
use crate::entities::{condition, test, test_name};
use crate::history::{Act, Kind, alone, contents, keep, keep_all};
use crate::review::step_from;
use crate::sql::with_values;

/// A stored test.
#[derive(Debug, Clone, PartialEq)]
pub struct TestRecord {
    /// Id.
    pub id: TestId,
    /// Rises by one with every save.
    pub version: i32,
    /// Came with sample data.
    pub sample: bool,
    /// Where it stands.
    pub status: Status,
    /// The version that learners see, if there is one.
    pub published_version: Option<i32>,
    /// The sheet.
    pub sheet: Sheet,
}

impl TestRecord {
    /// Whether learners see it: it was signed off once, and is still taught.
    #[must_use]
    pub fn is_taught(&self) -> bool {
        self.published_version.is_some() && self.status != Status::Retired
    }
}

/// All tests as they stand, in the order of their names.
///
/// # Errors
/// Database errors.
pub async fn list_tests(db: &impl ConnectionTrait) -> Result<Vec<TestRecord>, StoreError> {
    let mut tests = Vec::new();
    loop {
        let page = page_tests(db, tests.last().map(|test: &TestRecord| test.id)).await?;
        if page.is_empty() {
            break;
        }
        tests.extend(page);
    }
    tests.sort_by_cached_key(|record| name_key(&record.sheet.name));
    Ok(tests)
}

/// Tests that are read or written at once.
const PAGE: usize = 250;

/// Some hundred tests as they stand, by id, from the one after this; none when there is no more. A large catalogue is read in
/// portions, since its documents take many times their room while they are read.
///
/// # Errors
/// Database errors.
pub async fn page_tests(db: &impl ConnectionTrait, after: Option<TestId>) -> Result<Vec<TestRecord>, StoreError> {
    let mut query =
        test::Entity::find().find_also_related(condition::Entity).order_by_asc(test::Column::Id).limit(PAGE as u64);
    if let Some(after) = after {
        query = query.filter(test::Column::Id.gt(after.0));
    }
    query.all(db).await?.into_iter().map(|(row, condition)| test_record(row, condition)).collect()
}

/// Of these tests, those of which learners see an earlier text, with that text.
///
/// # Errors
/// Database errors.
pub async fn taught_texts(
    db: &impl ConnectionTrait,
    tests: &[TestRecord],
) -> Result<HashMap<TestId, TestRecord>, StoreError> {
    let changed = |test: &&TestRecord| test.is_taught() && test.status != Status::Published;
    let versions =
        tests.iter().filter(changed).filter_map(|test| Some((test.id, (test.published_version?, test.sample))));
    let versions: HashMap<TestId, (i32, bool)> = versions.collect();
    let wanted: Vec<(Uuid, i32)> = versions.iter().map(|(id, (version, _))| (id.0, *version)).collect();
    let texts = contents(db, Kind::Test, &wanted).await?;
    texts
        .into_iter()
        .map(|(id, text)| (TestId(id), text))
        .filter_map(|(id, text)| versions.get(&id).map(|(version, sample)| (id, *version, *sample, text)))
        .map(|(id, version, sample, text)| {
            let (sheet, status, published_version) = (stored_sheet(id, text)?, Status::Published, Some(version));
            Ok((id, TestRecord { id, version, sample, status, published_version, sheet }))
        })
        .collect()
}

/// At most a thousand tests that a text finds, the best first: a part of a name or alias whatever its case, then words of the
/// sheet in any of their forms. When no name holds the text, names that are typed nearly like it come first. With `drafts` the
/// sheets are looked through as they stand, else as they were signed off.
///
/// # Errors
/// Database errors.
pub async fn find_tests(
    db: &impl ConnectionTrait,
    text: &str,
    region: Option<Region>,
    drafts: bool,
) -> Result<Vec<TestId>, StoreError> {
    let (names, words) = if drafts { ("search_names", "search") } else { ("taught_names", "taught") };
    let key = name_key(text);
    let literal = key.replace('\\', "\\\\").replace('%', "\\%").replace('_', "\\_");
    let region = region.map(Region::code);
    let exact = with_values(
        format!(
            "SELECT id, {names} LIKE $2 AS named FROM test, websearch_to_tsquery('english', $1) AS wanted
             WHERE ({names} LIKE $2 OR {words} @@ wanted) AND ($3::text IS NULL OR region = $3)
             ORDER BY named DESC, ts_rank({words}, wanted) DESC, id LIMIT 1000"
        ),
        [text.into(), format!("%{literal}%").into(), region.into()],
    );
    let rows = db.query_all_raw(exact).await?;
    let found: Vec<(Uuid, bool)> = rows
        .iter()
        .map(|row| Ok((row.try_get_by_index(0)?, row.try_get_by_index(1)?)))
        .collect::<Result<_, DbErr>>()?;
    let exact = found.iter().map(|(id, _)| TestId(*id));
    if found.first().is_some_and(|(_, named)| *named) {
        return Ok(exact.collect());
    }
    // Comparing letters takes a hundred times as long as looking a word up; it is left to texts that no name holds.
    let near = with_values(
        format!(
            "SELECT id FROM test WHERE $1 <% {names} AND ($2::text IS NULL OR region = $2)
             ORDER BY word_similarity($1, {names}) DESC, id LIMIT 50"
        ),
        [key.into(), region.into()],
    );
    let rows = db.query_all_raw(near).await?;
    let near: Vec<Uuid> = rows.iter().map(|row| row.try_get_by_index(0)).collect::<Result<_, _>>()?;
    let mut near: Vec<TestId> = near.into_iter().map(TestId).collect();
    let others: Vec<TestId> = exact.filter(|id| !near.contains(id)).collect();
    near.extend(others);
    Ok(near)
}

/// One test as learners see it.
///
/// # Errors
/// [`StoreError::NotFound`] also while it is not published, database errors.
pub async fn get_published_test(db: &impl ConnectionTrait, id: TestId) -> Result<TestRecord, StoreError> {
    let record = get_test(db, id).await?;
    if !record.is_taught() {
        return Err(StoreError::not_found("test", id));
    }
    let earlier = taught_texts(db, std::slice::from_ref(&record)).await?.remove(&id);
    Ok(earlier.unwrap_or(record))
}

/// A sheet out of a history.
fn stored_sheet(id: TestId, text: serde_json::Value) -> Result<Sheet, StoreError> {
    let input: SheetInput = serde_json::from_value(text).map_err(|error| damaged(id, error.to_string()))?;
    Sheet::check(&input).map_err(|errors| damaged(id, errors.iter().map(ToString::to_string).collect()))
}

/// One test.
///
/// # Errors
/// [`StoreError::NotFound`], database errors.
pub async fn get_test(db: &impl ConnectionTrait, id: TestId) -> Result<TestRecord, StoreError> {
    let row = test::Entity::find_by_id(id.0).find_also_related(condition::Entity).one(db).await?;
    let (row, condition) = row.ok_or(StoreError::not_found("test", id))?;
    test_record(row, condition)
}

/// These tests, in no order; those that are not there are left out.
///
/// # Errors
/// Database errors.
pub async fn get_tests(db: &impl ConnectionTrait, ids: &[TestId]) -> Result<Vec<TestRecord>, StoreError> {
    let mut tests = Vec::with_capacity(ids.len());
    for portion in ids.chunks(PAGE) {
        let found = test::Entity::find().find_also_related(condition::Entity);
        let rows = found.filter(among(test::Column::Id, portion.iter().map(|id| id.0))).all(db).await?;
        tests.extend(
            rows.into_iter().map(|(row, condition)| test_record(row, condition)).collect::<Result<Vec<_>, _>>()?,
        );
    }
    Ok(tests)
}

/// The tests that are for these conditions, before all others or among others.
///
/// # Errors
/// Database errors.
pub async fn tests_for(db: &impl ConnectionTrait, conditions: &[Uuid]) -> Result<Vec<TestId>, StoreError> {
    let shown = with_values(
        format!("SELECT test.id FROM test, condition WHERE condition.id = ANY($1) AND {SHOWS}"),
        [conditions.to_vec().into()],
    );
    let rows = db.query_all_raw(shown).await?;
    Ok(rows.iter().map(|row| row.try_get_by_index(0).map(TestId)).collect::<Result<_, _>>()?)
}

/// Whether a test is for a condition. Sheets keep the names of their further conditions ([`follow_condition`]).
pub(crate) const SHOWS: &str = "condition.region = test.region AND (test.condition_id = condition.id OR EXISTS (
    SELECT FROM jsonb_array_elements_text(coalesce(test.sheet->'other_conditions', '[]')) named
    WHERE lower(named) IN (condition.name_key, lower(condition.name))))";

/// Tests that name a condition among others follow it to its new name; call within a transaction, before the condition is saved. That of the
/// leading condition is read from the condition itself.
///
/// # Errors
/// Database errors.
pub async fn follow_condition(
    db: &impl ConnectionTrait,
    condition: Uuid,
    from: &str,
    to: &str,
) -> Result<(), StoreError> {
    alone(db).await?;
    for mut test in get_tests(db, &tests_for(db, &[condition]).await?).await? {
        if !test.sheet.other_conditions.is_empty() && test.sheet.rename_condition(from, to) {
            let sheet = serde_json::to_value(&test.sheet).map_err(|error| damaged(test.id, error.to_string()))?;
            let search_text = Set(search_text(&test.sheet));
            let row = test::ActiveModel { id: Set(test.id.0), sheet: Set(sheet), search_text, ..Default::default() };
            row.update(db).await?;
        }
    }
    Ok(())
}

/// The tests of these names, by the compared form of their names; names of others count only as names, not as aliases.
///
/// # Errors
/// Database errors.
pub async fn named_tests<'a>(
    db: &impl ConnectionTrait,
    names: impl Iterator<Item = &'a str>,
) -> Result<HashMap<String, TestRecord>, StoreError> {
    let keys: Vec<String> = names.map(name_key).collect();
    let found = taken_keys(db, &keys).await?;
    let ids: Vec<TestId> =
        found.into_iter().filter(|name| name.position == 0).map(|name| name.test_id.into()).collect();
    let tests = get_tests(db, &ids).await?;
    Ok(tests.into_iter().map(|test| (name_key(&test.sheet.name), test)).collect())
}

/// Tests by any of their names, each under the key of the name that was asked for.
///
/// # Errors
/// Database errors.
pub async fn tests_by_any_name<'a>(
    db: &impl ConnectionTrait,
    names: impl Iterator<Item = &'a str>,
) -> Result<HashMap<String, TestRecord>, StoreError> {
    let keys: Vec<String> = names.map(name_key).collect();
    let found = taken_keys(db, &keys).await?;
    let ids: Vec<TestId> = found.iter().map(|name| name.test_id.into()).collect();
    let tests: HashMap<TestId, TestRecord> = get_tests(db, &ids).await?.into_iter().map(|it| (it.id, it)).collect();
    Ok(found.into_iter().filter_map(|name| Some((name.key, tests.get(&TestId(name.test_id))?.clone()))).collect())
}

/// Adds a test; call within a transaction. Sample data that no person brought counts as published, all else begins as a draft.
///
/// # Errors
/// [`StoreError::Fields`] when a name or alias is taken, database errors.
pub async fn create_test(
    db: &impl ConnectionTrait,
    sheet: &Sheet,
    sample: bool,
    act: Act<'_>,
) -> Result<TestRecord, StoreError> {
    alone(db).await?;
    check_names(db, TestId::default(), sheet).await?;
    let id = create_tests(db, &[(sheet, sample)], act).await?.pop();
    get_test(db, id.unwrap_or_default()).await
}

/// Adds tests whose names are known to be free, each with whether it is made up; call within a transaction. Answers their ids in
/// the same order.
///
/// # Errors
/// As [`create_test`].
pub(crate) async fn create_tests(
    db: &impl ConnectionTrait,
    sheets: &[(&Sheet, bool)],
    act: Act<'_>,
) -> Result<Vec<TestId>, StoreError> {
    let mut conditions: HashMap<(Region, String), Uuid> = HashMap::new();
    let mut ids = Vec::with_capacity(sheets.len());
    for portion in sheets.chunks(PAGE) {
        let mut rows = Vec::with_capacity(portion.len());
        let mut versions = Vec::with_capacity(portion.len());
        for (sheet, sample) in portion {
            let shown = *sample && act.by.is_none();
            let (status, published_version) = if shown { (Status::Published, Some(1)) } else { (Status::Draft, None) };
            let key = (sheet.region, name_key(&sheet.condition));
            let condition = match conditions.get(&key) {
                Some(id) if sheet.other_conditions.is_empty() => *id,
                _ => named_condition(db, sheet, act).await?,
            };
            conditions.insert(key, condition);
            let id = TestId(Uuid::now_v7());
            let taught = |text: String| Set(if shown { text } else { String::new() });
            rows.push(test::ActiveModel {
                taught_names: taught(search_names(sheet)),
                taught_text: taught(search_text(sheet)),
                created_at: Set(Utc::now()),
                version: Set(1),
                sample: Set(*sample),
                status: Set(status.code().to_owned()),
                published_version: Set(published_version),
                ..row(id, condition, sheet)?
            });
            versions.push((id, 1, *sheet));
        }
        test::Entity::insert_many(rows).exec_without_returning(db).await?;
        let names: Vec<(TestId, &Sheet)> = versions.iter().map(|(id, _, sheet)| (*id, *sheet)).collect();
        insert_names(db, &names).await?;
        keep_all(db, Kind::Test, &versions, act).await?;
        ids.extend(versions.into_iter().map(|(id, ..)| id));
    }
    Ok(ids)
}

/// Saves a test that was read at `version`; call within a transaction.
///
/// # Errors
/// [`StoreError::Conflict`] when it was saved meanwhile, [`StoreError::NotFound`], [`StoreError::Fields`].
pub async fn update_test(
    db: &impl ConnectionTrait,
    id: TestId,
    version: i32,
    sheet: &Sheet,
    act: Act<'_>,
) -> Result<TestRecord, StoreError> {
    let old = locked(db, id, version).await?;
    check_names(db, id, sheet).await?;
    let version = version + 1;
    let status = status(&old)?.after_edit();
    let row = row(id, named_condition(db, sheet, act).await?, sheet)?;
    test::ActiveModel { version: Set(version), status: Set(status.code().to_owned()), ..row }.update(db).await?;
    test_name::Entity::delete_many().filter(test_name::Column::TestId.eq(id.0)).exec(db).await?;
    insert_names(db, &[(id, sheet)]).await?;
    keep(db, Kind::Test, id, version, sheet, act).await?;
    let published_version = old.published_version;
    Ok(TestRecord { id, version, sample: old.sample, status, published_version, sheet: sheet.clone() })
}

/// Takes a step with a test that was read at `version`; call within a transaction.
///
/// # Errors
/// [`StoreError::Conflict`], [`StoreError::NotFound`], [`StoreError::Fields`] for a step that does not lead from here, and for
/// somebody who would sign off what they wrote themselves.
pub async fn step_test(
    db: &impl ConnectionTrait,
    id: TestId,
    version: i32,
    step: Step,
    act: Act<'_>,
) -> Result<TestRecord, StoreError> {
    let old = locked(db, id, version).await?;
    let status = step_from(db, Kind::Test, id.0, status(&old)?, step, act).await?;
    let before = get_test(db, id).await?;
    let published_version = if step == Step::SignOff { Some(version + 1) } else { old.published_version };
    let signed_off = |text: String| if step == Step::SignOff { Set(text) } else { NotSet };
    let row = test::ActiveModel {
        id: Set(id.0),
        taught_names: signed_off(search_names(&before.sheet)),
        taught_text: signed_off(search_text(&before.sheet)),
        version: Set(version + 1),
        status: Set(status.code().to_owned()),
        published_version: Set(published_version),
        updated_at: Set(Utc::now()),
        ..Default::default()
    };
    row.update(db).await?;
    keep(db, Kind::Test, id, version + 1, &before.sheet, act).await?;
    Ok(TestRecord { version: version + 1, status, published_version, ..before })
}

/// Brings the text of an earlier version back as a new one; call within a transaction.
///
/// # Errors
/// As [`update_test`]; [`StoreError::NotFound`] also without that version.
pub async fn restore_test(
    db: &impl ConnectionTrait,
    id: TestId,
    version: i32,
    earlier: i32,
    act: Act<'_>,
) -> Result<TestRecord, StoreError> {
    let text = contents(db, Kind::Test, &[(id.0, earlier)]).await?.pop();
    let (_, text) = text.ok_or(StoreError::not_found("version of the test", id))?;
    update_test(db, id, version, &stored_sheet(id, text)?, act).await
}

async fn locked(db: &impl ConnectionTrait, id: TestId, version: i32) -> Result<test::Model, StoreError> {
    alone(db).await?;
    let found = test::Entity::find_by_id(id.0).lock_exclusive().one(db).await?;
    let row = found.ok_or(StoreError::not_found("test", id))?;
    if row.version == version { Ok(row) } else { Err(StoreError::Conflict { what: "test", current: row.version }) }
}

fn status(row: &test::Model) -> Result<Status, StoreError> {
    Status::from_code(&row.status).ok_or_else(|| damaged(TestId(row.id), "unknown status".to_owned()))
}

/// Whether the catalogue holds no test at all.
///
/// # Errors
/// Database errors.
pub async fn is_empty(db: &impl ConnectionTrait) -> Result<bool, StoreError> {
    Ok(test::Entity::find().limit(1).one(db).await?.is_none())
}

/// The leading condition that a sheet names; those that are not known yet are added.
async fn named_condition(db: &impl ConnectionTrait, sheet: &Sheet, act: Act<'_>) -> Result<Uuid, StoreError> {
    let mut leading = None;
    for name in sheet.conditions() {
        let id = put_condition(db, &Condition::named(sheet.region, name), act).await?.0;
        leading.get_or_insert(id);
    }
    Ok(leading.unwrap_or_default())
}

/// The sheet's columns; the caller adds what differs between adding and saving.
fn row(id: TestId, condition: Uuid, sheet: &Sheet) -> Result<test::ActiveModel, StoreError> {
    let content = serde_json::to_value(sheet);
    Ok(test::ActiveModel {
        id: Set(id.0),
        region: Set(sheet.region.code().to_owned()),
        condition_id: Set(condition),
        sheet: Set(content.map_err(|error| damaged(id, error.to_string()))?),
        search_names: Set(search_names(sheet)),
        search_text: Set(search_text(sheet)),
        updated_at: Set(Utc::now()),
        ..Default::default()
    })
}

pub(crate) fn search_names(sheet: &Sheet) -> String {
    sheet.names().map(name_key).collect::<Vec<_>>().join(" ; ")
}

/// What a search looks through beside the names: condition, targets, steps, findings, indications, cautions and pitfalls.
pub(crate) fn search_text(sheet: &Sheet) -> String {
    let mut texts: Vec<&str> = sheet.conditions().chain([sheet.positive_finding.as_str()]).collect();
    for variant in &sheet.variants {
        texts.extend([variant.name.as_str(), &variant.patient_position]);
        texts.extend(variant.targets.iter().map(|target| target.structure.as_str()));
        texts.extend(variant.steps.iter().map(|step| step.text.as_str()));
        texts.extend(variant.criteria.iter().map(|criterion| criterion.text.as_str()));
        texts.extend(variant.equipment.iter().map(|thing| thing.name.as_str()));
    }
    texts.extend(sheet.indications.iter().map(|indication| indication.text.as_str()));
    texts.extend(sheet.cautions.iter().map(|caution| caution.text.as_str()));
    texts.extend(sheet.pitfalls.iter().map(|pitfall| pitfall.text.as_str()));
    // PostgreSQL refuses a search vector above a megabyte; what is cut off is still in the sheet.
    texts.join(" \n").chars().take(200_000).collect()
}

fn damaged(id: TestId, why: String) -> StoreError {
    StoreError::Damaged { what: "test", id: id.0, why }
}

async fn check_names(db: &impl ConnectionTrait, id: TestId, sheet: &Sheet) -> Result<(), StoreError> {
    let errors: Vec<FieldError> = taken_names(db, &[(id, sheet)]).await?.into_iter().map(|(_, error)| error).collect();
    if errors.is_empty() { Ok(()) } else { Err(StoreError::Fields(errors)) }
}

/// Names and aliases of these sheets that another stored test has, or one of the sheets before it; each with the position of its
/// sheet.
///
/// # Errors
/// Database errors.
pub(crate) async fn taken_names(
    db: &impl ConnectionTrait,
    sheets: &[(TestId, &Sheet)],
) -> Result<Vec<(usize, FieldError)>, StoreError> {
    let keys: Vec<String> = sheets.iter().flat_map(|(_, sheet)| sheet.names()).map(name_key).collect();
    let found = taken_keys(db, &keys).await?;
    let owners: HashMap<String, TestId> = found.into_iter().map(|name| (name.key, name.test_id.into())).collect();
    let mut errors = Vec::new();
    let mut earlier: HashMap<String, usize> = HashMap::new();
    for (index, (id, sheet)) in sheets.iter().enumerate() {
        for (position, name) in sheet.names().enumerate() {
            let key = name_key(name);
            let stored = owners.get(&key).is_some_and(|owner| owner != id);
            if stored || *earlier.entry(key).or_insert(index) != index {
                errors.push((index, taken_name(position, sheet)));
            }
        }
    }
    Ok(errors)
}

async fn taken_keys(db: &impl ConnectionTrait, keys: &[String]) -> Result<Vec<test_name::Model>, StoreError> {
    let mut found = Vec::new();
    // A statement takes 65 535 values.
    for portion in keys.chunks(10_000) {
        found.extend(test_name::Entity::find().filter(test_name::Column::Key.is_in(portion.to_vec())).all(db).await?);
    }
    Ok(found)
}

fn taken_name(position: usize, sheet: &Sheet) -> FieldError {
    let field = if position == 0 { "name".to_owned() } else { format!("aliases[{}]", position - 1) };
    FieldError::new(
        field,
        FieldErrorCode::Duplicate,
        sheet.names().nth(position).unwrap_or_default(),
        "Another test already has this name or alias.",
        "Choose a name that tells the two apart, or edit the test that is there.",
    )
}

async fn insert_names(db: &impl ConnectionTrait, sheets: &[(TestId, &Sheet)]) -> Result<(), StoreError> {
    let rows = sheets.iter().flat_map(|(id, sheet)| {
        sheet.names().enumerate().map(|(position, label)| {
            let name = test_name::Model {
                key: name_key(label),
                test_id: id.0,
                position: i32::try_from(position).unwrap_or(i32::MAX),
                label: label.to_owned(),
            };
            name.into_active_model()
        })
    });
    let first = sheets.first().map_or("", |(_, sheet)| sheet.name.as_str());
    test_name::Entity::insert_many(rows).exec_without_returning(db).await.map_err(|error| refused(error, first))?;
    Ok(())
}

fn test_record(row: test::Model, condition: Option<condition::Model>) -> Result<TestRecord, StoreError> {
    let status = status(&row)?;
    let (id, version, published_version) = (TestId(row.id), row.version, row.published_version);
    let mut sheet = stored_sheet(id, row.sheet)?;
    let leading = condition.ok_or_else(|| damaged(id, "no condition".to_owned()))?.name;
    if sheet.condition != leading {
        let before = std::mem::take(&mut sheet.condition);
        sheet.rename_condition(&before, &leading);
        sheet.condition = leading;
    }
    Ok(TestRecord { id, version, sample: row.sample, status, published_version, sheet })
}
