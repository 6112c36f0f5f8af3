//! Imports that landed, and how one is taken back: all of it or nothing, while nobody has changed it or built on it.

use std::collections::{HashMap, HashSet};

use chrono::{DateTime, Utc};
use pruvex_core::catalogue::{Region, Sheet, Status, name_key};
use pruvex_core::{FieldError, FieldErrorCode, TestId};
use sea_orm::{
    ActiveModelTrait, ActiveValue::Set, ConnectionTrait, EntityTrait, FromQueryResult, IntoActiveModel, QueryOrder,
    QuerySelect, Value,
};
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

use crate::StoreError;
use crate::catalogue::{SHOWS, get_test, page_tests, restore_test, search_names, search_text};
use crate::condition::restore_condition;
use crate::entities::{import, test};
use crate::evidence::names;
use crate::history::{Act, Kind, alone};
use crate::landing::ImportKind;
use crate::sql::with_values;
use crate::vocabulary::list_structures;

/// How many of an import's records came new.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, ToSchema)]
pub struct Brought {
    /// Sheets.
    pub tests: u64,
    /// Studies.
    pub studies: u64,
    /// Results of accuracy.
    pub results: u64,
    /// Agreement results.
    pub agreements: u64,
    /// References.
    pub references: u64,
    /// Conditions.
    pub conditions: u64,
    /// Structures.
    pub structures: u64,
    /// Entries of the register of conflicting teaching.
    pub teaching_conflicts: u64,
    /// Plans of examinations.
    pub plans: u64,
    /// Records that were there and were changed.
    pub changed: u64,
}

/// An import that landed.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct PastImport {
    /// Id.
    pub id: Uuid,
    /// What kind of file it was.
    pub kind: ImportKind,
    /// Name of the file, or the title that it gave itself.
    pub name: String,
    /// Who brought it; none for the installation.
    pub account: Option<Uuid>,
    /// Their name.
    pub by: Option<String>,
    /// When.
    pub at: DateTime<Utc>,
    /// What came.
    pub brought: Brought,
    /// When and by whom it was taken back.
    pub taken_back: Option<(DateTime<Utc>, String)>,
}

/// Who looks further back looks at the histories of records.
const MOST: u64 = 200;
/// So many reasons against taking back are told.
const TOLD: usize = 20;

/// The newest imports that landed, the newest first.
///
/// # Errors
/// Database errors.
pub async fn list_past_imports(db: &impl ConnectionTrait) -> Result<Vec<PastImport>, StoreError> {
    let rows = import::Entity::find().order_by_desc(import::Column::At).order_by_desc(import::Column::Id);
    let rows = rows.limit(MOST).all(db).await?;
    let people = rows.iter().flat_map(|row| row.account_id.into_iter().chain(row.taken_back_by));
    let people = names(db, people).await?;
    rows.into_iter().map(|row| past(row, &people)).collect()
}

/// One import that landed.
///
/// # Errors
/// [`StoreError::NotFound`], database errors.
pub async fn get_past_import(db: &impl ConnectionTrait, id: Uuid) -> Result<PastImport, StoreError> {
    let row = found(import::Entity::find_by_id(id).one(db).await?, id)?;
    let people = names(db, row.account_id.into_iter().chain(row.taken_back_by)).await?;
    past(row, &people)
}

fn found(row: Option<import::Model>, id: Uuid) -> Result<import::Model, StoreError> {
    row.ok_or(StoreError::not_found("import", id))
}

