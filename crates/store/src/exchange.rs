//! Bundles into the database, all of it or nothing, and out of it.

use std::collections::{HashMap, HashSet};

use pruvex_core::catalogue::{Region, Status, name_key};
use pruvex_core::evidence::Study;
use pruvex_core::{FieldError, FieldErrorCode};
use pruvex_formats::{Bundle, BundleTest};
use sea_orm::{ConnectionTrait, DatabaseConnection, TransactionTrait};
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

use crate::StoreError;
use crate::catalogue::{TestRecord, create_test, find_test, list_conditions, list_tests, put_condition, update_test};
use crate::evidence::{create_study, list_studies};
use crate::history::Act;
use crate::vocabulary::{create_structure, list_structures};

/// What to do with tests that are there already and say something else.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Meeting {
    /// Import nothing.
    Refuse,
    /// Keep what is there; only studies that are not there yet come in.
    Keep,
    /// Replace what is there by the bundle's sheet; its history keeps both.
    Replace,
    /// Replace only those of these names.
    Chosen(HashSet<String>),
}

/// How a test of a bundle meets what is there.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Fate {
    /// Nothing of this name is there.
    New,
    /// The very same sheet is there.
    Same,
    /// Another text is there under this name.
    Changed,
}

/// What became, or would become, of one test.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct ImportedTest {
    /// Its name.
    pub name: String,
    /// How it meets what is there.
    pub fate: Fate,
    /// Whether its sheet is written.
    pub written: bool,
    /// Studies that come in.
    pub studies: usize,
    /// Studies that are there already.
    pub known_studies: usize,
}

/// What an import brought, or would bring.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Imported {
    /// What the bundle calls itself.
    pub title: String,
    /// Its studies are made up.
    pub sample: bool,
    /// Conditions added or completed.
    pub conditions: usize,
    /// Structures added.
    pub structures: usize,
    /// Its tests in their order.
    pub tests: Vec<ImportedTest>,
}

impl Imported {
    /// Studies that come in.
    #[must_use]
    pub fn studies(&self) -> usize {
        self.tests.iter().map(|test| test.studies).sum()
    }
}

/// Imports a bundle in one transaction. With `preview` everything is tried and then taken back. Sample data that nobody asked
/// for by hand (`by` is none) counts as published; all else comes in as drafts.
///
/// # Errors
/// [`StoreError::Fields`] with every name that is taken and its path in the bundle; nothing is changed then.
pub async fn import(
    db: &DatabaseConnection,
    bundle: &Bundle,
    meeting: &Meeting,
    act: Act<'_>,
    preview: bool,
) -> Result<Imported, StoreError> {
    let transaction = db.begin().await?;
    let imported = bring(&transaction, bundle, meeting, act, preview).await?;
    if preview {
        transaction.rollback().await?;
    } else {
        transaction.commit().await?;
    }
    Ok(imported)
}

async fn bring(
    db: &impl ConnectionTrait,
    bundle: &Bundle,
    meeting: &Meeting,
    act: Act<'_>,
    preview: bool,
) -> Result<Imported, StoreError> {
    for condition in &bundle.conditions {
        put_condition(db, condition).await?;
    }
    let mut structures = 0;
    let known = list_structures(db, None).await?;
    let mut names: HashSet<(Region, String)> = known
        .iter()
        .flat_map(|record| record.structure.names().map(|name| (record.structure.region, name_key(name))))
        .collect();
    for structure in &bundle.structures {
        let keys: Vec<_> = structure.names().map(|name| (structure.region, name_key(name))).collect();
        if !keys.iter().any(|key| names.contains(key)) {
            create_structure(db, structure).await?;
            names.extend(keys);
            structures += 1;
        }
    }
    let mut errors = Vec::new();
    let mut tests = Vec::new();
    for (index, test) in bundle.tests.iter().enumerate() {
        match bring_test(db, test, bundle.sample, meeting, act, preview).await {
            Ok(imported) => tests.push(imported),
            Err(StoreError::Fields(found)) => {
                errors.extend(found.into_iter().map(|error| error.within(&format!("tests[{index}].sheet."))));
            }
            Err(error) => return Err(error),
        }
    }
    if errors.is_empty() {
        let (title, sample) = (bundle.title.clone(), bundle.sample);
        Ok(Imported { title, sample, conditions: bundle.conditions.len(), structures, tests })
    } else {
        Err(StoreError::Fields(errors))
    }
}

async fn bring_test(
    db: &impl ConnectionTrait,
    test: &BundleTest,
    sample: bool,
    meeting: &Meeting,
    act: Act<'_>,
    preview: bool,
) -> Result<ImportedTest, StoreError> {
    let name = test.sheet.name.clone();
    let (record, fate, written) = match find_test(db, &name).await? {
        None => (create_test(db, &test.sheet, sample, act).await?, Fate::New, true),
        Some(record) if record.sheet == test.sheet => (record, Fate::Same, false),
        Some(record) => {
            let replace = match meeting {
                Meeting::Refuse if !preview => {
                    let message = "A test of this name is there and says something else.";
                    let remedy = "Choose whether to keep it or to replace it.";
                    let error = FieldError::new("name", FieldErrorCode::Duplicate, &name, message, remedy);
                    return Err(StoreError::Fields(vec![error]));
                }
                Meeting::Refuse | Meeting::Keep => false,
                Meeting::Replace => true,
                Meeting::Chosen(names) => names.contains(&name_key(&name)),
            };
            let (id, version) = (record.id, record.version);
            let record = if replace { update_test(db, id, version, &test.sheet, act).await? } else { record };
            (record, Fate::Changed, replace)
        }
    };
    let known = if fate == Fate::New { Vec::new() } else { list_studies(db, &[record.id]).await? };
    let fresh: Vec<_> = test.studies.iter().filter(|study| !known.iter().any(|it| it.study == **study)).collect();
    for study in &fresh {
        create_study(db, record.id, study, sample, act).await?;
    }
    Ok(ImportedTest { name, fate, written, studies: fresh.len(), known_studies: test.studies.len() - fresh.len() })
}

/// Everything that is not retired, of one region or of all, as it stands.
///
/// # Errors
/// Database errors.
pub async fn export(db: &impl ConnectionTrait, region: Option<Region>, title: &str) -> Result<Bundle, StoreError> {
    let wanted = |of: Region| region.is_none_or(|region| region == of);
    let conditions = list_conditions(db).await?.into_iter().map(|record| record.condition);
    let structures = list_structures(db, region).await?.into_iter().map(|record| record.structure);
    let records: Vec<TestRecord> = list_tests(db)
        .await?
        .into_iter()
        .filter(|record| wanted(record.sheet.region) && record.status != Status::Retired)
        .collect();
    let ids: Vec<_> = records.iter().map(|record| record.id).collect();
    let mut sample = records.iter().any(|record| record.sample);
    let mut studies: HashMap<Uuid, Vec<Study>> = HashMap::new();
    for record in list_studies(db, &ids).await? {
        // One made-up study marks the whole file: a mark too many does no harm, one too few does.
        sample |= record.sample;
        studies.entry(record.test_id).or_default().push(record.study);
    }
    let tests = records
        .into_iter()
        .map(|record| BundleTest { studies: studies.remove(&record.id).unwrap_or_default(), sheet: record.sheet });
    Ok(Bundle {
        title: title.to_owned(),
        sample,
        tests: tests.collect(),
        conditions: conditions.filter(|condition| wanted(condition.region)).collect(),
        structures: structures.collect(),
    })
}
