//! The structures that sheets may name, region by region.

use std::collections::HashMap;

use chrono::Utc;
use pruvex_core::catalogue::{Condition, ConditionInput, Region, Structure, StructureInput, name_key};
use pruvex_core::{FieldError, FieldErrorCode};
use sea_orm::{
    ActiveModelTrait, ActiveValue::Set, ColumnTrait, ConnectionTrait, EntityTrait, IntoActiveModel, QueryFilter,
    QueryOrder, QuerySelect,
};
use serde::Deserialize;
use uuid::Uuid;

use crate::StoreError;
use crate::condition::put_condition;
use crate::entities::{structure, structure_name};
use crate::history::{Act, Kind, alone, keep};

/// A stored structure.
#[derive(Debug, Clone, PartialEq)]
pub struct StructureRecord {
    /// Id.
    pub id: Uuid,
    /// Rises by one with every save.
    pub version: i32,
    /// The structure.
    pub structure: Structure,
}

/// What a new database begins with: general anatomy and usual target conditions.
const STARTING_SET: &str = include_str!("../data/vocabulary.json");

#[derive(Deserialize)]
struct StartingSet {
    structures: Vec<Entry<StructureInput>>,
    conditions: Vec<Entry<ConditionInput>>,
}

/// An entry; which name it had before is for the migration that renames it.
#[derive(Deserialize)]
struct Entry<T> {
    #[serde(flatten)]
    input: T,
}

/// Structures head to foot, by name; of one region when one is given.
///
/// # Errors
/// Database errors.
pub async fn list_structures(
    db: &impl ConnectionTrait,
    region: Option<Region>,
) -> Result<Vec<StructureRecord>, StoreError> {
    let mut query = structure::Entity::find();
    if let Some(region) = region {
        query = query.filter(structure::Column::Region.eq(region.code()));
    }
    let rows = query.all(db).await?;
    let mut names: HashMap<Uuid, Vec<String>> = HashMap::new();
    for name in structure_name::Entity::find().order_by_asc(structure_name::Column::Position).all(db).await? {
        names.entry(name.structure_id).or_default().push(name.label);
    }
    let mut records = rows
        .into_iter()
        .map(|row| {
            let names = names.remove(&row.id).unwrap_or_default();
            record(row, names)
        })
        .collect::<Result<Vec<_>, _>>()?;
    records.sort_by_cached_key(|record| (record.structure.region, name_key(&record.structure.name)));
    Ok(records)
}

/// One structure.
///
/// # Errors
/// [`StoreError::NotFound`], database errors.
pub async fn get_structure(db: &impl ConnectionTrait, id: Uuid) -> Result<StructureRecord, StoreError> {
    let row = structure::Entity::find_by_id(id).one(db).await?;
    let row = row.ok_or(StoreError::not_found("structure", id))?;
    let names = structure_name::Entity::find()
        .filter(structure_name::Column::StructureId.eq(id))
        .order_by_asc(structure_name::Column::Position)
        .all(db)
        .await?;
    record(row, names.into_iter().map(|name| name.label).collect())
}

/// Adds a structure; call within a transaction.
///
/// # Errors
/// [`StoreError::Fields`] when the region has one of its names, database errors.
pub async fn create_structure(
    db: &impl ConnectionTrait,
    structure: &Structure,
    act: Act<'_>,
) -> Result<StructureRecord, StoreError> {
    alone(db).await?;
    let id = Uuid::now_v7();
    check_names(db, id, structure).await?;
    let row = structure::ActiveModel { version: Set(1), created_at: Set(Utc::now()), ..row(id, structure)? };
    row.insert(db).await?;
    insert_names(db, id, structure).await?;
    keep(db, Kind::Structure, id, 1, structure, act).await?;
    Ok(StructureRecord { id, version: 1, structure: structure.clone() })
}

/// Saves a structure that was read at `version`; call within a transaction.
///
/// # Errors
/// [`StoreError::Conflict`] when it was saved meanwhile, [`StoreError::NotFound`], [`StoreError::Fields`].
pub async fn update_structure(
    db: &impl ConnectionTrait,
    id: Uuid,
    version: i32,
    structure: &Structure,
    act: Act<'_>,
) -> Result<StructureRecord, StoreError> {
    alone(db).await?;
    let found = structure::Entity::find_by_id(id).lock_exclusive().one(db).await?;
    let old = found.ok_or(StoreError::not_found("structure", id))?;
    if old.version != version {
        return Err(StoreError::Conflict { what: "structure", current: old.version });
    }
    check_names(db, id, structure).await?;
    let version = version + 1;
    structure::ActiveModel { version: Set(version), ..row(id, structure)? }.update(db).await?;
    structure_name::Entity::delete_many().filter(structure_name::Column::StructureId.eq(id)).exec(db).await?;
    insert_names(db, id, structure).await?;
    keep(db, Kind::Structure, id, version, structure, act).await?;
    Ok(StructureRecord { id, version, structure: structure.clone() })
}

