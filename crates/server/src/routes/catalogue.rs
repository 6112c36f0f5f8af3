//! The catalogue: regions, conditions, the list with its likelihood ratios, and sheets.

use std::cmp::Ordering;
use std::collections::HashMap;

use pruvex_core::catalogue::{Condition, Purpose, Region, Sheet, SheetInput};
use pruvex_core::pooling::{Summary, Warning};
use pruvex_core::{Estimate, Ratio};
use pruvex_store::catalogue::{self as store, TestFilter, TestRecord};
use pruvex_store::evidence::{StudyRecord, list_studies};
use pruvex_store::{StoreError, TransactionTrait};
use rocket::serde::json::Json;
use rocket::serde::{Deserialize, Serialize};
use rocket::{get, post, put};
use utoipa::ToSchema;
use uuid::Uuid;

use super::pooling::{Evidence, pool_studies};
use crate::body::JsonBody;
use crate::etag::{IfMatch, Tagged};
use crate::params::{RecordId, choice, search_text};
use crate::problem::{ApiError, Problem};
use crate::state::Db;

/// A region and how many tests it has.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct RegionView {
    region: Region,
    tests: u64,
}

/// A condition with its id.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct ConditionView {
    id: Uuid,
    #[serde(flatten)]
    condition: Condition,
}

/// One row of the list.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct TestRow {
    id: Uuid,
    name: String,
    aliases: Vec<String>,
    region: Region,
    purpose: Purpose,
    condition: String,
    positive_finding: String,
    /// Studies that count.
    studies: usize,
    /// People in them.
    patients: u64,
    evidence: Evidence,
    /// At least one study behind the figures is made up.
    sample: bool,
    /// `null` when not studied.
    summary: Option<Summary>,
    /// What must be said beside the figures.
    warnings: Vec<Warning>,
}

/// A sheet with its id and version.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct TestView {
    id: Uuid,
    version: i32,
    /// Came with sample data.
    sample: bool,
    #[serde(flatten)]
    sheet: Sheet,
}

impl From<TestRecord> for TestView {
    fn from(TestRecord { id, version, sample, sheet }: TestRecord) -> Self {
        Self { id, version, sample, sheet }
    }
}

/// What the list is sorted by.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, ToSchema)]
#[serde(crate = "rocket::serde", rename_all = "snake_case")]
pub(crate) enum Sort {
    /// Largest LR+ first.
    LrPositive,
    /// Smallest LR- first.
    LrNegative,
    /// Most studies first.
    Evidence,
    /// A to Z.
    Name,
}

impl Sort {
    const CODES: [&'static str; 4] = ["lr_positive", "lr_negative", "evidence", "name"];

    fn from_code(code: &str) -> Option<Self> {
        let all = [Self::LrPositive, Self::LrNegative, Self::Evidence, Self::Name];
        Self::CODES.iter().position(|known| *known == code).map(|index| all[index])
    }

    /// Rows that have no value come last whichever way the list is sorted; equal ones stay in the order of names.
    fn compare(self, a: &TestRow, b: &TestRow, reverse: bool) -> Ordering {
        let turn = |ordering: Ordering| if reverse { ordering.reverse() } else { ordering };
        let points = |pick: fn(&Summary) -> Option<Estimate<Ratio>>| {
            let value = |row: &TestRow| row.summary.as_ref().and_then(pick).map(supported);
            (value(a), value(b))
        };
        let by_ratio = |(a, b): (Option<f64>, Option<f64>), largest_first: bool| match (a, b) {
            (Some(a), Some(b)) if largest_first => turn(b.total_cmp(&a)),
            (Some(a), Some(b)) => turn(a.total_cmp(&b)),
            (a, b) => b.is_some().cmp(&a.is_some()),
        };
        match self {
            Self::LrPositive => by_ratio(points(|s| s.lr_positive), true),
            Self::LrNegative => by_ratio(points(|s| s.lr_negative), false),
            Self::Evidence => turn((b.studies, b.patients).cmp(&(a.studies, a.patients))),
            Self::Name => turn(a.name.to_lowercase().cmp(&b.name.to_lowercase())),
        }
    }
}

/// The ratio by which a row is placed: an infinite or zero point says only that a cell was empty, and one small study
/// must not lead the list for it. The bound that the data do support stands in for it, here as on the screen.
fn supported(lr: Estimate<Ratio>) -> f64 {
    let bound = if lr.estimate.get().is_infinite() {
        lr.lower
    } else if lr.estimate.get() == 0.0 {
        lr.upper
    } else {
        lr.estimate
    };
    bound.get()
}

/// All regions, head to foot.
#[utoipa::path(context_path = "/api/v1", tag = "catalogue", responses((status = 200, body = Vec<RegionView>)))]
#[get("/regions")]
pub(crate) async fn list_regions(db: Db<'_>) -> Result<Json<Vec<RegionView>>, ApiError> {
    let counts = store::count_by_region(db.0).await?;
    let view = |region| RegionView { region, tests: counts.get(&region).copied().unwrap_or_default() };
    Ok(Json(Region::ALL.into_iter().map(view).collect()))
}

/// All target conditions by name.
#[utoipa::path(context_path = "/api/v1", tag = "catalogue", responses((status = 200, body = Vec<ConditionView>)))]
#[get("/conditions")]
pub(crate) async fn list_conditions(db: Db<'_>) -> Result<Json<Vec<ConditionView>>, ApiError> {
    let records = store::list_conditions(db.0).await?;
    let views = records.into_iter().map(|record| ConditionView { id: record.id, condition: record.condition });
    Ok(Json(views.collect()))
}

/// The catalogue's list with the pooled likelihood ratios of each test.
#[utoipa::path(context_path = "/api/v1", tag = "catalogue",
    params(
        ("region" = Option<Region>, Query, description = "only this region"),
        ("condition" = Option<String>, Query, description = "only tests for the condition of this name"),
        ("search" = Option<String>, Query, description = "part of a name or alias"),
        ("sort" = Option<Sort>, Query, description = "lr_positive unless given"),
        ("reverse" = Option<bool>, Query, description = "the other way round"),
    ),
    responses((status = 200, body = Vec<TestRow>), (status = 400, body = Problem)))]
