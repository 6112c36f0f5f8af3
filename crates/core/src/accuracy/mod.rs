//! Accuracy of one study: the 2x2 table, its proportions and ratios, an interval for each, and what is computed of biases: a reference standard that errs,
//! people who were not verified.

mod flow;
mod imperfect_reference;
mod levels;
mod partial_verification;
mod proportion;
mod ratio;
mod rebuild;
mod study;
mod table;

pub use flow::{Flow, Uninterpretable, UninterpretableAs};
pub use imperfect_reference::{
    ApparentAccuracy, CorrectedOverRange, CorrectedReference, DependenceBounds, ReferenceErrors, ReferenceFlag,
    ReferenceRange, apparent_accuracy, correct_for_reference, correct_over_range,
};
pub use levels::{LevelAccuracy, LevelCounts, LevelCut, LevelInput, LevelTable, check_levels, collapse, level_table};
pub use partial_verification::{
    CorrectedShare, VerificationCounts, VerificationFlag, VerifiedAccuracy, correct_for_verification, corrected_table,
};
pub use proportion::{ProportionMethod, proportion_interval};
pub use ratio::{RatioMethod, corrected_ratio, diagnostic_odds_ratio, log_ratio_interval, score_ratio_interval};
pub use rebuild::{
    Fact, Figure, MAX_N, MAX_TABLES, MAX_UNKNOWN_ARM, RebuildError, Rebuilt, RebuiltTable, Rounded, Rules, Spread,
    Total, rebuild,
};
pub use study::{Methods, Note, StudyAccuracy, study_accuracy};
pub use table::{Arm, Counts, RawCounts};
