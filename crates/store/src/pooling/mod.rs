//! Pools: what was frozen, and answers at hand.

mod answers;
mod snapshots;

pub use answers::{Asked, KeptAnswer, drop_answers, keep_answers, kept_answers};
pub use snapshots::{SnapshotRecord, create_snapshot, get_snapshot, list_snapshots, list_snapshots_of};
