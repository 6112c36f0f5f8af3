//! What was published: references, and the studies and agreement results of tests.

pub(crate) mod agreements;
pub(crate) mod references;
pub(crate) mod studies;
