//! What each level of a test's finding is worth, over the studies that share its levels.

use pruvex_core::likelihood::post_test_interval;
use pruvex_core::pooling::PooledLevelRatio;
use pruvex_core::{Estimate, Probability, TestId};
use serde::Serialize;
use utoipa::ToSchema;

use crate::catalogue::{shown_condition, visible_test};
use crate::people::Reader;
use crate::pooling::backed;
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
/// No such test that this person may see, a condition that it does not show.
pub async fn answer_levels(
    app: &App,
    by: &Reader,
    id: TestId,
    condition: Option<&str>,
    pre_test: Option<Probability>,
) -> Result<LevelsAnswer, AppError> {
    let test = visible_test(&app.db, id, by.account()).await?;
    let conditions = (test.sheet.condition.as_str(), shown_condition(&test.sheet, condition)?);
    let backed = backed(app, id, conditions, by.role()).await?;
    let found = backed.map(|backed| backed.levels).unwrap_or_default();
    let answer = |pooled: PooledLevelRatio| LevelAnswer {
        after: pre_test.and_then(|before| post_test_interval(before, pooled.ratio?)),
        pooled,
    };
    Ok(LevelsAnswer {
        studies: found.studies,
        apart: found.apart,
        sample: found.sample,
        levels: found.levels.into_iter().map(answer).collect(),
    })
}
