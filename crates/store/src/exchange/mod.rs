//! Files into the database, all of them or nothing, and out of it.

mod bundle;
mod existing;
mod past;
mod table;

pub use bundle::{Fate, Imported, ImportedTest, Meeting, export, import};
pub use past::{Brought, PastImport, get_past_import, list_past_imports, take_back};
pub use table::{ImportedTable, NewStandard, TableRow, TestResults, chosen_columns_of, import_table, remember_columns};
