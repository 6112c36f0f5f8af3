//! Files into the database, all of them or nothing, and out of it.

mod bundle;
mod existing;
mod table;

pub use bundle::{Fate, Imported, ImportedTest, Meeting, export, import};
pub use table::{ImportedTable, TableRow, TestResults, chosen_columns_of, import_table, remember_columns};
