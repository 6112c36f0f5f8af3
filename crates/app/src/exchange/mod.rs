//! Bundles and tables out of the catalogue, and into it.

mod bundle;
mod import_run;
mod imports;
mod outcome;
mod past_imports;
mod reference_import;
mod table_import;
mod tables;

pub(crate) use import_run::Imports;

pub use bundle::{
    Fate, Imported, Meeting, begin_bundle_import, export_bundle, export_for_operator, import_for_operator,
    is_catalogue_empty,
};
pub use imports::{ImportState, ImportView, get_import, stop_import};
pub use outcome::ReferenceFile;
pub use past_imports::{PastImportView, list_past_imports, take_back_import};
pub use pruvex_formats::{PickedRows, TableView};
pub use reference_import::begin_reference_import;
pub use table_import::{TablePlace, TableReading, begin_table_import, table_columns, table_rows, table_template};
pub use tables::{TableFormat, export_list, export_results};
