//! Bundles and tables out of the catalogue, and into it.

mod bundle;
mod import_run;
mod table_import;
mod tables;

pub(crate) use import_run::Imports;

pub use bundle::{
    Fate, Imported, Importer, Meeting, export_bundle, export_for_operator, import_bundle, is_catalogue_empty,
};
pub use pruvex_formats::TableView;
pub use table_import::{
    ImportState, ImportView, TablePlace, begin_table_import, get_table_import, stop_table_import, table_columns,
    table_template,
};
pub use tables::{TableFormat, export_list, export_results};
