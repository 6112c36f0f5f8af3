//! The list, sheets, their checks, their way to the readers, and their print.

pub(crate) mod checks;
pub(crate) mod list;
pub(crate) mod print;
pub(crate) mod review;
pub(crate) mod sheets;
pub(crate) mod teaching_conflicts;

pub(crate) use list::ListQuery;
