//! Frozen pools: a pool as it was at a day, for guidelines and sheets to cite, and how it differs from today's.

use std::collections::HashMap;
use std::sync::Arc;

use chrono::{DateTime, SecondsFormat, Utc};
use pruvex_core::accuracy::RawCounts;
use pruvex_core::catalogue::Region;
use pruvex_core::evidence::{
    Difference, Selection, Side, Snapshot, SnapshotFile, SnapshotResult, SnapshotTest, StandingResult, differences,
    side,
};
use pruvex_core::pooling::{ModelChoice, Pooled};
use pruvex_core::{Estimate, FieldError, FieldErrorCode, Ratio};
use pruvex_store::ConnectionTrait;
use pruvex_store::pooling::{self as store, SnapshotRecord};
use rocket::http::{ContentType, Status};
use rocket::request::FromParam;
use rocket::response::status::Custom;
use rocket::serde::json::Json;
use rocket::serde::{Deserialize, Serialize};
use rocket::{State, get, post};
use utoipa::ToSchema;
use uuid::Uuid;

use super::pools::{Chosen, Gathered, NoPool, PoolInput, gather, pool_with, reports};
use crate::body::JsonBody;
use crate::download::Download;
use crate::off::off;
use crate::params::{RecordId, choice};
use crate::people::{Reader, StudyWriter};
use crate::problem::{ApiError, Problem};
use crate::routes::catalogue::visible_test;
use crate::state::{AppState, Db};

/// A pool that is to be frozen.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(crate = "rocket::serde", deny_unknown_fields)]
pub(crate) struct SnapshotInput {
    /// What it is called.
    title: String,
    /// What it is for.
    #[serde(default)]
    note: String,
    pool: PoolInput,
}

/// A frozen pool.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct SnapshotView {
    id: Uuid,
    /// SHA-256 of its content when it was frozen.
    hash: String,
    /// Who froze it.
    by: Option<String>,
    at: DateTime<Utc>,
    snapshot: Snapshot,
}

impl From<SnapshotRecord> for SnapshotView {
    fn from(SnapshotRecord { id, snapshot, hash, by, at }: SnapshotRecord) -> Self {
        Self { id, hash, by, at, snapshot }
    }
}

/// A frozen pool in a list.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct SnapshotRow {
    id: Uuid,
    title: String,
    condition: String,
    tests: Vec<SnapshotTest>,
    sample: bool,
    by: Option<String>,
    at: DateTime<Utc>,
    /// The same selection holds something else by now.
    stale: bool,
}

/// Where a ratio's interval lies by a threshold, then and now.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct SideOfThreshold {
    threshold: f64,
    before: Option<Side>,
    now: Option<Side>,
}

/// How a frozen pool differs from the same selection now.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct SnapshotDifference {
    /// Something entered, left or changed.
    stale: bool,
    differences: Vec<Difference>,
    /// What the same selection answers now; `null` when nothing is left.
    now: Option<Pooled>,
    lr_positive: SideOfThreshold,
    lr_negative: SideOfThreshold,
}

/// Freezes a pool as it is now.
#[utoipa::path(context_path = "/api/v1", tag = "pooling", request_body = SnapshotInput,
    responses((status = 201, body = SnapshotView), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[post("/snapshots", data = "<input>")]
pub(crate) async fn freeze_pool(
    by: StudyWriter,
    input: JsonBody<SnapshotInput>,
    state: &State<AppState>,
    db: Db<'_>,
) -> Result<Custom<Json<SnapshotView>>, ApiError> {
    let input = input.0;
    let (title, note) = Snapshot::check_words(&input.title, &input.note).map_err(ApiError::Fields)?;
    let pool = input.pool;
    let (account, reader) = (by.0.id, Reader(by.0));
    let gathered = gather(&pool, &reader, db.0).await?;
    let (reports, region) = (reports(&gathered, db.0).await?, gathered.region);
    let pools = Arc::clone(&state.pools);
    let frozen = off(move || {
        let Chosen { out, pooled, .. } = gathered.choose(&pool, &pools);
        let pooled = pooled.map_err(|why| {
            let message = match why {
                NoPool::NoResults => "No result is in the pool.",
                NoPool::NotIdentified => "This model has no answer for these results.",
                NoPool::TooMany => "These are more results than can be pooled.",
            };
            vec![FieldError::new(
                "pool",
                FieldErrorCode::Invalid,
                "",
                message,
                "Choose other results or another model.",
            )]
        })?;
        let cells = |index: usize| {
            let [tp, fp, fn_, tn] = gathered.counts[index].cells().map(|cell| cell.map(f64::from));
            RawCounts { tp, fp, fn_, tn }
        };
        let results = gathered.members.iter().zip(&out).enumerate().map(|(index, (member, out))| SnapshotResult {
            id: member.id,
            version: gathered.versions[index],
            test: member.test,
            report: reports.get(&member.study).cloned().unwrap_or_default(),
            out: *out,
            counts: cells(index),
        });
        Ok(Snapshot {
            format: Snapshot::FORMAT.to_owned(),
            engine: Snapshot::engine(),
            frozen_at: Utc::now().to_rfc3339_opts(SecondsFormat::Secs, true),
            title,
            note,
            sample: gathered.sample(&out),
            results: results.collect(),
            condition: gathered.condition,
            tests: gathered.tests,
            selection: pool.selection,
            model: pool.model,
            answer: serde_json::to_value(pooled).unwrap_or_default(),
        })
    });
    let frozen: Snapshot = frozen.await?.map_err(ApiError::Fields)?;
    let record = store::create_snapshot(db.0, region, &frozen, account).await?;
    Ok(Custom(Status::Created, Json(record.into())))
}

/// Tests and the condition that they are asked about.
type Asked = (Vec<Uuid>, String);

/// Their results, with the names of the reports.
type Read = (Gathered, HashMap<Uuid, String>);

/// What frozen pools are compared with. Pools of the same tests are many, and the results of these are read once for all of them.
struct Today<'a, C> {
    by: &'a Reader,
    db: &'a C,
    /// Nothing of tests that may not be seen.
    known: HashMap<Asked, Option<Read>>,
}

