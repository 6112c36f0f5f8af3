//! What was published: references, and the studies of tests.

pub(crate) mod references;
pub(crate) mod studies;
