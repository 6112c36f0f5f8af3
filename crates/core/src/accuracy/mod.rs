//! Accuracy of one study: the 2x2 table, its proportions and ratios, and an interval for each.

mod proportion;
mod ratio;
mod study;
mod table;

pub use proportion::{ProportionMethod, proportion_interval};
pub use ratio::{RatioMethod, corrected_ratio, diagnostic_odds_ratio, log_ratio_interval, score_ratio_interval};
pub use study::{Methods, Note, StudyAccuracy, study_accuracy};
pub use table::{Arm, Counts, RawCounts};
