//! What stands behind a test: the pooled answer of its studies.

use std::sync::Arc;

use pruvex_core::accuracy::{Counts, Uninterpretable};
use pruvex_core::catalogue::Sheet;
use pruvex_core::evidence::{OfTest, left_out};
use pruvex_core::pooling::{IntervalChoice, Pooled, Prediction, Summary, prediction};
use pruvex_store::evidence::ResultCandidate;
use serde::Serialize;
use sha2::{Digest, Sha256};
use utoipa::ToSchema;

use super::Pools;
use super::level_ratios::LevelRatios;
use super::pools::{Standing, Wait};

/// How much stands behind a test.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Evidence {
    /// No study: unknown, which is not the same as useless.
    NotStudied,
    /// No study either, but evidence was looked for, and none can be used.
    NothingUsable,
    /// One study.
    OneStudy,
    /// Two or three studies.
    FewStudies,
    /// Four studies or more.
    SeveralStudies,
}

impl Evidence {
    /// Their codes.
    pub const CODES: [&'static str; 5] =
        ["not_studied", "nothing_usable", "one_study", "few_studies", "several_studies"];

    /// The one with this code.
    #[must_use]
    pub fn from_code(code: &str) -> Option<Self> {
        let all = [Self::NotStudied, Self::NothingUsable, Self::OneStudy, Self::FewStudies, Self::SeveralStudies];
        Self::CODES.iter().position(|known| *known == code).map(|index| all[index])
    }

    pub(crate) fn of(studies: usize) -> Self {
        match studies {
            0 => Self::NotStudied,
            1 => Self::OneStudy,
            2 | 3 => Self::FewStudies,
            _ => Self::SeveralStudies,
        }
    }

    /// The same with what its sheet says: whether somebody looked where no study is entered.
    pub(crate) fn with(self, sheet: &Sheet) -> Self {
        if self == Self::NotStudied && !sheet.searches.is_empty() { Self::NothingUsable } else { self }
    }
}

/// A test's studies pooled, with what stands behind them.
#[derive(Clone)]
pub(crate) struct Backed {
    pub evidence: Evidence,
    /// At least one made-up study is in it.
    pub sample: bool,
    pub pooled: Option<Arc<Pooled>>,
    /// How that answer stands.
    pub standing: Standing,
    /// Results, and people in them.
    pub extent: (usize, u64),
    /// Where the next study is expected.
    pub ahead: Prediction,
    /// What each level of the finding is worth, where studies tell.
    pub levels: LevelRatios,
    /// Tests that could not be interpreted, which the figures leave out.
    pub uninterpretable: Uninterpretable,
}

/// Names a test's figures, so that it can be told whether they are still the same.
pub(crate) fn figures_version(summary: Option<&Summary>) -> String {
    let Some(summary) = summary else { return String::new() };
    let written = serde_json::to_vec(summary).unwrap_or_default();
    Sha256::digest(written)[..8].iter().fold(String::new(), |text, byte| format!("{text}{byte:02x}"))
}

/// Pools those of a test's results that are about a condition, of a test that is taught for that or another one; none without any. Takes tens of milliseconds when a set is
/// large or nasty.
pub(crate) fn back<'a>(
    pools: &Pools,
    results: impl IntoIterator<Item = &'a ResultCandidate>,
    (taught, asked): (&str, &str),
    interval: IntervalChoice,
    wait: Wait,
) -> Option<Backed> {
    let results: Vec<&ResultCandidate> = results.into_iter().collect();
    let of_test: Vec<OfTest<'_>> = results.iter().map(|it| it.of_test()).collect();
    let why = left_out(&of_test, taught, asked);
    let part: Vec<&ResultCandidate> =
        results.into_iter().zip(why).filter(|(_, why)| why.is_none()).map(|(it, _)| it).collect();
    if part.is_empty() {
        return None;
    }
    let counts: Vec<Counts> = part.iter().map(|it| it.counts).collect();
    let (pooled, standing) = pools.of_test(&counts, interval, wait);
    let people = counts.iter().flat_map(Counts::cells).flatten().map(u64::from).sum();
    let ahead = pooled.as_ref().map(|pooled| prediction(&counts, pooled)).unwrap_or_default();
    let sample = part.iter().any(|it| it.sample);
    let uninterpretable = Uninterpretable::among(part.iter().map(|it| (&it.counts, &it.flow)));
    let levels = LevelRatios::of(pools, &part, interval, wait);
    let (evidence, extent) = (Evidence::of(counts.len()), (counts.len(), people));
    Some(Backed { evidence, sample, pooled, standing, extent, ahead, levels, uninterpretable })
}