#[get("/tests?<region>&<condition>&<search>&<sort>&<reverse>")]
pub(crate) async fn list_tests(
    region: Option<&str>,
    condition: Option<&str>,
    search: Option<&str>,
    sort: Option<&str>,
    reverse: Option<&str>,
    db: Db<'_>,
) -> Result<Json<Vec<TestRow>>, ApiError> {
    let filter = TestFilter {
        region: choice("region", region, &Region::ALL.map(Region::code), Region::from_code)?,
        condition: search_text("condition", condition)?,
        search: search_text("search", search)?,
    };
    let sort = choice("sort", sort, &Sort::CODES, Sort::from_code)?.unwrap_or(Sort::LrPositive);
    let reverse = choice("reverse", reverse, &["true", "false"], |text| text.parse().ok())?.unwrap_or(false);
    let tests = store::list_tests(db.0, &filter).await?;
    let ids: Vec<Uuid> = tests.iter().map(|test| test.id).collect();
    let mut by_test: HashMap<Uuid, Vec<StudyRecord>> = HashMap::new();
    for study in list_studies(db.0, &ids).await? {
        by_test.entry(study.test_id).or_default().push(study);
    }
    let groups = ids.iter().map(|id| by_test.remove(id).unwrap_or_default()).collect();
    let pooled = pool_studies(groups).await?;
    let mut rows: Vec<TestRow> =
        tests.into_iter().zip(pooled).map(|(test, pooled)| row(test, pooled.parts())).collect();
    rows.sort_by(|a, b| sort.compare(a, b, reverse));
    Ok(Json(rows))
}

fn row(
    test: TestRecord,
    (evidence, sample, pooled): (Evidence, bool, Option<pruvex_core::pooling::Pooled>),
) -> TestRow {
    TestRow {
        id: test.id,
        name: test.sheet.name,
        aliases: test.sheet.aliases,
        region: test.sheet.region,
        purpose: test.sheet.purpose,
        condition: test.sheet.condition,
        positive_finding: test.sheet.positive_finding,
        studies: pooled.as_ref().map_or(0, |pooled| pooled.k),
        patients: pooled.as_ref().map_or(0, |pooled| pooled.diseased + pooled.non_diseased),
        evidence,
        sample,
        summary: pooled.as_ref().map(|pooled| pooled.summary),
        warnings: pooled.map(|pooled| pooled.warnings).unwrap_or_default(),
    }
}

/// A test's sheet.
#[utoipa::path(context_path = "/api/v1", tag = "catalogue", params(("id" = Uuid, Path)),
    responses((status = 200, body = TestView), (status = 404, body = Problem)))]
#[get("/tests/<id>")]
pub(crate) async fn get_test(id: Result<RecordId, ApiError>, db: Db<'_>) -> Result<Tagged<TestView>, ApiError> {
    let record = store::get_test(db.0, id?.0).await?;
    Ok(Tagged::ok(record.version, record.into()))
}

/// Adds a test.
#[utoipa::path(context_path = "/api/v1", tag = "catalogue", request_body = SheetInput,
    responses((status = 201, body = TestView), (status = 422, body = Problem)))]
#[post("/tests", data = "<input>")]
pub(crate) async fn create_test(input: JsonBody<SheetInput>, db: Db<'_>) -> Result<Tagged<TestView>, ApiError> {
    let sheet = Sheet::check(&input.0).map_err(ApiError::Fields)?;
    let transaction = db.0.begin().await.map_err(StoreError::from)?;
    let record = store::create_test(&transaction, &sheet, false).await?;
    transaction.commit().await.map_err(StoreError::from)?;
    Ok(Tagged::created(record.version, record.into()))
}

/// Saves a sheet that was read at the version in `If-Match`.
#[utoipa::path(context_path = "/api/v1", tag = "catalogue", request_body = SheetInput,
    params(("id" = Uuid, Path), ("If-Match" = String, Header, description = "ETag that was read")),
    responses((status = 200, body = TestView), (status = 404, body = Problem), (status = 412, body = Problem),
        (status = 422, body = Problem)))]
#[put("/tests/<id>", data = "<input>")]
pub(crate) async fn update_test(
    id: Result<RecordId, ApiError>,
    version: IfMatch,
    input: JsonBody<SheetInput>,
    db: Db<'_>,
) -> Result<Tagged<TestView>, ApiError> {
    let (id, sheet) = (id?.0, Sheet::check(&input.0).map_err(ApiError::Fields)?);
    let transaction = db.0.begin().await.map_err(StoreError::from)?;
    let record = store::update_test(&transaction, id, version.0, &sheet).await?;
    transaction.commit().await.map_err(StoreError::from)?;
    Ok(Tagged::ok(record.version, record.into()))
}
