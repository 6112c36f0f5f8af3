//! Tables of studies and results into the database.

use std::collections::{BTreeMap, HashMap, HashSet};

use chrono::Utc;
use pruvex_core::Probability;
use pruvex_core::accuracy::Arm;
use pruvex_core::catalogue::{Sheet, name_key};
use pruvex_core::evidence::{AccuracyResult, Study, Together};
use pruvex_core::{FieldError, FieldErrorCode, StudyId, TestId};
use pruvex_formats::{Named, ReadTable};
use sea_orm::sea_query::OnConflict;
use sea_orm::{ActiveValue::Set, ColumnTrait, ConnectionTrait, DatabaseTransaction, EntityTrait, QueryFilter};
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

use super::existing::Existing;
use crate::StoreError;
use crate::catalogue::{TestRecord, create_tests, taken_names, tests_by_any_name};
use crate::entities::column_choice;
use crate::evidence::{NewResult, create_results, create_studies, references_of_dois};
use crate::history::{Act, PORTION, alone};
use crate::landing::{ImportKind, Landing, Since};
use crate::progress::{ImportPhase, Step};
use crate::sql::with_values;

/// What a table brings to one test.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct TestResults {
    /// Its name.
    pub name: String,
    /// Results that come in.
    pub results: usize,
    /// Results that are there already.
    pub known_results: usize,
}

/// A row of a table as it was understood.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct TableRow {
    /// Its number in the file.
    pub row: u32,
    /// Name of the test.
    pub test: String,
    /// Where it was published.
    pub reference: String,
    /// The four cells.
    pub counts: pruvex_core::accuracy::Counts,
    /// Share of people with the condition in whom the test is positive.
    pub sensitivity: Option<Probability>,
    /// Share of people without it in whom the test is negative.
    pub specificity: Option<Probability>,
    /// It is on record already.
    pub known: bool,
}

/// What a table brought, or would bring.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct ImportedTable {
    /// Studies added.
    pub studies: usize,
    /// Studies that are there already.
    pub known_studies: usize,
    /// First rows of new studies under whose reference another study is on record: they may be of the same people.
    pub alike: Vec<u32>,
    /// Results added.
    pub results: usize,
    /// Results that are there already.
    pub known_results: usize,
    /// Test by test, in the order of their first rows.
    pub tests: Vec<TestResults>,
    /// The first rows, as they were understood.
    pub rows: Vec<TableRow>,
    /// All of it is made up.
    pub sample: bool,
    /// Names of sheets that come in as drafts, for tests that have none.
    pub drafts: Vec<String>,
    /// Reference standards under words that no result on record bears, the first of them.
    pub new_standards: Vec<NewStandard>,
}

/// A reference standard under words that no result on record bears.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct NewStandard {
    /// The words.
    pub words: String,
    /// In how many results they stand.
    pub results: usize,
    /// Words on record that are nearly the same, the nearest first.
    pub alike: Vec<String>,
}

/// So many of them are told.
const STANDARDS: usize = 20;

/// As many rows are shown before they are taken in.
const SHOWN: usize = 200;

/// Imports a table in this transaction, which it ends, or compares it with what is on record and changes nothing (without
/// `landing`). Studies and
/// results that are there word for word are left as they are. `drafts` are sheets for tests that have none; one whose name is taken by now is left
/// out. `step` is told what is done, and of how many; when it answers no, all is taken back and
/// nothing is answered.
///
/// # Errors
/// [`StoreError::Fields`] with every fault of the table, and every cell that names a test, a region or a reference that does not fit what
/// is on record.
pub async fn import_table(
    transaction: DatabaseTransaction,
    table: &ReadTable,
    drafts: &[Sheet],
    act: Act<'_>,
    landing: Option<Landing<'_>>,
    step: &Step<'_>,
) -> Result<Option<ImportedTable>, StoreError> {
    if landing.is_some() {
        alone(&transaction).await?;
    }
    let since = Since::now(&transaction).await?;
    let written = write_drafts(&transaction, drafts, act).await?;
    let plan = Plan::of(&transaction, table, written, step).await?;
    let written = match &plan {
        Some(plan) if landing.is_some() => plan.write(&transaction, act, step).await?,
        _ => true,
    };
    match plan {
        // The last moment to stop is before the transaction ends.
        Some(plan) if written && step(ImportPhase::Writing, plan.fresh.len(), plan.fresh.len()) => {
            match landing {
                Some(landing) => {
                    landing.keep(&transaction, ImportKind::Table, since, &[], act).await?;
                    transaction.commit().await?;
                }
                // Drafts were written for the comparison only.
                None => transaction.rollback().await?,
            }
            Ok(Some(plan.outcome))
        }
        _ => {
            transaction.rollback().await?;
            Ok(None)
        }
    }
}

