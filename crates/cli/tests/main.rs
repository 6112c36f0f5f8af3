//! The binary, as somebody at a terminal meets it. One program for all of it: it is linked once, and its tests run side by side.
#![allow(clippy::unwrap_used, clippy::expect_used, reason = "a failed step is a failed test")]

mod backup;
mod compute;
mod http;
mod import;
mod pool;
mod serve;
