//! Open formats in and out. Reading checks everything and returns every error with its place; nothing is guessed.

mod bundle;
mod counts_csv;
mod csv_table;
mod examination_sheet;
mod ladder_figure;
mod numbers;
mod plan_sheet;
mod pool_figure;
mod references;
mod report;
mod results_table;
mod teaching_sheet;
mod typesetting;
mod words;

pub use bundle::{
    Bundle, BundleAgreement, BundleConflict, BundleExtraction, BundlePlan, BundleReading, BundleReference,
    BundleResult, BundleSettled, BundleStudy, BundleTest, BundleTogether, MAX_BUNDLE_BYTES, bundle_schema, read_bundle,
    relocate, write_bundle,
};
pub use counts_csv::{CountsTable, read_counts};
pub use csv_table::{CsvError, CsvRow, CsvTable, read_matrix, write_csv};
pub use examination_sheet::{ExaminationSheet, examination_sheet, shown_words, why_not};
pub use ladder_figure::{LadderFigure, LadderTest, ladder_figure};
pub use plan_sheet::{PlanSheet, PlannedOnPaper, plan_sheet};
pub use pool_figure::{FigureGroup, FigureRow, PoolFigure, pool_csv, pool_figure};
pub use references::{
    CitationStyle, ReadReferences, ReferenceFormat, cite, read_csl_item, read_references, write_references,
};
pub use report::{StatementError, read_statement};
pub use results_table::{
    ColumnView, FIELDS, MAX_ROWS, Named, PickedRow, PickedRows, RESULT_COLUMNS, ReadResult, ReadStudy, ReadTable,
    Remark, TableChange, TableField, TableFile, TableView, change_cells, chosen_columns, open_table, pick_rows,
    read_changes, read_mapping, read_results_table, results_template, view_table, write_results_csv,
    write_results_xlsx,
};
pub use teaching_sheet::{TeachingSheet, teaching_sheet};
pub use typesetting::{FigureFormat, TypesettingError};
pub use words::{code_words, region_name, warning_words};