/// What is to be written.
struct Plan<'a> {
    table: &'a ReadTable,
    /// By place in the table, those that are on record.
    known: HashMap<usize, StudyId>,
    /// Places of studies that are made up on record.
    made_up: HashSet<usize>,
    /// References of studies, by place in the table.
    works: HashMap<usize, Uuid>,
    /// Results that come in: their test, place of their study, and what they say.
    fresh: Vec<(TestId, usize, AccuracyResult, bool)>,
    outcome: ImportedTable,
}

impl<'a> Plan<'a> {
    async fn of(
        db: &impl ConnectionTrait,
        table: &'a ReadTable,
        drafts: Vec<String>,
        step: &Step<'_>,
    ) -> Result<Option<Self>, StoreError> {
        let total = table.results.len();
        if !step(ImportPhase::Comparing, 0, total) {
            return Ok(None);
        }
        let together = table.named.iter().filter_map(|it| it.together.as_ref()).flat_map(|it| &it.tests);
        let names = table.named.iter().map(|it| &it.test).chain(together).map(String::as_str);
        let tests = tests_by_any_name(db, names.collect::<HashSet<_>>().into_iter()).await?;
        let dois = table.named.iter().map(|it| it.doi.as_str()).filter(|doi| !doi.is_empty()).collect();
        let references = references_of_dois(db, &dois).await?;
        let errors = table.all_faults(unmet(table, &tests, &references));
        if !errors.is_empty() {
            return Err(StoreError::Fields(errors));
        }
        let met: HashSet<TestId> = tests.values().map(|test| test.id).collect();
        let met: Vec<TestId> = met.into_iter().collect();
        let there = Existing::read(db, table.studies.iter().map(|it| &it.study), &met).await?;
        let works = table.studies.iter().enumerate();
        let works = works.filter_map(|(place, it)| Some((place, *references.get(&it.doi)?))).collect();
        let outcome = ImportedTable {
            studies: 0,
            known_studies: there.studies.len(),
            alike: Vec::new(),
            results: 0,
            known_results: 0,
            tests: Vec::new(),
            rows: Vec::new(),
            sample: table.studies.iter().all(|it| it.sample),
            drafts,
            new_standards: Vec::new(),
        };
        let mut plan =
            Self { table, known: HashMap::new(), made_up: HashSet::new(), works, fresh: Vec::new(), outcome };
        let mut places: HashMap<TestId, usize> = HashMap::new();
        for (done, it) in table.results.iter().enumerate() {
            if done % PORTION == 0 && !step(ImportPhase::Comparing, done, total) {
                return Ok(None);
            }
            let Some(test) = tests.get(&name_key(&it.test)) else { continue };
            let mut result = it.result.clone();
            result.together = it.together.as_ref().map(|together| Together {
                tests: together.tests.iter().filter_map(|name| Some(tests.get(&name_key(name))?.id)).collect(),
                rule: together.rule,
            });
            if name_key(&result.condition) == name_key(&test.sheet.condition) {
                result.condition.clear();
            }
            let known = there.knows_result(test.id, it.study, &result);
            let place = *places.entry(test.id).or_insert(plan.outcome.tests.len());
            if place == plan.outcome.tests.len() {
                let name = test.sheet.name.clone();
                plan.outcome.tests.push(TestResults { name, results: 0, known_results: 0 });
            }
            let of_test = &mut plan.outcome.tests[place];
            *(if known { &mut of_test.known_results } else { &mut of_test.results }) += 1;
            if plan.outcome.rows.len() < SHOWN {
                plan.outcome.rows.push(TableRow {
                    row: it.row,
                    test: test.sheet.name.clone(),
                    reference: table.studies[it.study].study.reference.clone(),
                    counts: result.counts,
                    sensitivity: result.counts.diseased().and_then(share),
                    specificity: result.counts.non_diseased().and_then(share),
                    known,
                });
            }
            if !known {
                plan.fresh.push((test.id, it.study, result, it.sample));
            }
        }
        let used: HashSet<usize> = plan.fresh.iter().map(|(_, study, ..)| *study).collect();
        let mut new: Vec<usize> = used.into_iter().filter(|place| !there.studies.contains_key(place)).collect();
        new.sort_unstable();
        plan.outcome.studies = new.len();
        let new = new.into_iter().map(|place| &table.studies[place]);
        let alike = new.filter(|it| there.reported.contains(&it.study.reference.to_lowercase()));
        plan.outcome.alike = alike.map(|it| it.row).collect();
        plan.outcome.results = plan.fresh.len();
        plan.outcome.known_results = total - plan.fresh.len();
        plan.outcome.new_standards = new_standards(db, plan.fresh.iter().map(|(_, _, result, _)| result)).await?;
        plan.made_up = there.made_up;
        plan.known = there.studies;
        Ok(Some(plan))
    }