fn past(row: import::Model, people: &HashMap<Uuid, String>) -> Result<PastImport, StoreError> {
    let kind = ImportKind::from_code(&row.kind).ok_or_else(|| StoreError::Damaged {
        what: "import",
        id: row.id,
        why: "unknown kind".to_owned(),
    })?;
    let count = |name: &str| row.brought[name].as_u64().unwrap_or(0);
    let brought = Brought {
        tests: count("test"),
        studies: count("study"),
        results: count("result"),
        agreements: count("agreement"),
        references: count("reference"),
        conditions: count("condition"),
        structures: count("structure"),
        teaching_conflicts: count("teaching_conflict"),
        plans: count("plan"),
        changed: count("changed"),
    };
    let name_of = |id: Option<Uuid>| id.and_then(|id| people.get(&id).cloned());
    let taken_back = row.taken_back_at.map(|at| (at, name_of(row.taken_back_by).unwrap_or_default()));
    let by = name_of(row.account_id);
    Ok(PastImport { id: row.id, kind, name: row.name, account: row.account_id, by, at: row.at, brought, taken_back })
}

/// Takes an import back: what it added goes, what it changed says what it said before. Histories keep both. Call within a transaction.
///
/// # Errors
/// [`StoreError::Fields`] with everything that was changed or built on it since, or when it was taken back already;
/// [`StoreError::NotFound`], database errors. Nothing is changed then.
pub async fn take_back(db: &impl ConnectionTrait, id: Uuid, by: Uuid) -> Result<(), StoreError> {
    alone(db).await?;
    let row = found(import::Entity::find_by_id(id).lock_exclusive().one(db).await?, id)?;
    if row.taken_back_at.is_some() {
        return Err(StoreError::Fields(vec![against(&row.name, "This import was undone already.", "")]));
    }
    let own = Own { db, span: [row.first_seq.into(), row.last_seq.into()] };
    let extractions: Vec<Uuid> = serde_json::from_value(row.extractions.clone()).unwrap_or_default();
    let reasons = own.reasons(&extractions).await?;
    if !reasons.is_empty() {
        return Err(StoreError::Fields(reasons));
    }
    let act = Act::of("taken_back", Some(by));
    own.restore(act).await?;
    own.delete(&extractions, by).await?;
    let mut row = row.into_active_model();
    row.taken_back_at = Set(Some(Utc::now()));
    row.taken_back_by = Set(Some(by));
    row.update(db).await?;
    Ok(())
}

fn against(what: &str, message: &str, remedy: &str) -> FieldError {
    FieldError::new("import", FieldErrorCode::Invalid, what, message, remedy)
}

/// What an import changed, by the numbers of its changes.
struct Own<'a, Db> {
    db: &'a Db,
    span: [Value; 2],
}

/// A record that stands in the way, or that was changed.
#[derive(FromQueryResult)]
struct Standing {
    what: String,
    by: Option<String>,
}

/// A record that the import changed, and its version before.
#[derive(FromQueryResult)]
struct Changed {
    kind: String,
    record_id: Uuid,
    before: i32,
    now: i32,
}

/// Ids of what the import added of a kind.
fn added(kind: Kind) -> String {
    let code = kind.code();
    format!("(SELECT record_id FROM revision WHERE kind = '{code}' AND version = 1 AND seq BETWEEN $1 AND $2)")
}