impl<'a, C: ConnectionTrait> Today<'a, C> {
    fn of(by: &'a Reader, db: &'a C) -> Self {
        Self { by, db, known: HashMap::new() }
    }

    async fn read(&self, (tests, condition): Asked) -> Result<Read, ApiError> {
        let (condition, selection) = (Some(condition), Selection::default());
        let input = PoolInput { tests, condition, selection, by: None, model: ModelChoice::default() };
        let gathered = gather(&input, self.by, self.db).await?;
        let reports = reports(&gathered, self.db).await?;
        Ok((gathered, reports))
    }

    /// The same selection as it is now; `None` when its tests may not be seen.
    async fn standing(&mut self, snapshot: &Snapshot) -> Result<Option<Vec<StandingResult>>, ApiError> {
        let asked = (snapshot.tests.iter().map(|test| test.id).collect(), snapshot.condition.clone());
        if !self.known.contains_key(&asked) {
            let read = match self.read(asked.clone()).await {
                Ok(read) => Some(read),
                Err(ApiError::NotFound { .. }) => None,
                Err(error) => return Err(error),
            };
            self.known.insert(asked.clone(), read);
        }
        let Some((gathered, reports)) = self.known.get(&asked).and_then(Option::as_ref) else { return Ok(None) };
        let out = snapshot.selection.why_out(&gathered.members, None);
        let now =
            gathered.members.iter().zip(out).zip(&gathered.counts).map(|((member, out), counts)| StandingResult {
                id: member.id,
                report: reports.get(&member.study).cloned().unwrap_or_default(),
                out,
                counts: *counts,
            });
        Ok(Some(now.collect()))
    }

    /// Whether the same selection holds something else by now; `None` when its tests may not be seen.
    async fn differs(&mut self, snapshot: &Snapshot) -> Result<Option<bool>, ApiError> {
        Ok(self.standing(snapshot).await?.map(|now| !differences(snapshot, &now).is_empty()))
    }
}

/// A frozen pool by its name.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct NamedSnapshot {
    pub id: Uuid,
    pub title: String,
}

/// The frozen pools of a test that are as the evidence stands.
pub(crate) async fn current_snapshots(
    test: Uuid,
    by: &Reader,
    db: &impl ConnectionTrait,
) -> Result<Vec<NamedSnapshot>, ApiError> {
    let (mut current, mut today) = (Vec::new(), Today::of(by, db));
    for SnapshotRecord { id, snapshot, .. } in store::list_snapshots_of(db, test).await? {
        if today.differs(&snapshot).await? == Some(false) {
            current.push(NamedSnapshot { id, title: snapshot.title });
        }
    }
    Ok(current)
}

/// The frozen pools, of a region, of a test or all, the newest first, as far as their tests may be seen.
#[utoipa::path(context_path = "/api/v1", tag = "pooling",
    params(("region" = Option<Region>, Query), ("test" = Option<Uuid>, Query, description = "only those that it is in")),
    responses((status = 200, body = Vec<SnapshotRow>), (status = 400, body = Problem)))]
