//! The store on a real database. One program for all of it: it is linked once, and its tests run side by side.
#![allow(clippy::unwrap_used, reason = "a failed step is a failed test")]

mod catalogue;
mod evidence;
mod examination;
mod exchange;
mod extractions;
mod history;
mod migrations;
mod people;
mod plan;
mod pooling;
mod support;
mod vocabulary;
