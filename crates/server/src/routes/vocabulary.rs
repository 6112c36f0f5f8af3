//! The structures and conditions that sheets may name, and which tests load a structure.

use std::collections::{HashMap, HashSet};

use pruvex_core::catalogue::{Condition, ConditionInput, LoadRole, Region, Structure, StructureInput, name_key};
use pruvex_store::condition::{create_condition as add_condition, update_condition as save_condition};
use pruvex_store::history::Act;
use pruvex_store::vocabulary::{self as store, StructureRecord};
use pruvex_store::{StoreError, TransactionTrait};
use rocket::serde::Serialize;
use rocket::serde::json::Json;
use rocket::{State, get, post, put};
use utoipa::ToSchema;
use uuid::Uuid;

use super::catalogue::ConditionView;
use crate::body::JsonBody;
use crate::etag::{IfMatch, Tagged};
use crate::params::{RecordId, choice};
use crate::people::{Reader, SheetWriter};
use crate::problem::{ApiError, Problem};
use crate::state::{AppState, Db};

/// A structure with its id and version.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct StructureView {
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

/// A structure in the list.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct StructureRow {
    #[serde(flatten)]
    view: StructureView,
    /// How many tests load it.
    tests: usize,
}

/// A test that loads a structure.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct LoadingTest {
    id: Uuid,
    name: String,
    region: Region,
    variant: String,
    /// Empty when it holds throughout.
    phase: String,
    role: Option<LoadRole>,
}

/// The vocabulary of one region or of all, head to foot, by name.
#[utoipa::path(context_path = "/api/v1", tag = "vocabulary",
    params(("region" = Option<Region>, Query, description = "only this region")),
    responses((status = 200, body = Vec<StructureRow>), (status = 400, body = Problem)))]
#[get("/structures?<region>")]
pub(crate) async fn list_structures(
    by: Reader,
    region: Option<&str>,
    state: &State<AppState>,
    _db: Db<'_>,
) -> Result<Json<Vec<StructureRow>>, ApiError> {
    let region = choice("region", region, &Region::ALL.map(Region::code), Region::from_code)?;
    let shelf = state.shelf().await?;
    let mut loading: HashMap<&str, HashSet<Uuid>> = HashMap::new();
    for row in shelf.rows(by.0.role) {
        for target in &row.targets {
            loading.entry(&target.key).or_default().insert(row.id);
        }
    }
    let row = |record: &StructureRecord| {
        let names = record.structure.names().map(name_key);
        let tests: HashSet<&Uuid> = names.filter_map(|key| loading.get(key.as_str())).flatten().collect();
        StructureRow { tests: tests.len(), view: record.clone().into() }
    };
    let wanted = |record: &&StructureRecord| region.is_none_or(|region| record.structure.region == region);
    Ok(Json(shelf.structures.iter().filter(wanted).map(row).collect()))
}

/// Tests that load a structure, under any of its names, with the role.
#[utoipa::path(context_path = "/api/v1", tag = "vocabulary", params(("id" = Uuid, Path)),
    responses((status = 200, body = Vec<LoadingTest>), (status = 404, body = Problem)))]
#[get("/structures/<id>/tests")]
pub(crate) async fn list_loading_tests(
    by: Reader,
    id: Result<RecordId, ApiError>,
    state: &State<AppState>,
    _db: Db<'_>,
) -> Result<Json<Vec<LoadingTest>>, ApiError> {
    let id = id?.0;
    let shelf = state.shelf().await?;
    let found = shelf.structures.iter().find(|record| record.id == id);
    let structure = &found.ok_or(ApiError::not_found("structure", id))?.structure;
    let keys: Vec<String> = structure.names().map(name_key).collect();
    let tests = shelf.rows(by.0.role).iter().flat_map(|row| {
        row.targets.iter().filter(|target| keys.contains(&target.key)).map(|target| LoadingTest {
            id: row.id,
            name: row.name.clone(),
            region: row.region,
            variant: target.variant.clone(),
            phase: target.phase.clone(),
            role: target.role,
        })
    });
    Ok(Json(tests.collect()))
}

