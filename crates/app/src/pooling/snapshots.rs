//! Frozen pools: a pool as it was at a day, for guidelines and sheets to cite, and how it differs from today's.

use std::collections::HashMap;
use std::sync::Arc;

use chrono::{DateTime, SecondsFormat, Utc};
use pruvex_core::accuracy::{Counts, RawCounts, ReferenceRange};
use pruvex_core::catalogue::Region;
use pruvex_core::evidence::{
    Difference, FrozenCorrection, Selection, Side, Snapshot, SnapshotFile, SnapshotResult, SnapshotTest,
    StandingResult, differences, side,
};
use pruvex_core::pooling::{IntervalMethod, ModelChoice, Pooled, correct_summary};
use pruvex_core::{Estimate, FieldErrorCode, Ratio, StudyId, TestId};
use pruvex_store::ConnectionTrait;
use pruvex_store::people::Account;
use pruvex_store::pooling::{self as store, SnapshotRecord};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

use super::gather::{Chosen, Gathered, NoPool, PoolInput, gather, pool_with, reports};
use crate::blocking::blocking;
use crate::catalogue::visible_test;
use crate::people::{Reader, StudyWriter, current_settings};
use crate::{App, AppError, FileContent, media};

/// A pool that is to be frozen.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SnapshotInput {
    /// What it is called.
    title: String,
    /// What it is for.
    #[serde(default)]
    note: String,
    pool: PoolInput,
    /// How its reference standard errs: what the summary would be then is frozen beside it.
    #[serde(default)]
    reference: Option<ReferenceRange>,
}

/// A frozen pool.
#[derive(Debug, Serialize, ToSchema)]
pub struct SnapshotView {
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
pub struct SnapshotRow {
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
pub struct SideOfThreshold {
    threshold: f64,
    before: Option<Side>,
    now: Option<Side>,
}

/// The intervals of a frozen pool, and those that it would have today.
#[derive(Debug, Serialize, ToSchema)]
pub struct IntervalThen {
    frozen: IntervalMethod,
    now: IntervalMethod,
}

/// How a frozen pool differs from the same selection now.
#[derive(Debug, Serialize, ToSchema)]
pub struct SnapshotDifference {
    /// Something entered, left or changed.
    stale: bool,
    differences: Vec<Difference>,
    /// What the same selection answers now, with the intervals that it was frozen with; `null` when nothing is left.
    now: Option<Pooled>,
    interval: IntervalThen,
    lr_positive: SideOfThreshold,
    lr_negative: SideOfThreshold,
}

/// Freezes a pool as it is now.
///
/// # Errors
/// As [`super::answer_pool`]; a title that is missing or too long, a pool that has no answer.
pub async fn freeze_pool(app: &App, by: &StudyWriter, input: SnapshotInput) -> Result<SnapshotView, AppError> {
    let (title, note) = Snapshot::check_words(&input.title, &input.note).map_err(AppError::Fields)?;
    let (pool, errors) = (input.pool, input.reference);
    let gathered = gather(&pool, by.account(), &app.db).await?;
    let (reports, region) = (reports(&gathered.studies, &app.db).await?, gathered.region);
    let pools = Arc::clone(&app.pools);
    let frozen = blocking(move || {
        let mut gathered = gathered;
        // Frozen is what is done today, whatever holds tomorrow.
        let studies = gathered.kept(&pool.selection.why_out(&gathered.members, None)).count();
        let interval = gathered.interval.method(pool.model, studies);
        gathered.interval = interval.into();
        let Chosen { out, counts, pooled, .. } = gathered.choose(&pool, &pools);
        let pooled = pooled.map_err(|why| {
            let message = match why {
                NoPool::NoResults => "No result is in the pool.",
                NoPool::NotIdentified => "This model has no answer for these results.",
                NoPool::TooMany => "These are more results than can be pooled.",
                NoPool::NoInterval => "The intervals asked for do not go with this model or these results.",
            };
            AppError::field("pool", FieldErrorCode::Invalid, "", message, "Choose other results or another model.")
        })?;
        let corrected = |errors| {
            let corrected = correct_summary(&counts, &pooled.summary, errors).ok_or_else(|| {
                let message = "A correction needs studies of people with and without the condition.";
                AppError::field("reference", FieldErrorCode::Invalid, "", message, "Freeze the pool without it.")
            })?;
            let corrected = serde_json::to_value(corrected).map_err(AppError::internal)?;
            Ok::<_, AppError>(FrozenCorrection { errors, corrected })
        };
        let reference = errors.map(corrected).transpose()?;
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
        Ok::<_, AppError>(Snapshot {
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
            interval: Some(interval),
            answer: serde_json::to_value(pooled).map_err(AppError::internal)?,
            reference,
        })
    });
    let frozen = frozen.await??;
    let record = store::create_snapshot(&app.db, region, &frozen, by.id()).await?;
    Ok(record.into())
}

/// Tests and the condition that they are asked about.
type Asked = (Vec<TestId>, String);

/// Their results, with the names of the reports.
type Read = (Gathered, HashMap<StudyId, String>);

/// What frozen pools are compared with. Pools of the same tests are many, and the results of these are read once for all of them.
struct Today<'a, C> {
    by: &'a Account,
    db: &'a C,
    /// Nothing of tests that may not be seen.
    known: HashMap<Asked, Option<Read>>,
}

impl<'a, C: ConnectionTrait> Today<'a, C> {
    fn of(by: &'a Account, db: &'a C) -> Self {
        Self { by, db, known: HashMap::new() }
    }

