//! The catalogue: regions, conditions, the list with its likelihood ratios, and sheets.

use std::cmp::Ordering;
use std::collections::HashMap;

use pruvex_core::catalogue::{
    Condition, LoadRole, Position, Purpose, Region, Sheet, SheetInput, Status, Step, name_key,
};
use pruvex_core::likelihood::supported_ratio;
use pruvex_core::people::{Right, Role};
use pruvex_core::pooling::{Summary, Warning};
use pruvex_core::{Estimate, Ratio};
use pruvex_store::catalogue::{self as store, TestRecord};
use pruvex_store::condition::{ConditionRecord, list_conditions as stored_conditions};
use pruvex_store::history::Act;
use pruvex_store::people::Account;
use pruvex_store::{ConnectionTrait, StoreError, TransactionTrait};
use rocket::http::Header;
use rocket::serde::json::Json;
use rocket::serde::{Deserialize, Serialize};
use rocket::{FromForm, Responder, State, get, post, put};
use utoipa::ToSchema;
use uuid::Uuid;

use super::pooling::{Backed, Evidence};
use crate::body::JsonBody;
use crate::etag::{IfMatch, Tagged};
use crate::params::{RecordId, choice, search_text};
use crate::people::{Reader, SheetWriter};
use crate::problem::{ApiError, Problem};
use crate::shelf::Shelf;
use crate::state::{AppState, Db};

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
    version: i32,
    /// How many tests are meant to show it.
    tests: usize,
    #[serde(flatten)]
    condition: Condition,
}

impl ConditionView {
    pub fn new(ConditionRecord { id, version, condition }: ConditionRecord, tests: usize) -> Self {
        Self { id, version, tests, condition }
    }
}

/// One row of the list.
#[derive(Debug, Clone, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct TestRow {
    pub id: Uuid,
    pub name: String,
    pub aliases: Vec<String>,
    pub region: Region,
    pub purpose: Purpose,
    pub condition: String,
    pub positive_finding: String,
    /// How the patient is placed in the taught variant.
    pub position: Option<Position>,
    /// What the taught variant needs.
    pub equipment: Vec<String>,
    /// How irritating it is, 0 to 3.
    pub irritation: Option<f64>,
    /// Studies that count.
    pub studies: usize,
    /// People in them.
    pub patients: u64,
    pub evidence: Evidence,
    /// Where the sheet stands.
    pub status: Status,
    /// How many things the checks found; 0 for those who see no drafts.
    pub findings: usize,
    /// At least one study behind the figures is made up.
    pub sample: bool,
    /// `null` when not studied.
    pub summary: Option<Summary>,
    /// Prediction interval of LR+: where the true ratio of the next study is expected. `null` with fewer than three studies.
    pub ahead_positive: Option<Estimate<Ratio>>,
    /// The same of LR-.
    pub ahead_negative: Option<Estimate<Ratio>>,
    /// What must be said beside the figures.
    pub warnings: Vec<Warning>,
    #[serde(skip)]
    pub targets: Vec<RowTarget>,
    /// The row as it is answered, written once: a list of hundreds is put together for every reader.
    #[serde(skip)]
    pub json: String,
}

/// A structure that a test loads.
#[derive(Debug, Clone)]
pub(crate) struct RowTarget {
    /// Compared form of its name.
    pub key: String,
    pub role: Option<LoadRole>,
    /// Name of the variant.
    pub variant: String,
    /// Name of the phase, or empty.
    pub phase: String,
}

impl TestRow {
    pub fn new(test: TestRecord, backed: Option<&Backed>) -> Self {
        let TestRecord { id, status, sheet, .. } = test;
        let targets = sheet.variants.iter().flat_map(|variant| {
            variant.targets.iter().map(|target| RowTarget {
                key: name_key(&target.structure),
                role: target.role,
                variant: variant.name.clone(),
                phase: target.phase.clone(),
            })
        });
        let pooled = backed.and_then(|backed| backed.pooled.as_ref());
        Self {
            json: String::new(),
            targets: targets.collect(),
            position: sheet.baseline().and_then(|variant| variant.position),
            equipment: sheet.baseline().map(|variant| variant.equipment.clone()).unwrap_or_default(),
            irritation: sheet.burden.irritation,
            id,
            status,
            findings: 0,
            name: sheet.name,
            aliases: sheet.aliases,
            region: sheet.region,
            purpose: sheet.purpose,
            condition: sheet.condition,
            positive_finding: sheet.positive_finding,
            studies: pooled.map_or(0, |pooled| pooled.k),
            patients: pooled.map_or(0, |pooled| pooled.diseased + pooled.non_diseased),
            evidence: backed.map_or(Evidence::NotStudied, |backed| backed.evidence),
            sample: backed.is_some_and(|backed| backed.sample),
            summary: pooled.map(|pooled| pooled.summary),
            ahead_positive: backed.and_then(|backed| backed.ahead.lr_positive),
            ahead_negative: backed.and_then(|backed| backed.ahead.lr_negative),
            warnings: pooled.map(|pooled| pooled.warnings.clone()).unwrap_or_default(),
        }
    }

