//! Accuracy of one study: the 2x2 table, its proportions and ratios, and an interval for each.

mod proportion;
mod ratio;
mod rebuild;
mod study;
mod table;

pub use proportion::{ProportionMethod, proportion_interval};
pub use ratio::{RatioMethod, corrected_ratio, diagnostic_odds_ratio, log_ratio_interval, score_ratio_interval};
pub use rebuild::{
    Fact, Figure, MAX_N, MAX_TABLES, MAX_UNKNOWN_ARM, RebuildError, Rebuilt, RebuiltTable, Rounded, Rules, Spread,
    Total, rebuild,
};
pub use study::{Methods, Note, StudyAccuracy, study_accuracy};
pub use table::{Arm, Counts, RawCounts};
