//! Studies and their results as a table, one row a result, for spreadsheets and statistics programs. What is written can be read again;
//! tables of other origin are read by saying which of their columns holds what.

mod columns;
mod file;
mod inflate;
mod read;
mod row;
mod write;

pub use columns::{ColumnView, FIELDS, TableField, TableView, chosen_columns, read_mapping, view_table};
pub use file::{MAX_ROWS, Remark, TableFile, open_table};
pub use read::{Named, ReadResult, ReadStudy, ReadTable, read_results_table};
pub use write::{RESULT_COLUMNS, results_template, write_results_csv, write_results_xlsx};