    /// Writes it, a portion at a time; answers whether it came to the end.
    async fn write(&self, db: &impl ConnectionTrait, act: Act<'_>, step: &Step<'_>) -> Result<bool, StoreError> {
        let mut studies = self.known.clone();
        for (number, portion) in self.fresh.chunks(PORTION).enumerate() {
            if !step(ImportPhase::Writing, number * PORTION, self.fresh.len()) {
                return Ok(false);
            }
            let mut places: Vec<usize> = Vec::new();
            for (_, place, ..) in portion {
                if !studies.contains_key(place) && !places.contains(place) {
                    places.push(*place);
                }
            }
            let read = |place: &usize| {
                let it = &self.table.studies[*place];
                (it.study.clone().published_as(self.works.get(place).copied()), it.sample)
            };
            let new: Vec<(Study, bool)> = places.iter().map(read).collect();
            let new: Vec<(&Study, bool)> = new.iter().map(|(study, sample)| (study, *sample)).collect();
            let added = create_studies(db, &new, act).await?;
            studies.extend(places.into_iter().zip(added.into_iter().map(|record| record.id)));
            let new = portion.iter().map(|(test_id, place, result, sample)| NewResult {
                test_id: *test_id,
                study_id: studies.get(place).copied().unwrap_or_default(),
                result,
                // What is found in made-up people is made up.
                sample: *sample || self.made_up.contains(place) || self.table.studies[*place].sample,
            });
            create_results(db, &new.collect::<Vec<_>>(), act).await?;
        }
        Ok(true)
    }
}

/// Writes the sheets whose names nobody has yet; answers their names.
async fn write_drafts(db: &impl ConnectionTrait, drafts: &[Sheet], act: Act<'_>) -> Result<Vec<String>, StoreError> {
    if drafts.is_empty() {
        return Ok(Vec::new());
    }
    alone(db).await?;
    let there = tests_by_any_name(db, drafts.iter().map(|sheet| sheet.name.as_str())).await?;
    let fresh: Vec<&Sheet> = drafts.iter().filter(|sheet| !there.contains_key(&name_key(&sheet.name))).collect();
    let named: Vec<(TestId, &Sheet)> = fresh.iter().map(|sheet| (TestId::default(), *sheet)).collect();
    let taken = taken_names(db, &named).await?;
    if !taken.is_empty() {
        let placed = |(place, error): (usize, FieldError)| error.within(&format!("drafts[{place}]."));
        return Err(StoreError::Fields(taken.into_iter().map(placed).collect()));
    }
    let sheets: Vec<(&Sheet, bool)> = fresh.iter().map(|sheet| (*sheet, false)).collect();
    create_tests(db, &sheets, act).await?;
    Ok(fresh.into_iter().map(|sheet| sheet.name.clone()).collect())
}

/// The reference standards of these results that no result on record names so, those of most results first.
async fn new_standards(
    db: &impl ConnectionTrait,
    results: impl Iterator<Item = &AccuracyResult>,
) -> Result<Vec<NewStandard>, StoreError> {
    let mut counted: BTreeMap<&str, usize> = BTreeMap::new();
    for result in results.filter(|it| !it.reference_standard.is_empty()) {
        *counted.entry(&result.reference_standard).or_default() += 1;
    }
    const KNOWN: &str = "SELECT DISTINCT lower(reference_standard) FROM accuracy_result WHERE deleted_at IS NULL
        AND lower(reference_standard) = ANY ($1)";
    const ALIKE: &str = "SELECT reference_standard FROM accuracy_result
        WHERE deleted_at IS NULL AND similarity(reference_standard, $1) > 0.3
        GROUP BY reference_standard ORDER BY similarity(reference_standard, $1) DESC, reference_standard LIMIT 3";
    let words: Vec<String> = counted.keys().map(|words| words.to_lowercase()).collect();
    let text = |row: sea_orm::QueryResult| row.try_get_by_index::<String>(0);
    let known = db.query_all_raw(with_values(KNOWN, [words.into()])).await?;
    let known: HashSet<String> = known.into_iter().map(text).collect::<Result<_, _>>()?;
    let mut fresh: Vec<(&str, usize)> =
        counted.into_iter().filter(|(words, _)| !known.contains(&words.to_lowercase())).collect();
    fresh.sort_by_key(|(words, results)| (std::cmp::Reverse(*results), *words));
    let mut standards = Vec::new();
    for (words, results) in fresh.into_iter().take(STANDARDS) {
        let alike = db.query_all_raw(with_values(ALIKE, [words.into()])).await?;
        let alike = alike.into_iter().map(text).collect::<Result<_, _>>()?;
        standards.push(NewStandard { words: words.to_owned(), results, alike });
    }
    Ok(standards)
}

