//! Small simulated services that stand in for outside ones. They speak HTTP like those and ship with made-up records.

mod registry;

pub use registry::start_registry;
