//! Studies and their results as a table, one row a result, for spreadsheets and statistics programs. What is written can be read again;
//! tables of other origin are read by saying which of their columns holds what.

mod cells;
mod changes;
mod columns;
mod fields;
mod heading;
mod inflate;
mod open;
mod read;
mod row;
mod write;

pub use cells::{Remark, TableFile};
pub use changes::{TableChange, change_cells, read_changes};
pub use columns::{ColumnView, PickedRow, PickedRows, TableView, chosen_columns, pick_rows, read_mapping, view_table};
pub use fields::{FIELDS, RESULT_COLUMNS, TableField};
pub use open::{MAX_ROWS, open_table};
pub use read::{Named, ReadResult, ReadStudy, ReadTable, read_results_table};
pub use write::{results_template, write_results_csv, write_results_xlsx};
