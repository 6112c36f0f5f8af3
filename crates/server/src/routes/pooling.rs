//! The pooled answer of a test's studies.

use pruvex_core::pooling::{PoolOptions, Pooled, pool};
use pruvex_store::evidence::{StudyRecord, list_studies};
use rocket::get;
use rocket::serde::Serialize;
use rocket::serde::json::Json;
use utoipa::ToSchema;

use crate::params::RecordId;
use crate::problem::{ApiError, Problem};
use crate::state::Db;

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

/// Pools studies off the asynchronous threads: a large or nasty set takes tens of milliseconds.
pub(crate) async fn pool_studies(groups: Vec<Vec<StudyRecord>>) -> Result<Vec<PooledAnswer>, ApiError> {
    let work = move || groups.iter().map(|group| answer(group)).collect();
    rocket::tokio::task::spawn_blocking(work).await.map_err(|_| ApiError::Internal)
}

fn answer(studies: &[StudyRecord]) -> PooledAnswer {
    let counts: Vec<_> = studies.iter().map(|record| record.study.counts).collect();
    PooledAnswer {
        evidence: Evidence::of(studies.len()),
        sample: studies.iter().any(|record| record.sample),
        pooled: pool(&counts, PoolOptions::default()).ok(),
    }
}

impl PooledAnswer {
    pub fn parts(self) -> (Evidence, bool, Option<Pooled>) {
        (self.evidence, self.sample, self.pooled)
    }
}

/// Summary sensitivity, specificity and ratios of a test's studies, with the model used and why.
#[utoipa::path(context_path = "/api/v1", tag = "pooling", params(("id" = Uuid, Path)),
    responses((status = 200, body = PooledAnswer), (status = 404, body = Problem)))]
#[get("/tests/<id>/pooled")]
pub(crate) async fn pool_test(id: Result<RecordId, ApiError>, db: Db<'_>) -> Result<Json<PooledAnswer>, ApiError> {
    let id = id?.0;
    pruvex_store::catalogue::get_test(db.0, id).await?;
    let studies = list_studies(db.0, &[id]).await?;
    pool_studies(vec![studies]).await?.pop().map(Json).ok_or(ApiError::Internal)
}
