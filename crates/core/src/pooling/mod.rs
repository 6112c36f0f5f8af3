//! Pooling of accuracy studies: random-effects models, what they were able to estimate, and the summary point.
//!
//! Stages, one file each: quadrature rules, the exact marginal likelihood with its derivatives, the Newton optimiser, the
//! search over starts and boundaries, the ladder that chooses a model the data can carry, the measures derived at the
//! summary point, and the answer that carries all of it. Beside them: profile intervals, the posterior under weak priors,
//! intervals from the studies' own scatter, prediction and weights, a reading in words, influence, ROC space, small-study
//! effects, what a reference standard that errs makes of a summary, and the meta-analysis of one quantity.

mod answer;
mod comparison;
mod derived;
mod heterogeneity;
mod imperfect_reference;
mod influence;
mod ladder;
mod lanes;
mod level_ratios;
mod marginal;
mod methods;
mod multistart;
mod normal;
mod optimise;
mod order;
mod posterior;
mod prediction;
mod profile;
mod quadrature;
mod reading;
mod roc_space;
mod sandwich;
mod small_study;
mod univariate;

pub use answer::{
    ArmName, ENGINE, IntervalChoice, IntervalMethod, LadderStep, MIN_FOR_CORRELATION, Model, ModelChoice, OtherScale,
    Pooled, PosteriorWorking, RatioWorking, Reason, ShareWorking, Warning, Workings,
};
pub use comparison::{
    ComparisonError, Contrast, LevelComparison, LevelSummary, LikelihoodRatioTest, MAX_LEVELS, NotCompared,
    compare_levels,
};
pub use derived::{MeanCovariance, Means, Summary, Variances};
pub use heterogeneity::{CochranQ, Heterogeneity, heterogeneity};
pub use imperfect_reference::{called_positive, correct_summary};
pub use influence::{LeftOut, each_left_out, leave_one_out};
pub use ladder::{PoolError, PoolOptions, other_scales, pool};
pub use level_ratios::{PooledLevelRatio, pool_level_ratios, sharing_levels};
pub use methods::methods_paragraph;
pub use multistart::Boundary;
pub use optimise::StopCause;
pub use posterior::{
    Ahead, Fineness, JointShape, LevelContrast, LevelPosterior, LevelsPosterior, Posterior, PosteriorMeans,
    PriorScales, Quantiles, posterior, posterior_levels,
};
pub use prediction::{Prediction, Weight, prediction, weights};
pub use reading::{Limit, PoolReading, Provenance, Shift, StudySpread, Worth, read};
pub use roc_space::{Ellipse, Hsroc, RocPoint, RocRegion, RocSpace, roc_space};
pub use small_study::{
    Correction, MIN_STUDIES, SmallStudyError, SmallStudyTest, ThresholdCorrelation, deeks_regression,
    small_study_effects, threshold_correlation,
};
pub use univariate::{Effect, EffectError, TauMethod, UnivariatePooled, fisher_z, pool_effects};