/// Adds a structure.
#[utoipa::path(context_path = "/api/v1", tag = "vocabulary", request_body = StructureInput,
    responses((status = 201, body = StructureView), (status = 422, body = Problem)))]
#[post("/structures", data = "<input>")]
pub(crate) async fn create_structure(
    by: SheetWriter,
    input: JsonBody<StructureInput>,
    db: Db<'_>,
) -> Result<Tagged<StructureView>, ApiError> {
    let structure = Structure::check(&input.0).map_err(ApiError::Fields)?;
    let transaction = db.0.begin().await.map_err(StoreError::from)?;
    let record = store::create_structure(&transaction, &structure, Act::of("created", Some(by.0.id))).await?;
    transaction.commit().await.map_err(StoreError::from)?;
    Ok(Tagged::created(record.version, record.into()))
}

/// Saves a structure that was read at the version in `If-Match`.
#[utoipa::path(context_path = "/api/v1", tag = "vocabulary", request_body = StructureInput,
    params(("id" = Uuid, Path), ("If-Match" = String, Header, description = "ETag that was read")),
    responses((status = 200, body = StructureView), (status = 404, body = Problem), (status = 412, body = Problem),
        (status = 422, body = Problem)))]
#[put("/structures/<id>", data = "<input>")]
pub(crate) async fn update_structure(
    by: SheetWriter,
    id: Result<RecordId, ApiError>,
    version: IfMatch,
    input: JsonBody<StructureInput>,
    db: Db<'_>,
) -> Result<Tagged<StructureView>, ApiError> {
    let (id, structure) = (id?.0, Structure::check(&input.0).map_err(ApiError::Fields)?);
    let transaction = db.0.begin().await.map_err(StoreError::from)?;
    let act = Act::of("edited", Some(by.0.id));
    let record = store::update_structure(&transaction, id, version.0, &structure, act).await?;
    transaction.commit().await.map_err(StoreError::from)?;
    Ok(Tagged::ok(record.version, record.into()))
}

/// Adds a target condition.
#[utoipa::path(context_path = "/api/v1", tag = "vocabulary", request_body = ConditionInput,
    responses((status = 201, body = ConditionView), (status = 422, body = Problem)))]
#[post("/conditions", data = "<input>")]
pub(crate) async fn create_condition(
    by: SheetWriter,
    input: JsonBody<ConditionInput>,
    db: Db<'_>,
) -> Result<Tagged<ConditionView>, ApiError> {
    let condition = Condition::check(&input.0).map_err(ApiError::Fields)?;
    let transaction = db.0.begin().await.map_err(StoreError::from)?;
    let record = add_condition(&transaction, &condition, Act::of("created", Some(by.0.id))).await?;
    transaction.commit().await.map_err(StoreError::from)?;
    Ok(Tagged::created(record.version, ConditionView::new(record, 0)))
}

/// Saves a target condition that was read at the version in `If-Match`; its tests follow a new name.
#[utoipa::path(context_path = "/api/v1", tag = "vocabulary", request_body = ConditionInput,
    params(("id" = Uuid, Path), ("If-Match" = String, Header, description = "ETag that was read")),
    responses((status = 200, body = ConditionView), (status = 404, body = Problem), (status = 412, body = Problem),
        (status = 422, body = Problem)))]
#[put("/conditions/<id>", data = "<input>")]
pub(crate) async fn update_condition(
    by: SheetWriter,
    id: Result<RecordId, ApiError>,
    version: IfMatch,
    input: JsonBody<ConditionInput>,
    state: &State<AppState>,
    db: Db<'_>,
) -> Result<Tagged<ConditionView>, ApiError> {
    let (id, condition) = (id?.0, Condition::check(&input.0).map_err(ApiError::Fields)?);
    let transaction = db.0.begin().await.map_err(StoreError::from)?;
    let act = Act::of("edited", Some(by.0.id));
    let record = save_condition(&transaction, id, version.0, &condition, act).await?;
    transaction.commit().await.map_err(StoreError::from)?;
    let shelf = state.shelf().await?;
    let rows = shelf.rows(by.0.role).iter();
    let tests = rows.filter(|row| row.region == condition.region && row.condition == condition.name).count();
    Ok(Tagged::ok(record.version, ConditionView::new(record, tests)))
}
