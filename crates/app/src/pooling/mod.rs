//! Pooling: of one test as its sheet shows it, and of what somebody puts together, tries, prints and freezes.

mod backing;
mod gather;
mod level_ratios;
mod of_test;
mod pool;
mod pools;
mod print;
mod reference;
mod sensitivity;
mod snapshots;

pub(crate) use backing::{Backed, back, figures_version};
pub(crate) use gather::{gather, provenance, reports};
pub(crate) use of_test::{backed, backed_by};
pub(crate) use pool::pooled_agreements;
pub(crate) use pools::{Pools, Wait};
pub(crate) use snapshots::{NamedSnapshot, current_snapshots};

pub use backing::Evidence;
pub use gather::{NoPool, PoolInput};
pub use of_test::{PooledAnswer, pool_test};
pub use pool::{FacetView, NoComparison, Offered, PoolAnswer, PoolLevel, PoolLevels, PoolRow, SamePeople, answer_pool};
pub use pools::Standing;
pub use print::print_pool;
pub use reference::{CorrectionAnswer, CorrectionInput, correct_pool};
pub use sensitivity::{
    IntervalAlternative, ModelAlternative, NotTested, PartPooled, PoolSensitivity, SidesAsPeople, UninterpretableTaken,
    VerificationCorrected, WithoutResult, try_pool,
};
pub use snapshots::{
    IntervalThen, RatioThresholds, SideOfThreshold, SnapshotDifference, SnapshotFilter, SnapshotInput, SnapshotRow,
    SnapshotView, compare_snapshot, freeze_pool, get_snapshot, get_snapshot_file, list_snapshots,
};
