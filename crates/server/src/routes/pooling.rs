//! The pooled answer of a test's studies.

use std::collections::HashMap;
use std::sync::Arc;

use moka::sync::Cache;
use pruvex_core::accuracy::Counts;
use pruvex_core::pooling::{PoolOptions, Pooled, Prediction, pool, prediction};
use pruvex_store::evidence::{ResultCounts, list_counts};
use rocket::serde::Serialize;
use rocket::serde::json::Json;
use rocket::{State, get};
use utoipa::ToSchema;
use uuid::Uuid;

use crate::off::off;
use crate::params::RecordId;
use crate::people::Reader;
use crate::problem::{ApiError, Problem};
use crate::routes::catalogue::visible_test;
use crate::state::{AppState, Db};

/// How much stands behind a test.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, ToSchema)]
#[serde(crate = "rocket::serde", rename_all = "snake_case")]
pub(crate) enum Evidence {
    /// No study: unknown, which is not the same as useless.
    NotStudied,
    /// One study.
    OneStudy,
    /// Two or three studies.
    FewStudies,
    /// Four studies or more.
    SeveralStudies,
}

impl Evidence {
    pub const CODES: [&'static str; 4] = ["not_studied", "one_study", "few_studies", "several_studies"];

    pub fn from_code(code: &str) -> Option<Self> {
        let all = [Self::NotStudied, Self::OneStudy, Self::FewStudies, Self::SeveralStudies];
        Self::CODES.iter().position(|known| *known == code).map(|index| all[index])
    }

    pub fn of(studies: usize) -> Self {
        match studies {
            0 => Self::NotStudied,
            1 => Self::OneStudy,
            2 | 3 => Self::FewStudies,
            _ => Self::SeveralStudies,
        }
    }
}

/// The pooled answer of one test.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct PooledAnswer {
    /// How much stands behind it.
    evidence: Evidence,
    /// At least one made-up study is in it.
    sample: bool,
    /// `null` when there is no study.
    pooled: Option<Pooled>,
}

/// Pooled answers by the counts they rest on. A pool depends on nothing else, so nothing ever has to be taken back: studies that
/// change have other counts.
pub(crate) struct Pools(Cache<Vec<Counts>, Option<Arc<Pooled>>>);

impl Pools {
    /// For so many answers: a large catalogue, and a few thousand that are no longer asked for. At about 2 kB each that is 40 MB.
    pub fn new() -> Self {
        Self(Cache::new(20_000))
    }

    pub fn of(&self, counts: &Vec<Counts>) -> Option<Arc<Pooled>> {
        self.0.get_with_by_ref(counts, || pool(counts, PoolOptions::default()).ok().map(Arc::new))
    }
}

/// A test's studies pooled, with what stands behind them.
pub(crate) struct Backed {
    pub evidence: Evidence,
    /// At least one made-up study is in it.
    pub sample: bool,
    pub pooled: Option<Arc<Pooled>>,
    /// Where the next study is expected.
    pub ahead: Prediction,
}

/// Pools the studies of each test that has any; takes tens of milliseconds when a set is large or nasty.
pub(crate) fn pool_each(pools: &Pools, studies: Vec<ResultCounts>) -> HashMap<Uuid, Backed> {
    let mut by_test: HashMap<Uuid, (bool, Vec<Counts>)> = HashMap::new();
    for study in studies {
        let (sample, counts) = by_test.entry(study.test_id).or_default();
        *sample |= study.sample;
        counts.push(study.counts);
    }
    let backed = |(test, (sample, counts)): (Uuid, (bool, Vec<Counts>))| {
        let pooled = pools.of(&counts);
        let ahead = pooled.as_ref().map(|pooled| prediction(&counts, pooled)).unwrap_or_default();
        (test, Backed { evidence: Evidence::of(counts.len()), sample, pooled, ahead })
    };
    by_test.into_iter().map(backed).collect()
}

/// Summary sensitivity, specificity and ratios of a test's studies, with the model used and why.
#[utoipa::path(context_path = "/api/v1", tag = "pooling", params(("id" = Uuid, Path)),
    responses((status = 200, body = PooledAnswer), (status = 404, body = Problem)))]
#[get("/tests/<id>/pooled")]
pub(crate) async fn pool_test(
    by: Reader,
    id: Result<RecordId, ApiError>,
    state: &State<AppState>,
    db: Db<'_>,
) -> Result<Json<PooledAnswer>, ApiError> {
    let id = id?.0;
    visible_test(db.0, id, &by.0).await?;
    Ok(Json(back(id, state, &db).await?.into()))
}

impl From<Option<Backed>> for PooledAnswer {
    fn from(backed: Option<Backed>) -> Self {
        match backed {
            None => Self { evidence: Evidence::NotStudied, sample: false, pooled: None },
            Some(Backed { evidence, sample, pooled, .. }) => {
                Self { evidence, sample, pooled: pooled.map(|pooled| Pooled::clone(&pooled)) }
            }
        }
    }
}

/// What stands behind one test; none without a study.
pub(crate) async fn back(test: Uuid, state: &AppState, db: &Db<'_>) -> Result<Option<Backed>, ApiError> {
    back_with(list_counts(db.0, Some(&[test])).await?, state).await
}

/// What these counts of one test would stand behind; none without any.
pub(crate) async fn back_with(studies: Vec<ResultCounts>, state: &AppState) -> Result<Option<Backed>, ApiError> {
    let pools = Arc::clone(&state.pools);
    Ok(off(move || pool_each(&pools, studies)).await?.into_values().next())
}
