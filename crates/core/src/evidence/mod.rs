//! What a published study of a test reports.

mod study;

pub use study::{Study, StudyInput};