    /// With the row as it is answered.
    pub fn written(mut self) -> Self {
        self.json = serde_json::to_string(&self).unwrap_or_default();
        self
    }
}

/// Rows of a list, and how many there are in all.
#[derive(Responder)]
#[response(content_type = "json")]
pub(crate) struct Rows {
    json: String,
    total: Header<'static>,
}

/// A sheet with its id and version.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct TestView {
    id: Uuid,
    version: i32,
    /// Where it stands.
    status: Status,
    /// The version that learners see, if there is one.
    published_version: Option<i32>,
    /// Steps that you can take from here.
    next_steps: Vec<Step>,
    /// Came with sample data.
    sample: bool,
    #[serde(flatten)]
    sheet: Sheet,
}

impl TestView {
    pub fn of(
        TestRecord { id, version, sample, status, published_version, sheet }: TestRecord,
        reader: &Account,
    ) -> Self {
        Self { id, version, status, published_version, next_steps: status.steps(reader.role), sample, sheet }
    }
}

/// A test as this person may see it.
pub(crate) async fn visible_test(
    db: &impl ConnectionTrait,
    id: Uuid,
    reader: &Account,
) -> Result<TestRecord, ApiError> {
    let found = if reader.role.may(Right::ReadDrafts) {
        store::get_test(db, id).await
    } else {
        store::get_published_test(db, id).await
    };
    Ok(found?)
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
            // One small study must not lead the list for an empty cell.
            let value = |row: &TestRow| row.summary.as_ref().and_then(pick).map(|lr| supported_ratio(lr).get());
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

/// All regions, head to foot.
#[utoipa::path(context_path = "/api/v1", tag = "catalogue", responses((status = 200, body = Vec<RegionView>)))]
#[get("/regions")]
pub(crate) async fn list_regions(
    by: Reader,
    state: &State<AppState>,
    _db: Db<'_>,
) -> Result<Json<Vec<RegionView>>, ApiError> {
    let mut counts: HashMap<Region, u64> = HashMap::new();
    for row in state.shelf().await?.rows(by.0.role) {
        *counts.entry(row.region).or_default() += 1;
    }
    let view = |region| RegionView { region, tests: counts.get(&region).copied().unwrap_or_default() };
    Ok(Json(Region::ALL.into_iter().map(view).collect()))
}

/// All target conditions by name.
#[utoipa::path(context_path = "/api/v1", tag = "catalogue", responses((status = 200, body = Vec<ConditionView>)))]
#[get("/conditions")]
pub(crate) async fn list_conditions(
    by: Reader,
    state: &State<AppState>,
    db: Db<'_>,
) -> Result<Json<Vec<ConditionView>>, ApiError> {
    let shelf = state.shelf().await?;
    let mut tests: HashMap<(Region, &str), usize> = HashMap::new();
    for row in shelf.rows(by.0.role) {
        *tests.entry((row.region, &row.condition)).or_default() += 1;
    }
    let view = |record: ConditionRecord| {
        let key = (record.condition.region, record.condition.name.as_str());
        let tests = tests.get(&key).copied().unwrap_or_default();
        ConditionView::new(record, tests)
    };
    Ok(Json(stored_conditions(db.0).await?.into_iter().map(view).collect()))
}

/// The list's parameters as text; each is checked by name, so that a fault can be told.
#[derive(FromForm)]
pub(crate) struct ListQuery<'r> {
    pub region: Option<&'r str>,
    condition: Option<&'r str>,
    search: Option<&'r str>,
    purpose: Option<&'r str>,
    position: Option<&'r str>,
    equipment: Option<&'r str>,
    irritation: Option<&'r str>,
    evidence: Option<&'r str>,
    status: Option<&'r str>,
    findings: Option<&'r str>,
    sort: Option<&'r str>,
    reverse: Option<&'r str>,
    limit: Option<&'r str>,
}

