//! What each level of a test's finding is worth, over the studies that share its levels.

use pruvex_core::accuracy::LevelCounts;
use pruvex_core::pooling::{IntervalChoice, PooledLevelRatio, pool_level_ratios, sharing_levels};
use pruvex_store::evidence::ResultCandidate;

use super::Pools;
use super::pools::Wait;

/// The levels of a test's finding.
#[derive(Debug, Clone, Default)]
pub(crate) struct LevelRatios {
    /// Studies that share these levels.
    pub studies: usize,
    /// Studies that give others; they are left out.
    pub apart: usize,
    /// At least one of those that count is made up.
    pub sample: bool,
    /// Each level, the most normal first; empty where no study gives levels, and while they are being computed.
    pub levels: Vec<PooledLevelRatio>,
}

impl LevelRatios {
    /// Of the results that are in the pool of a test.
    pub fn of(pools: &Pools, results: &[&ResultCandidate], interval: IntervalChoice, wait: Wait) -> Self {
        let given: Vec<&ResultCandidate> = results.iter().copied().filter(|it| !it.levels.is_empty()).collect();
        let all: Vec<&[LevelCounts]> = given.iter().map(|it| it.levels.as_slice()).collect();
        let sharing = sharing_levels(&all);
        let shared: Vec<&[LevelCounts]> = sharing.iter().map(|place| all[*place]).collect();
        // A set too large to be pooled fits no page either.
        let pool = |tables: &[_]| pools.of_test(tables, interval, wait).0.ok_or(());
        Self {
            studies: sharing.len(),
            apart: all.len() - sharing.len(),
            sample: sharing.iter().any(|place| given[*place].sample),
            levels: pool_level_ratios(&shared, pool).unwrap_or_default(),
        }
    }
}