    async fn read(&self, (tests, condition): Asked) -> Result<Read, AppError> {
        let (condition, selection) = (Some(condition), Selection::default());
        let input = PoolInput { tests, condition, selection, by: None, model: ModelChoice::default(), interval: None };
        let gathered = gather(&input, self.by, self.db).await?;
        let reports = reports(&gathered.studies, self.db).await?;
        Ok((gathered, reports))
    }

    /// The same selection as it is now; `None` when its tests may not be seen.
    async fn standing(&mut self, snapshot: &Snapshot) -> Result<Option<Vec<StandingResult>>, AppError> {
        let asked = (snapshot.tests.iter().map(|test| test.id).collect(), snapshot.condition.clone());
        if !self.known.contains_key(&asked) {
            let read = match self.read(asked.clone()).await {
                Ok(read) => Some(read),
                Err(AppError::NotFound { .. }) => None,
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
    async fn differs(&mut self, snapshot: &Snapshot) -> Result<Option<bool>, AppError> {
        Ok(self.standing(snapshot).await?.map(|now| !differences(snapshot, &now).is_empty()))
    }
}

/// A frozen pool by its name.
#[derive(Debug, PartialEq, Eq, Serialize, ToSchema)]
pub struct NamedSnapshot {
    id: Uuid,
    title: String,
}

/// The frozen pools of a test that are as the evidence stands.
pub(crate) async fn current_snapshots(
    test: TestId,
    by: &Account,
    db: &impl ConnectionTrait,
) -> Result<Vec<NamedSnapshot>, AppError> {
    let (mut current, mut today) = (Vec::new(), Today::of(by, db));
    for SnapshotRecord { id, snapshot, .. } in store::list_snapshots_of(db, test).await? {
        if today.differs(&snapshot).await? == Some(false) {
            current.push(NamedSnapshot { id, title: snapshot.title });
        }
    }
    Ok(current)
}

/// Which frozen pools are listed.
#[derive(Debug, Default)]
pub struct SnapshotFilter {
    /// Of this region.
    pub region: Option<Region>,
    /// That hold this test.
    pub test: Option<TestId>,
}

/// The frozen pools, the newest first, as far as their tests may be seen.
///
/// # Errors
/// Database errors.
pub async fn list_snapshots(app: &App, by: &Reader, filter: &SnapshotFilter) -> Result<Vec<SnapshotRow>, AppError> {
    let records = match filter.test {
        Some(test) => store::list_snapshots_of(&app.db, test).await?,
        None => store::list_snapshots(&app.db, filter.region).await?,
    };
    let (mut rows, mut today) = (Vec::new(), Today::of(by.account(), &app.db));
    for SnapshotRecord { id, snapshot, by: name, at, .. } in records {
        let Some(stale) = today.differs(&snapshot).await? else { continue };
        let Snapshot { title, condition, tests, sample, .. } = snapshot;
        rows.push(SnapshotRow { id, title, condition, tests, sample, by: name, at, stale });
    }
    Ok(rows)
}

/// A frozen pool whose tests this account may see.
async fn visible(app: &App, by: &Reader, id: Uuid) -> Result<SnapshotRecord, AppError> {
    let record = store::get_snapshot(&app.db, id).await?;
    for test in &record.snapshot.tests {
        visible_test(&app.db, test.id, by.account()).await?;
    }
    Ok(record)
}

/// A frozen pool as it was.
///
/// # Errors
/// None that this person may see.
pub async fn get_snapshot(app: &App, by: &Reader, id: Uuid) -> Result<SnapshotView, AppError> {
    Ok(visible(app, by, id).await?.into())
}

/// A frozen pool as a file that `pruvex verify` confirms.
///
/// # Errors
/// None that this person may see.
pub async fn get_snapshot_file(app: &App, by: &Reader, id: Uuid) -> Result<FileContent, AppError> {
    let SnapshotRecord { id, snapshot, hash, .. } = visible(app, by, id).await?;
    let file = serde_json::to_vec_pretty(&SnapshotFile { hash, snapshot }).map_err(AppError::internal)?;
    Ok(FileContent::new(file, format!("pruvex-pool-{id}.json"), media::JSON))
}

/// Ratios by which a frozen pool is compared with today's.
#[derive(Debug, Clone, Copy)]
pub struct RatioThresholds {
    /// Of a positive result.
    pub positive: f64,
    /// Of a negative one.
    pub negative: f64,
}

impl Default for RatioThresholds {
    fn default() -> Self {
        Self { positive: 5.0, negative: 0.2 }
    }
}

/// How a frozen pool differs from the same selection now, and by which thresholds its ratios lie.
///
/// # Errors
/// None that this person may see.
pub async fn compare_snapshot(
    app: &App,
    by: &Reader,
    id: Uuid,
    thresholds: RatioThresholds,
) -> Result<SnapshotDifference, AppError> {
    let record = store::get_snapshot(&app.db, id).await?;
    let unseen = || AppError::not_found("frozen pool", record.id);
    let now = Today::of(by.account(), &app.db).standing(&record.snapshot).await?.ok_or_else(unseen)?;
    let (pools, standing) = (Arc::clone(&app.pools), current_settings(&app.db).await?.interval);
    let compared = blocking(move || {
        let differences = differences(&record.snapshot, &now);
        let part: Vec<Counts> = now.iter().filter(|it| it.out.is_none()).map(|it| it.counts).collect();
        let frozen = record.snapshot.interval.unwrap_or(IntervalMethod::Wald);
        // Told apart are the results, not the methods.
        let today = pool_with(&pools, &part, record.snapshot.model, frozen.into()).ok();
        let before = record.snapshot.pooled().ok();
        let crossing = |threshold: f64, of: fn(&Pooled) -> Option<Estimate<Ratio>>| {
            let lies = |pooled: &Option<Pooled>| Some(side(of(pooled.as_ref()?)?, threshold));
            SideOfThreshold { threshold, before: lies(&before), now: lies(&today) }
        };
        SnapshotDifference {
            stale: !differences.is_empty(),
            lr_positive: crossing(thresholds.positive, |pooled| pooled.summary.lr_positive),
            lr_negative: crossing(thresholds.negative, |pooled| pooled.summary.lr_negative),
            differences,
            interval: IntervalThen { frozen, now: standing.method(record.snapshot.model, part.len()) },
            now: today,
        }
    });
    compared.await
}