impl ListQuery<'_> {
    /// The rows that it asks for, in its order.
    pub async fn rows<'a>(&self, shelf: &'a Shelf, role: Role, db: &Db<'_>) -> Result<Vec<&'a TestRow>, ApiError> {
        let yes_no = |field, given| choice(field, given, &["true", "false"], |text| text.parse::<bool>().ok());
        let region = choice("region", self.region, &Region::ALL.map(Region::code), Region::from_code)?;
        let purpose = choice("purpose", self.purpose, &Purpose::ALL.map(Purpose::code), Purpose::from_code)?;
        let position = choice("position", self.position, &Position::ALL.map(Position::code), Position::from_code)?;
        let status = choice("status", self.status, &Status::ALL.map(Status::code), Status::from_code)?;
        let evidence = choice("evidence", self.evidence, &Evidence::CODES, Evidence::from_code)?;
        let bare = choice("equipment", self.equipment, &["none", "some"], |code| match code {
            "none" => Some(true),
            "some" => Some(false),
            _ => None,
        })?;
        let gentle = choice("irritation", self.irritation, &["0", "1", "2", "3"], |text| {
            text.parse::<u8>().ok().filter(|level| *level <= 3).map(f64::from)
        })?;
        let condition = search_text("condition", self.condition)?.map(|name| name_key(&name));
        let search = search_text("search", self.search)?.filter(|text| !name_key(text).is_empty());
        let findings = yes_no("findings", self.findings)?;
        let sort = choice("sort", self.sort, &Sort::CODES, Sort::from_code)?;
        let reverse = yes_no("reverse", self.reverse)?.unwrap_or(false);
        let found: Option<HashMap<Uuid, usize>> = match search {
            Some(text) => {
                let ids = store::find_tests(db.0, &text, region, role.may(Right::ReadDrafts)).await?;
                Some(ids.into_iter().enumerate().map(|(rank, id)| (id, rank)).collect())
            }
            None => None,
        };
        let mut rows: Vec<&TestRow> = shelf
            .rows(role)
            .iter()
            .map(AsRef::as_ref)
            .filter(|row: &&TestRow| region.is_none_or(|region| row.region == region))
            .filter(|row| purpose.is_none_or(|purpose| row.purpose == purpose))
            .filter(|row| position.is_none_or(|position| row.position == Some(position)))
            .filter(|row| status.is_none_or(|status| row.status == status))
            .filter(|row| evidence.is_none_or(|evidence| row.evidence == evidence))
            .filter(|row| bare.is_none_or(|bare| row.equipment.is_empty() == bare))
            .filter(|row| gentle.is_none_or(|most| row.irritation.is_some_and(|irritation| irritation <= most)))
            .filter(|row| findings.is_none_or(|some| (row.findings > 0) == some))
            .filter(|row| found.as_ref().is_none_or(|found| found.contains_key(&row.id)))
            .filter(|row| condition.as_ref().is_none_or(|wanted| *wanted == name_key(&row.condition)))
            .collect();
        match (sort, &found) {
            // Whoever searches without an order asks for the best match first.
            (None, Some(found)) => rows.sort_by_key(|row| found.get(&row.id)),
            (sort, _) => {
                let sort = sort.unwrap_or(Sort::LrPositive);
                rows.sort_by(|a, b| sort.compare(a, b, reverse));
            }
        }
        Ok(rows)
    }
}

