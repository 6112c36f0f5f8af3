//! Open formats in and out. Reading checks everything and returns every error with its place; nothing is guessed.

mod bundle;
mod counts_csv;

pub use bundle::{Bundle, BundleTest, MAX_BUNDLE_BYTES, read_bundle};
pub use counts_csv::{CountsTable, CsvError, read_counts};
