//! The catalogue: the list with its likelihood ratios, sheets, their checks, their way to the readers, and their print.

mod cache;
mod checks;
mod list;
mod named_tests;
mod print;
mod review;
mod row;
mod shared_structures;
mod sheets;
mod teaching_conflicts;

pub(crate) use cache::{Catalogue, CatalogueCache, Found};
pub(crate) use list::rows_of;
pub(crate) use named_tests::named;
pub(crate) use shared_structures::shared_structures;
pub(crate) use sheets::{shown_condition, visible_test};

pub use checks::{CheckInput, ReadingInput, SheetCheck, check_sheet, list_findings, read_values};
pub use list::{ListFilter, ListedTests, RegionView, Sort, list_regions, list_tests};
pub use named_tests::NamedTest;
pub use print::print_test;
pub use review::{StepInput, step_test};
pub use row::TestRow;
pub use shared_structures::SharedStructures;
pub use sheets::{TestView, create_test, get_test, update_test};
pub use teaching_conflicts::{
    TeachingConflictView, create_teaching_conflict, list_teaching_conflicts, set_teaching_conflict_deleted,
    update_teaching_conflict,
};
