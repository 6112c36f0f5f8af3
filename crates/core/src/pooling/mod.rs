//! Pooling of accuracy studies: random-effects models, what they were able to estimate, and the summary point.
//!
//! Stages, one file each: [`quadrature`](self) rules, the exact [`marginal`](self) likelihood with its derivatives,
//! the Newton [`optimise`](self)r, the [`search`](self) over starts and boundaries, the [`ladder`](self) that
//! chooses a model the data can carry, and the [`derived`](self) measures at the summary point.

mod derived;
mod influence;
mod ladder;
mod marginal;
mod optimise;
mod quadrature;
mod roc_space;
mod search;
mod small_study;
mod univariate;

pub use derived::{Means, Summary, Variances};
pub use influence::{LeftOut, leave_one_out};
pub use ladder::{ArmName, IntervalMethod, LadderStep, Model, PoolError, PoolOptions, Pooled, Reason, Warning, pool};
pub use optimise::StopCause;
pub use roc_space::{Hsroc, Region, RocPoint, RocSpace, roc_space};
pub use search::Boundary;
pub use small_study::{
    Correction, MIN_STUDIES, SmallStudyError, SmallStudyTest, ThresholdCorrelation, deeks_regression,
    small_study_effects, threshold_correlation,
};
pub use univariate::{Effect, EffectError, TauMethod, UnivariatePooled, fisher_z, pool_effects};