/// Fills an empty vocabulary with the starting set; call within a transaction.
///
/// # Errors
/// Database errors.
pub(crate) async fn fill(db: &impl ConnectionTrait) -> Result<(), StoreError> {
    if structure::Entity::find().limit(1).one(db).await?.is_some() {
        return Ok(());
    }
    let broken = |why: String| StoreError::Damaged { what: "starting set", id: Uuid::nil(), why };
    let faults = |errors: Vec<FieldError>| broken(errors.iter().map(ToString::to_string).collect());
    let set: StartingSet = serde_json::from_str(STARTING_SET).map_err(|error| broken(error.to_string()))?;
    let act = Act::of("imported", None);
    for Entry { input } in &set.structures {
        create_structure(db, &Structure::check(input).map_err(faults)?, act).await?;
    }
    for Entry { input } in &set.conditions {
        put_condition(db, &Condition::check(input).map_err(faults)?, act).await?;
    }
    Ok(())
}

fn row(id: Uuid, structure: &Structure) -> Result<structure::ActiveModel, StoreError> {
    let broken = |error: serde_json::Error| StoreError::Damaged { what: "structure", id, why: error.to_string() };
    let tissue = serde_json::to_value(structure.tissue).map_err(broken)?;
    Ok(structure::ActiveModel {
        id: Set(id),
        region: Set(structure.region.code().to_owned()),
        tissue: Set(tissue.as_str().unwrap_or_default().to_owned()),
        actions: Set(serde_json::to_value(&structure.actions).map_err(broken)?),
        retired: Set(structure.retired),
        updated_at: Set(Utc::now()),
        ..Default::default()
    })
}

fn record(row: structure::Model, mut names: Vec<String>) -> Result<StructureRecord, StoreError> {
    let damaged = |why: String| StoreError::Damaged { what: "structure", id: row.id, why };
    if names.is_empty() {
        return Err(damaged("it has no name".to_owned()));
    }
    let structure = Structure {
        region: Region::from_code(&row.region).ok_or_else(|| damaged("unknown region".to_owned()))?,
        name: names.remove(0),
        other_names: names,
        tissue: serde_json::from_value(row.tissue.into()).map_err(|error| damaged(error.to_string()))?,
        actions: serde_json::from_value(row.actions).map_err(|error| damaged(error.to_string()))?,
        retired: row.retired,
    };
    Ok(StructureRecord { id: row.id, version: row.version, structure })
}

async fn check_names(db: &impl ConnectionTrait, id: Uuid, structure: &Structure) -> Result<(), StoreError> {
    let keys: Vec<String> = structure.names().map(name_key).collect();
    let taken = structure_name::Entity::find()
        .filter(structure_name::Column::Region.eq(structure.region.code()))
        .filter(structure_name::Column::Key.is_in(keys.clone()))
        .filter(structure_name::Column::StructureId.ne(id))
        .all(db)
        .await?;
    let errors: Vec<FieldError> = keys
        .iter()
        .enumerate()
        .filter(|(_, key)| taken.iter().any(|name| name.key == **key))
        .map(|(position, key)| {
            let field = if position == 0 { "name".to_owned() } else { format!("other_names[{}]", position - 1) };
            let message = "Another structure of this region already has this name.";
            let remedy = "Choose another name, or edit the structure that is there.";
            FieldError::new(field, FieldErrorCode::Duplicate, key, message, remedy)
        })
        .collect();
    if errors.is_empty() { Ok(()) } else { Err(StoreError::Fields(errors)) }
}

async fn insert_names(db: &impl ConnectionTrait, id: Uuid, structure: &Structure) -> Result<(), StoreError> {
    let rows = structure.names().enumerate().map(|(position, label)| {
        let name = structure_name::Model {
            region: structure.region.code().to_owned(),
            key: name_key(label),
            structure_id: id,
            position: i32::try_from(position).unwrap_or(i32::MAX),
            label: label.to_owned(),
        };
        name.into_active_model()
    });
    structure_name::Entity::insert_many(rows).exec(db).await?;
    Ok(())
}
