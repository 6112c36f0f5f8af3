//! Likelihood ratios of the levels of a finding over studies that share them.

use std::borrow::Borrow;

use serde::Serialize;

use super::Pooled;
use crate::accuracy::{Counts, LevelCounts};
use crate::name::name_key;
use crate::{Estimate, Ratio};

/// A level's likelihood ratio over several studies.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct PooledLevelRatio {
    /// Name of the level.
    pub name: String,
    /// People with the condition at this level.
    pub with: u64,
    /// People without it.
    pub without: u64,
    /// How much likelier it is with the condition than without; none where it cannot be estimated.
    pub ratio: Option<Estimate<Ratio>>,
    /// The computation reached its end.
    pub converged: bool,
}

/// Which of these studies share levels, of the same names in the same order: the largest set of them, the first of several; by place.
#[must_use]
pub fn sharing_levels(studies: &[&[LevelCounts]]) -> Vec<usize> {
    let scale = |levels: &[LevelCounts]| levels.iter().map(|it| name_key(&it.name)).collect::<Vec<_>>();
    let scales: Vec<Vec<String>> = studies.iter().map(|levels| scale(levels)).collect();
    let of = |place: usize| (0..scales.len()).filter(|other| scales[*other] == scales[place]).collect::<Vec<_>>();
    let sets = (0..scales.len()).filter(|place| !scales[*place].is_empty()).map(of);
    // `max_by_key` answers the last of equals; the first is wanted.
    sets.rev().max_by_key(Vec::len).unwrap_or_default()
}

/// Likelihood ratio of each level over studies that [share them](sharing_levels).
///
/// Each level is taken against all others: its table has the people at the level as positives, and its LR+ is `P(level | condition) / P(level |
/// no condition)`. The tables are pooled as any others, by `pool`, which may keep its answers; so one study keeps its score interval, and the
/// ratios of several levels are estimated one by one: the shares behind them need not add up to one to the last digit.
///
/// # Errors
/// Those of `pool`. None without studies, or where these do not share their levels.
pub fn pool_level_ratios<P: Borrow<Pooled>, E>(
    studies: &[&[LevelCounts]],
    pool: impl Fn(&[Counts]) -> Result<P, E>,
) -> Result<Vec<PooledLevelRatio>, E> {
    let Some(first) = studies.first().filter(|_| sharing_levels(studies).len() == studies.len()) else {
        return Ok(Vec::new());
    };
    let ratio_of = |place: usize| {
        let tables: Vec<Counts> = studies.iter().filter_map(|levels| against_others(levels, place)).collect();
        let pooled = pool(&tables)?;
        let pooled = pooled.borrow();
        let sum = |of: fn(&LevelCounts) -> u32| studies.iter().map(|it| u64::from(of(&it[place]))).sum::<u64>();
        let (with, without) = (sum(|it| it.with.get()), sum(|it| it.without.get()));
        Ok(PooledLevelRatio {
            name: first[place].name.clone(),
            with,
            without,
            // Where nobody is at a level the data say nothing of its ratio, whatever a model would.
            ratio: pooled.summary.lr_positive.filter(|_| with + without > 0),
            converged: pooled.converged,
        })
    };
    (0..first.len()).map(ratio_of).collect()
}

/// The 2x2 table of one level against all others.
fn against_others(levels: &[LevelCounts], place: usize) -> Option<Counts> {
    let sum = |of: fn(&LevelCounts) -> u32| levels.iter().map(|it| f64::from(of(it))).sum::<f64>();
    let (n, m) = (sum(|it| it.with.get()), sum(|it| it.without.get()));
    let (x, y) = (f64::from(levels[place].with.get()), f64::from(levels[place].without.get()));
    Counts::full(x, y, n - x, m - y).ok()
}