fn share(arm: Arm) -> Option<Probability> {
    Probability::new(arm.correct as f64 / arm.n as f64).ok()
}

/// Every cell that names something that is not on record, or not so.
fn unmet(
    table: &ReadTable,
    tests: &HashMap<String, TestRecord>,
    references: &HashMap<String, Uuid>,
) -> Vec<FieldError> {
    let mut errors = Vec::new();
    let mut refuse = |row: u32, field: &str, code, value: &str, message: String, remedy: &str| {
        errors.push(FieldError::new(table.place(row, field), code, value, message, remedy));
    };
    for Named { row, test: name, region, doi, together } in &table.named {
        if !doi.is_empty() && !references.contains_key(doi) {
            let remedy = "Import its reference first, or leave this column out.";
            let message = "No reference on record has this DOI.".to_owned();
            refuse(*row, "doi", FieldErrorCode::Unknown, doi, message, remedy);
        }
        let test = tests.get(&name_key(name));
        if test.is_none() && !name.is_empty() {
            let remedy = "Write the name of a sheet, or write a sheet for the test first.";
            let message = "The catalogue has no test of this name.".to_owned();
            refuse(*row, "test", FieldErrorCode::Unknown, name, message, remedy);
        }
        if let (Some(region), Some(own)) = (region, test.map(|test| test.sheet.region))
            && *region != own
        {
            let message = format!("The sheet of this test belongs to {}.", own.code());
            refuse(*row, "region", FieldErrorCode::Invalid, region.code(), message, "Compare the test and the region.");
        }
        for name in together.iter().flat_map(|together| &together.tests) {
            let (code, message) = match tests.get(&name_key(name)) {
                None => (FieldErrorCode::Unknown, "The catalogue has no test of this name."),
                Some(other) if test.is_some_and(|test| test.id == other.id) => {
                    (FieldErrorCode::Duplicate, "This is the test of the row itself.")
                }
                Some(_) => continue,
            };
            refuse(*row, "together", code, name, message.to_owned(), "Write the names of the other tests' sheets.");
        }
    }
    errors
}

/// What this account took columns of these names to hold: a field, or nothing for one that was left out.
///
/// # Errors
/// Database errors.
pub async fn chosen_columns_of(
    db: &impl ConnectionTrait,
    account: Uuid,
) -> Result<HashMap<String, Option<String>>, StoreError> {
    let rows = column_choice::Entity::find().filter(column_choice::Column::AccountId.eq(account)).all(db).await?;
    Ok(rows.into_iter().map(|row| (row.header, row.field)).collect())
}

/// Keeps what this account took columns to hold, in the place of what was kept before.
///
/// # Errors
/// Database errors.
pub async fn remember_columns(
    db: &impl ConnectionTrait,
    account: Uuid,
    chosen: &[(String, Option<String>)],
) -> Result<(), StoreError> {
    // The last of two columns of one name, so that no row is written twice in one statement.
    let chosen: BTreeMap<&String, &Option<String>> = chosen.iter().map(|(header, field)| (header, field)).collect();
    if chosen.is_empty() {
        return Ok(());
    }
    let rows = chosen.into_iter().map(|(header, field)| column_choice::ActiveModel {
        account_id: Set(account),
        header: Set(header.clone()),
        field: Set(field.clone()),
        at: Set(Utc::now()),
    });
    let meeting = OnConflict::columns([column_choice::Column::AccountId, column_choice::Column::Header])
        .update_columns([column_choice::Column::Field, column_choice::Column::At])
        .to_owned();
    column_choice::Entity::insert_many(rows).on_conflict(meeting).exec_without_returning(db).await?;
    Ok(())
}
