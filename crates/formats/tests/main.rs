//! Files that are read and written. One program for all of it: it is linked once, and its tests run side by side.
#![allow(clippy::unwrap_used, clippy::expect_used, reason = "a failed step is a failed test")]

mod ladder_figure;
mod pool_figure;
mod printing;
mod reading;
mod references;
mod results_import;
mod results_table;
