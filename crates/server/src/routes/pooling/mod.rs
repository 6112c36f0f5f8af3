//! The pool of a test, pools that somebody puts together, and frozen ones.

pub(crate) mod of_test;
pub(crate) mod pool;
pub(crate) mod print;
pub(crate) mod snapshots;