impl<Db: ConnectionTrait> Own<'_, Db> {
    /// Everything that was changed or built on it since.
    async fn reasons(&self, extractions: &[Uuid]) -> Result<Vec<FieldError>, StoreError> {
        let [test, study, result] = [Kind::Test, Kind::Study, Kind::Result].map(added);
        let [agreement, appraisal, reference] = [Kind::Agreement, Kind::Appraisal, Kind::Reference].map(added);
        let [condition, conflict, plan] = [Kind::Condition, Kind::TeachingConflict, Kind::Plan].map(added);
        let entered = "Delete it first, if it may go.";
        let rests = "Results that rest on the import keep it on record.";
        let checks = [
            (
                // What a later import changed, and was undone, says again what this one brought.
                "SELECT what, by FROM (
                    SELECT DISTINCT ON (later.kind, later.record_id) coalesce(later.content->>'name',
                        later.content->>'title', later.content->>'reference', later.content->>'question',
                        (SELECT sheet->>'name' FROM test JOIN accuracy_result ON test_id = test.id
                            WHERE accuracy_result.id = later.record_id),
                        (SELECT sheet->>'name' FROM test JOIN agreement ON test_id = test.id
                            WHERE agreement.id = later.record_id), '') AS what,
                        account.name AS by, later.action = 'taken_back' AND later.content = own.content AS same
                    FROM revision own JOIN revision later USING (kind, record_id)
                        LEFT JOIN account ON account.id = later.account_id
                    WHERE own.seq BETWEEN $1 AND $2 AND later.seq > $2
                    ORDER BY later.kind, later.record_id, later.seq DESC, own.seq DESC) newest
                WHERE NOT same"
                    .to_owned(),
                "It was changed since.",
                "What somebody has worked on stays: delete or correct it one by one.",
            ),
            (
                format!(
                    "SELECT sheet->>'name' AS what, NULL AS by FROM accuracy_result it JOIN test ON test.id = it.test_id
                    WHERE it.id NOT IN {result} AND (it.test_id IN {test} OR it.study_id IN {study}
                        OR it.condition_id IN {condition} OR EXISTS (SELECT FROM
                        jsonb_array_elements_text(coalesce(it.together->'tests', '[]')) named WHERE named::uuid IN {test}))"
                ),
                "A result of this test was entered since, from the import's studies or beside its results.",
                rests,
            ),
            (
                format!(
                    "SELECT sheet->>'name' AS what, NULL AS by FROM agreement it JOIN test ON test.id = it.test_id
                    WHERE it.id NOT IN {agreement} AND (it.test_id IN {test} OR it.study_id IN {study})"
                ),
                "An agreement result of this test was entered since.",
                rests,
            ),
            (
                format!(
                    "SELECT reference AS what, NULL AS by FROM appraisal it JOIN study ON study.id = it.study_id
                    WHERE it.study_id IN {study} AND it.id NOT IN {appraisal}"
                ),
                "This study was appraised since.",
                rests,
            ),
            (
                format!(
                    "SELECT reference AS what, NULL AS by FROM study WHERE reference_id IN {reference} AND id NOT IN {study}"
                ),
                "This study cites a reference of the import.",
                "Let it cite another one first.",
            ),
            (
                format!(
                    "SELECT it.reference AS what, account.name AS by FROM double_extraction it
                    LEFT JOIN account ON account.id = it.created_by
                    WHERE (it.test_id IN {test} OR it.reference_id IN {reference} OR it.result_id IN {result})
                        AND it.id <> ALL ($3)"
                ),
                "A double extraction of this report was begun since.",
                entered,
            ),
            (
                "SELECT it.reference AS what, NULL AS by FROM double_extraction it
                        JOIN import ON import.first_seq = $1 AND import.last_seq = $2
                            AND import.extractions @> to_jsonb(it.id::text)
                    WHERE it.id = ANY ($3) AND greatest(it.updated_at, (SELECT max(updated_at) FROM extraction
                        WHERE double_extraction_id = it.id)) > import.at"
                    .to_owned(),
                "This double extraction was worked on since.",
                entered,
            ),
            (
                format!(
                    "SELECT it.content->>'question' AS what, NULL AS by FROM teaching_conflict it
                    WHERE it.id NOT IN {conflict} AND it.deleted_at IS NULL AND EXISTS (SELECT FROM
                        jsonb_array_elements_text(it.content->'tests') named WHERE named::uuid IN {test})"
                ),
                "This entry of the register of conflicting teaching names a test of the import.",
                "Take the test out of it first.",
            ),
            (
                // As it stands or as it was signed off.
                format!(
                    "SELECT it.content->>'title' AS what, NULL AS by FROM examination_plan it
                    WHERE it.id NOT IN {plan} AND (EXISTS (SELECT FROM jsonb_array_elements((it.content->'tests')
                            || coalesce(it.published->'tests', '[]')) named WHERE (named->>'test')::uuid IN {test})
                        OR EXISTS (SELECT FROM condition, jsonb_array_elements((it.content->'questions')
                            || coalesce(it.published->'questions', '[]')) asked WHERE condition.id IN {condition}
                            AND condition.region = it.region AND lower(asked->>'condition') IN (name_key, lower(name))))"
                ),
                "This plan of an examination names a test or a condition of the import.",
                "Take it out of the plan first.",
            ),
            (
                format!(
                    "SELECT DISTINCT sheet->>'name' AS what, NULL AS by FROM test, condition
                    WHERE condition.id IN {condition} AND {SHOWS} AND test.id NOT IN {test}"
                ),
                "This sheet's condition came with the import.",
                "Give it another condition first.",
            ),
            (
                format!(
                    "SELECT it.content->>'title' AS what, account.name AS by FROM pool_snapshot it
                    LEFT JOIN account ON account.id = it.created_by
                    WHERE EXISTS (SELECT FROM jsonb_array_elements(it.content->'results') of WHERE (of->>'id')::uuid IN {result})
                        OR EXISTS (SELECT FROM jsonb_array_elements(it.content->'tests') of WHERE (of->>'id')::uuid IN {test})"
                ),
                "This frozen pool rests on the import.",
                "Frozen pools are never changed, so that the import stays on record.",
            ),
            (
                "SELECT coalesce(content->>'name', (SELECT coalesce(it.content->>'name', it.content->>'title',
                        it.content->>'reference') FROM revision it WHERE it.record_id = unsaved.record_id
                        ORDER BY seq DESC LIMIT 1), '') AS what, account.name AS by FROM unsaved
                JOIN account ON account.id = unsaved.account_id
                WHERE record_id IN (SELECT record_id FROM revision WHERE seq BETWEEN $1 AND $2)"
                    .to_owned(),
                "There are unsaved changes to it.",
                "Let them save or discard their changes.",
            ),
        ];
        let mut reasons = Vec::new();
        for (query, message, remedy) in checks {
            let limited = format!("{query} LIMIT {TOLD}");
            let [first, last] = self.span.clone();
            // What a statement does not name cannot be handed to it.
            let values =
                if query.contains("$3") { vec![first, last, extractions.to_vec().into()] } else { vec![first, last] };
            for Standing { what, by } in Standing::find_by_statement(with_values(&limited, values)).all(self.db).await?
            {
                let message = by.map_or(message.to_owned(), |name| format!("{message} (by {name})"));
                reasons.push(against(&what, &message, remedy));
            }
        }
        reasons.extend(self.named_structures().await?);
        reasons.truncate(TOLD);
        Ok(reasons)
    }

    /// Sheets of others that name structures which came with the import: they name them by words.
    async fn named_structures(&self) -> Result<Vec<FieldError>, StoreError> {
        let brought: HashSet<Uuid> = self.ids(Kind::Structure).await?.into_iter().collect();
        let mut reasons = Vec::new();
        if brought.is_empty() {
            return Ok(reasons);
        }
        let structures = list_structures(self.db, None).await?;
        let named = structures.iter().filter(|record| brought.contains(&record.id)).map(|record| &record.structure);
        let keys: HashSet<(Region, String)> =
            named.flat_map(|it| it.names().map(|name| (it.region, name_key(name)))).collect();
        let own: HashSet<Uuid> = self.ids(Kind::Test).await?.into_iter().collect();
        let mut last = None;
        loop {
            let page = page_tests(self.db, last).await?;
            let Some(end) = page.last() else { break };
            last = Some(end.id);
            let names = |sheet: &Sheet| {
                let mut targets = sheet.variants.iter().flat_map(|variant| &variant.targets);
                targets.any(|target| keys.contains(&(sheet.region, name_key(&target.structure))))
            };
            let others = page.iter().filter(|test| !own.contains(&test.id.0) && names(&test.sheet));
            reasons.extend(others.map(|test| {
                let remedy = "Name another structure there first.";
                against(&test.sheet.name, "This sheet names a structure of the import.", remedy)
            }));
        }
        Ok(reasons)
    }

    async fn ids(&self, kind: Kind) -> Result<Vec<Uuid>, StoreError> {
        #[derive(FromQueryResult)]
        struct Row {
            record_id: Uuid,
        }
        let query = added(kind);
        let query = query.trim_start_matches('(').trim_end_matches(')');
        let rows = Row::find_by_statement(with_values(query, self.span.clone())).all(self.db).await?;
        Ok(rows.into_iter().map(|row| row.record_id).collect())
    }

    /// Brings back what records said that were there before.
    async fn restore(&self, act: Act<'_>) -> Result<(), StoreError> {
        const CHANGED: &str = "SELECT kind, record_id, min(version) - 1 AS before,
            (SELECT max(version) FROM revision it WHERE (it.kind, it.record_id) = (own.kind, own.record_id)) AS now
            FROM revision own WHERE seq BETWEEN $1 AND $2 GROUP BY kind, record_id HAVING min(version) > 1";
        for it in Changed::find_by_statement(with_values(CHANGED, self.span.clone())).all(self.db).await? {
            let Changed { kind, record_id, before, now } = it;
            if kind == Kind::Condition.code() {
                restore_condition(self.db, record_id, now, before, act).await?;
            } else if kind == Kind::Test.code() {
                self.restore_test(TestId(record_id), now, before, act).await?;
            } else {
                let why = format!("an import changed a {kind}, which no import does");
                return Err(StoreError::Damaged { what: "import", id: record_id, why });
            }
        }
        Ok(())
    }

    /// A text that was published before the import is published again: it is the same one.
    async fn restore_test(&self, id: TestId, now: i32, before: i32, act: Act<'_>) -> Result<(), StoreError> {
        let published = get_test(self.db, id).await?.published_version == Some(before);
        let restored = restore_test(self.db, id, now, before, act).await?;
        if published {
            let row = test::ActiveModel {
                id: Set(id.0),
                status: Set(Status::Published.code().to_owned()),
                published_version: Set(Some(restored.version)),
                taught_names: Set(search_names(&restored.sheet)),
                taught_text: Set(search_text(&restored.sheet)),
                ..Default::default()
            };
            row.update(self.db).await?;
        }
        Ok(())
    }

    /// Deletes what the import added, those first that point to others, and says so in the histories.
    async fn delete(&self, extractions: &[Uuid], by: Uuid) -> Result<(), StoreError> {
        for query in [
            "DELETE FROM extraction WHERE double_extraction_id = ANY ($1)",
            "DELETE FROM double_extraction WHERE id = ANY ($1)",
        ] {
            self.db.execute_raw(with_values(query, [extractions.to_vec().into()])).await?;
        }
        let tables = [
            (Kind::Plan, "examination_plan"),
            (Kind::TeachingConflict, "teaching_conflict"),
            (Kind::Agreement, "agreement"),
            (Kind::Result, "accuracy_result"),
            (Kind::Appraisal, "appraisal"),
            (Kind::Study, "study"),
            (Kind::Test, "test"),
            (Kind::Reference, "reference"),
            (Kind::Structure, "structure"),
            (Kind::Condition, "condition"),
        ];
        for (kind, table) in tables {
            let query = format!("DELETE FROM {table} WHERE id IN {}", added(kind));
            self.db.execute_raw(with_values(&query, self.span.clone())).await?;
        }
        const KEPT: &str = "INSERT INTO revision (kind, record_id, version, action, comment, content, account_id, at)
            SELECT DISTINCT ON (kind, record_id) kind, record_id, version + 1, 'taken_back', '', content, $3, now()
            FROM revision WHERE (kind, record_id) IN (SELECT kind, record_id FROM revision
                WHERE seq BETWEEN $1 AND $2 AND version = 1) ORDER BY kind, record_id, version DESC";
        let [first, last] = self.span.clone();
        self.db.execute_raw(with_values(KEPT, [first, last, by.into()])).await?;
        Ok(())
    }
}
