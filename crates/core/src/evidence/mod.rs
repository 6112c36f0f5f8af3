//! What was published about tests: references, and the studies that they report.

mod duplicates;
mod reference;
mod study;

pub use duplicates::{Likeness, Matcher, likeness, title_key};
pub use reference::{Author, Identifier, Reference, ReferenceInput, ReferenceKind, parse_identifier};
pub use study::{Study, StudyInput};
