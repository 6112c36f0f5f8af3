//! What each level of a test's finding is worth, over the studies that share its levels.

use std::sync::Arc;

use pruvex_core::accuracy::LevelCounts;
use pruvex_core::likelihood::post_test_interval;
use pruvex_core::pooling::{PooledLevelRatio, pool_level_ratios, sharing_levels};
use pruvex_core::{Estimate, Probability, TestId};
use pruvex_store::evidence as store;
use serde::Serialize;
use utoipa::ToSchema;

use super::results::out_of_pool;
use crate::blocking::blocking;
use crate::catalogue::visible_test;
use crate::people::{Reader, current_settings, seen_by};
use crate::{App, AppError};

/// The levels of a test's finding.
#[derive(Debug, Serialize, ToSchema)]
pub struct LevelsAnswer {
    /// Studies that share these levels.
    studies: usize,
    /// Studies that give others; they are left out.
    apart: usize,
    /// At least one of those that count is made up.
    sample: bool,
    /// Each level, the most normal first; empty where no study gives levels.
    levels: Vec<LevelAnswer>,
}

/// One level.
#[derive(Debug, Serialize, ToSchema)]
pub struct LevelAnswer {
    #[serde(flatten)]
    pooled: PooledLevelRatio,
    /// Probability of the condition at this level; `null` without a pre-test probability, or where it cannot be estimated.
    after: Option<Estimate<Probability>>,
}

/// What each level of a test's finding is worth: of the results that are in the pool of its sheet, those that share their levels.
///
/// # Errors
/// No such test that this person may see.
pub async fn answer_levels(
    app: &App,
    by: &Reader,
    id: TestId,
    pre_test: Option<Probability>,
) -> Result<LevelsAnswer, AppError> {
    let test = visible_test(&app.db, id, by.account()).await?;
    let mut results = store::list_results(&app.db, &[id], seen_by(by.role(), &app.db).await?).await?;
    let out = out_of_pool(&results, &test.sheet.condition);
    results.retain(|it| !it.result.levels.is_empty() && !out.contains_key(&it.id));
    let (pools, interval) = (Arc::clone(&app.pools), current_settings(&app.db).await?.interval);
    blocking(move || {
        let all: Vec<&[LevelCounts]> = results.iter().map(|it| it.result.levels.as_slice()).collect();
        let sharing = sharing_levels(&all);
        let shared: Vec<&[LevelCounts]> = sharing.iter().map(|place| all[*place]).collect();
        // Kept: every step of the pre-test probability asks again. A set too large to be pooled fits no page either.
        let pooled = pool_level_ratios(&shared, |tables| pools.of(tables, interval).ok_or(())).unwrap_or_default();
        let answer = |pooled: PooledLevelRatio| LevelAnswer {
            after: pre_test.and_then(|before| post_test_interval(before, pooled.ratio?)),
            pooled,
        };
        LevelsAnswer {
            studies: sharing.len(),
            apart: all.len() - sharing.len(),
            sample: sharing.iter().any(|place| results[*place].sample),
            levels: pooled.into_iter().map(answer).collect(),
        }
    })
    .await
}