/// The catalogue's list with the pooled likelihood ratios of each test.
#[utoipa::path(context_path = "/api/v1", tag = "catalogue",
    params(
        ("region" = Option<Region>, Query, description = "only this region"),
        ("condition" = Option<String>, Query, description = "only tests for the condition of this name"),
        ("search" = Option<String>, Query, description = "part of a name, a name typed nearly right, or words of the sheet"),
        ("purpose" = Option<Purpose>, Query, description = "only tests for this purpose"),
        ("position" = Option<Position>, Query, description = "only tests done in this position"),
        ("equipment" = Option<String>, Query, description = "none or some"),
        ("irritation" = Option<u8>, Query, description = "at most this irritating, 0 to 3"),
        ("evidence" = Option<Evidence>, Query, description = "only with so much behind it"),
        ("status" = Option<Status>, Query, description = "only sheets that stand there"),
        ("findings" = Option<bool>, Query, description = "only sheets in which the checks found something, or nothing"),
        ("sort" = Option<Sort>, Query, description = "the best match first when searching, else lr_positive"),
        ("reverse" = Option<bool>, Query, description = "the other way round"),
        ("limit" = Option<u32>, Query, description = "only so many of them, 1 to 5000"),
    ),
    responses((status = 200, body = Vec<TestRow>,
        headers(("X-Total-Count" = u64, description = "how many there are without the limit"))),
        (status = 400, body = Problem)))]
#[get("/tests?<query..>")]
pub(crate) async fn list_tests(
    by: Reader,
    query: ListQuery<'_>,
    state: &State<AppState>,
    db: Db<'_>,
) -> Result<Rows, ApiError> {
    let limit = choice("limit", query.limit, &["1 to 5000"], |text| {
        text.parse::<usize>().ok().filter(|limit| (1..=5_000).contains(limit))
    })?;
    let shelf = state.shelf().await?;
    let rows = query.rows(&shelf, by.0.role, &db).await?;
    let shown: Vec<&str> = rows.iter().take(limit.unwrap_or(rows.len())).map(|row| row.json.as_str()).collect();
    Ok(Rows { json: format!("[{}]", shown.join(",")), total: Header::new("X-Total-Count", rows.len().to_string()) })
}

/// A test's sheet: as it was signed off for those who may not see drafts.
#[utoipa::path(context_path = "/api/v1", tag = "catalogue", params(("id" = Uuid, Path)),
    responses((status = 200, body = TestView), (status = 404, body = Problem)))]
#[get("/tests/<id>")]
pub(crate) async fn get_test(
    by: Reader,
    id: Result<RecordId, ApiError>,
    db: Db<'_>,
) -> Result<Tagged<TestView>, ApiError> {
    let record = visible_test(db.0, id?.0, &by.0).await?;
    Ok(Tagged::ok(record.version, TestView::of(record, &by.0)))
}

/// Adds a test, as a draft.
#[utoipa::path(context_path = "/api/v1", tag = "catalogue", request_body = SheetInput,
    responses((status = 201, body = TestView), (status = 422, body = Problem)))]
#[post("/tests", data = "<input>")]
pub(crate) async fn create_test(
    by: SheetWriter,
    input: JsonBody<SheetInput>,
    db: Db<'_>,
) -> Result<Tagged<TestView>, ApiError> {
    let sheet = Sheet::check(&input.0).map_err(ApiError::Fields)?;
    let transaction = db.0.begin().await.map_err(StoreError::from)?;
    let record = store::create_test(&transaction, &sheet, false, Act::of("created", Some(by.0.id))).await?;
    transaction.commit().await.map_err(StoreError::from)?;
    Ok(Tagged::created(record.version, TestView::of(record, &by.0)))
}

/// Saves a sheet that was read at the version in `If-Match`; it is a draft then.
#[utoipa::path(context_path = "/api/v1", tag = "catalogue", request_body = SheetInput,
    params(("id" = Uuid, Path), ("If-Match" = String, Header, description = "ETag that was read")),
    responses((status = 200, body = TestView), (status = 404, body = Problem), (status = 412, body = Problem),
        (status = 422, body = Problem)))]
#[put("/tests/<id>", data = "<input>")]
pub(crate) async fn update_test(
    by: SheetWriter,
    id: Result<RecordId, ApiError>,
    version: IfMatch,
    input: JsonBody<SheetInput>,
    db: Db<'_>,
) -> Result<Tagged<TestView>, ApiError> {
    let (id, sheet) = (id?.0, Sheet::check(&input.0).map_err(ApiError::Fields)?);
    let transaction = db.0.begin().await.map_err(StoreError::from)?;
    let record = store::update_test(&transaction, id, version.0, &sheet, Act::of("edited", Some(by.0.id))).await?;
    transaction.commit().await.map_err(StoreError::from)?;
    Ok(Tagged::ok(record.version, TestView::of(record, &by.0)))
}
