//! The routes on a real database, as a client meets them. One program for all of it: it is linked once, and its tests run side by side.
#![allow(clippy::unwrap_used, reason = "a failed step is a failed test")]

mod agreements;
mod api;
mod combine;
mod conditions;
mod examination;
mod extractions;
mod likelihood;
mod people;
mod plan;
mod pools;
mod references;
mod studies;
mod support;
mod table_imports;
