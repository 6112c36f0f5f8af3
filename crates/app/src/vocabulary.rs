//! The structures and conditions that sheets may name, and which tests load a structure.

use std::collections::{HashMap, HashSet};

use pruvex_core::TestId;
use pruvex_core::catalogue::{Condition, ConditionInput, LoadRole, Region, Structure, StructureInput, name_key};
use pruvex_store::catalogue::{follow_condition, tests_for};
use pruvex_store::condition::{self, ConditionRecord};
use pruvex_store::history::Act;
use pruvex_store::plan::follow_condition_in_plans;
use pruvex_store::vocabulary::{self as store, StructureRecord};
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

use crate::app::commit;
use crate::people::{Reader, SheetWriter};
use crate::{App, AppError, Versioned};

/// A structure with its id and version.
#[derive(Debug, Serialize, ToSchema)]
pub struct StructureView {
    id: Uuid,
    version: i32,
    #[serde(flatten)]
    structure: Structure,
}

impl From<StructureRecord> for StructureView {
    fn from(StructureRecord { id, version, structure }: StructureRecord) -> Self {
        Self { id, version, structure }
    }
}

impl Versioned for StructureView {
    fn version(&self) -> i32 {
        self.version
    }
}

/// A condition with its id.
#[derive(Debug, Serialize, ToSchema)]
pub struct ConditionView {
    id: Uuid,
    version: i32,
    /// How many tests are meant to show it.
    tests: usize,
    #[serde(flatten)]
    condition: Condition,
}

impl ConditionView {
    fn new(ConditionRecord { id, version, condition }: ConditionRecord, tests: usize) -> Self {
        Self { id, version, tests, condition }
    }
}

impl Versioned for ConditionView {
    fn version(&self) -> i32 {
        self.version
    }
}

/// A structure in the list.
#[derive(Debug, Serialize, ToSchema)]
pub struct StructureRow {
    #[serde(flatten)]
    view: StructureView,
    /// How many tests load it.
    tests: usize,
}

/// A test that loads a structure.
#[derive(Debug, Serialize, ToSchema)]
pub struct LoadingTest {
    id: TestId,
    name: String,
    region: Region,
    variant: String,
    /// Empty when it holds throughout.
    phase: String,
    role: Option<LoadRole>,
}

/// The vocabulary of one region or of all, head to foot, by name.
pub async fn list_structures(app: &App, by: &Reader, region: Option<Region>) -> Result<Vec<StructureRow>, AppError> {
    let catalogue = app.catalogue().await?;
    let mut loading: HashMap<&str, HashSet<TestId>> = HashMap::new();
    for row in catalogue.rows(by.role()) {
        for target in &row.targets {
            loading.entry(&target.key).or_default().insert(row.id);
        }
    }
    let row = |record: &StructureRecord| {
        let names = record.structure.names().map(name_key);
        let tests: HashSet<&TestId> = names.filter_map(|key| loading.get(key.as_str())).flatten().collect();
        StructureRow { tests: tests.len(), view: record.clone().into() }
    };
    let wanted = |record: &&StructureRecord| region.is_none_or(|region| record.structure.region == region);
    Ok(store::list_structures(&app.db, None).await?.iter().filter(wanted).map(row).collect())
}

/// Tests that load a structure, under any of its names, with the role.
pub async fn list_loading_tests(app: &App, by: &Reader, id: Uuid) -> Result<Vec<LoadingTest>, AppError> {
    let catalogue = app.catalogue().await?;
    let structures = store::list_structures(&app.db, None).await?;
    let found = structures.iter().find(|record| record.id == id);
    let structure = &found.ok_or(AppError::not_found("structure", id))?.structure;
    let keys: Vec<String> = structure.names().map(name_key).collect();
    let tests = catalogue.rows(by.role()).flat_map(|row| {
        row.targets.iter().filter(|target| keys.contains(&target.key)).map(|target| LoadingTest {
            id: row.id,
            name: row.name.clone(),
            region: row.region,
            variant: target.variant.clone(),
            phase: target.phase.clone(),
            role: target.role,
        })
    });
    Ok(tests.collect())
}

/// Adds a structure.
pub async fn create_structure(app: &App, by: &SheetWriter, input: StructureInput) -> Result<StructureView, AppError> {
    let structure = Structure::check(&input).map_err(AppError::Fields)?;
    let transaction = app.begin().await?;
    let record = store::create_structure(&transaction, &structure, Act::of("created", Some(by.id()))).await?;
    commit(transaction).await?;
    Ok(record.into())
}

/// Saves a structure that was read at this version.
pub async fn update_structure(
    app: &App,
    by: &SheetWriter,
    id: Uuid,
    version: i32,
    input: StructureInput,
) -> Result<StructureView, AppError> {
    let structure = Structure::check(&input).map_err(AppError::Fields)?;
    let transaction = app.begin().await?;
    let act = Act::of("edited", Some(by.id()));
    let record = store::update_structure(&transaction, id, version, &structure, act).await?;
    commit(transaction).await?;
    Ok(record.into())
}

/// All target conditions by name.
///
/// # Errors
/// Database errors.
pub async fn list_conditions(app: &App, by: &Reader) -> Result<Vec<ConditionView>, AppError> {
    let catalogue = app.catalogue().await?;
    let mut tests: HashMap<(Region, &str), usize> = HashMap::new();
    for row in catalogue.all_rows(by.role()) {
        *tests.entry((row.region, &row.condition)).or_default() += 1;
    }
    let view = |record: ConditionRecord| {
        let key = (record.condition.region, record.condition.name.as_str());
        let tests = tests.get(&key).copied().unwrap_or_default();
        ConditionView::new(record, tests)
    };
    Ok(condition::list_conditions(&app.db).await?.into_iter().map(view).collect())
}

/// Adds a target condition.
pub async fn create_condition(app: &App, by: &SheetWriter, input: ConditionInput) -> Result<ConditionView, AppError> {
    let condition = Condition::check(&input).map_err(AppError::Fields)?;
    let transaction = app.begin().await?;
    let record = condition::create_condition(&transaction, &condition, Act::of("created", Some(by.id()))).await?;
    commit(transaction).await?;
    Ok(ConditionView::new(record, 0))
}

/// Saves a target condition that was read at this version; its tests follow a new name.
pub async fn update_condition(
    app: &App,
    by: &SheetWriter,
    id: Uuid,
    version: i32,
    input: ConditionInput,
) -> Result<ConditionView, AppError> {
    let mut condition = Condition::check(&input).map_err(AppError::Fields)?;
    let transaction = app.begin().await?;
    // What came as made up stays so, whoever edits it.
    let before = condition::get_condition(&transaction, id).await?.condition;
    condition.keep_sample_marks(&before);
    if before.name != condition.name {
        follow_condition(&transaction, id, &before.name, &condition.name).await?;
        follow_condition_in_plans(&transaction, before.region, &before.name, &condition.name).await?;
    }
    let act = Act::of("edited", Some(by.id()));
    let record = condition::update_condition(&transaction, id, version, &condition, act).await?;
    commit(transaction).await?;
    let tests = tests_for(&app.db, &[id]).await?.len();
    Ok(ConditionView::new(record, tests))
}