#[get("/snapshots?<region>&<test>")]
pub(crate) async fn list_snapshots(
    by: Reader,
    region: Option<&str>,
    test: Option<&str>,
    db: Db<'_>,
) -> Result<Json<Vec<SnapshotRow>>, ApiError> {
    let region = choice("region", region, &Region::ALL.map(Region::code), Region::from_code)?;
    let records = match test.map(RecordId::from_param).transpose()? {
        Some(RecordId(test)) => store::list_snapshots_of(db.0, test).await?,
        None => store::list_snapshots(db.0, region).await?,
    };
    let (mut rows, mut today) = (Vec::new(), Today::of(&by, db.0));
    for SnapshotRecord { id, snapshot, by: name, at, .. } in records {
        let Some(stale) = today.differs(&snapshot).await? else { continue };
        let Snapshot { title, condition, tests, sample, .. } = snapshot;
        rows.push(SnapshotRow { id, title, condition, tests, sample, by: name, at, stale });
    }
    Ok(Json(rows))
}

/// A frozen pool whose tests this account may see.
async fn visible(id: Uuid, by: &Reader, db: &Db<'_>) -> Result<SnapshotRecord, ApiError> {
    let record = store::get_snapshot(db.0, id).await?;
    for test in &record.snapshot.tests {
        visible_test(db.0, test.id, &by.0).await?;
    }
    Ok(record)
}

/// A frozen pool as it was.
#[utoipa::path(context_path = "/api/v1", tag = "pooling", params(("id" = Uuid, Path)),
    responses((status = 200, body = SnapshotView), (status = 404, body = Problem)))]
#[get("/snapshots/<id>")]
pub(crate) async fn get_snapshot(
    by: Reader,
    id: Result<RecordId, ApiError>,
    db: Db<'_>,
) -> Result<Json<SnapshotView>, ApiError> {
    Ok(Json(visible(id?.0, &by, &db).await?.into()))
}

/// A frozen pool as a file that `pruvex verify` confirms.
#[utoipa::path(context_path = "/api/v1", tag = "pooling", params(("id" = Uuid, Path)),
    responses((status = 200, body = SnapshotFile), (status = 404, body = Problem)))]
#[get("/snapshots/<id>/file")]
pub(crate) async fn get_snapshot_file(
    by: Reader,
    id: Result<RecordId, ApiError>,
    db: Db<'_>,
) -> Result<Download, ApiError> {
    let SnapshotRecord { id, snapshot, hash, .. } = visible(id?.0, &by, &db).await?;
    let file = serde_json::to_vec_pretty(&SnapshotFile { hash, snapshot }).map_err(|_| ApiError::Internal)?;
    Ok(Download::new(file, ContentType::JSON, &format!("pruvex-pool-{id}.json")))
}

/// How a frozen pool differs from the same selection now, and by which thresholds its ratios lie.
#[utoipa::path(context_path = "/api/v1", tag = "pooling",
    params(("id" = Uuid, Path), ("lr_positive" = Option<f64>, Query, description = "Threshold for LR+, 5 unless stated"),
        ("lr_negative" = Option<f64>, Query, description = "Threshold for LR-, 0.2 unless stated")),
    responses((status = 200, body = SnapshotDifference), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[get("/snapshots/<id>/difference?<lr_positive>&<lr_negative>")]
pub(crate) async fn compare_snapshot(
    by: Reader,
    id: Result<RecordId, ApiError>,
    lr_positive: Option<&str>,
    lr_negative: Option<&str>,
    state: &State<AppState>,
    db: Db<'_>,
) -> Result<Json<SnapshotDifference>, ApiError> {
    let threshold = |field, given: Option<&str>, usual| {
        let positive = |text: &str| text.parse().ok().filter(|it: &f64| it.is_finite() && *it > 0.0);
        Ok::<_, ApiError>(choice(field, given, &["a number above 0"], positive)?.unwrap_or(usual))
    };
    let thresholds = [threshold("lr_positive", lr_positive, 5.0)?, threshold("lr_negative", lr_negative, 0.2)?];
    let record = store::get_snapshot(db.0, id?.0).await?;
    let unseen = || ApiError::not_found("frozen pool", record.id);
    let now = Today::of(&by, db.0).standing(&record.snapshot).await?.ok_or_else(unseen)?;
    let pools = Arc::clone(&state.pools);
    let compared = off(move || {
        let differences = differences(&record.snapshot, &now);
        let part = now.iter().filter(|it| it.out.is_none()).map(|it| it.counts).collect();
        let today = pool_with(&pools, &part, record.snapshot.model).ok();
        let before = record.snapshot.pooled().ok();
        let crossing = |threshold: f64, of: fn(&Pooled) -> Option<Estimate<Ratio>>| {
            let lies = |pooled: &Option<Pooled>| Some(side(of(pooled.as_ref()?)?, threshold));
            SideOfThreshold { threshold, before: lies(&before), now: lies(&today) }
        };
        SnapshotDifference {
            stale: !differences.is_empty(),
            lr_positive: crossing(thresholds[0], |pooled| pooled.summary.lr_positive),
            lr_negative: crossing(thresholds[1], |pooled| pooled.summary.lr_negative),
            differences,
            now: today,
        }
    });
    Ok(Json(compared.await?))
}
