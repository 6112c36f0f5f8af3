//! What was published about tests: references, and the studies and agreement results that they report.

mod agreement;
mod duplicates;
mod grid;
mod reference;
mod setup;
mod study;

pub use agreement::{
    Agreement, AgreementAnswer, AgreementDetail, AgreementHeadline, AgreementInput, AgreementMeasure, Between,
    FiguresInput, agreement_answer,
};
pub use duplicates::{Likeness, Matcher, likeness, title_key};
pub use reference::{Author, Identifier, Reference, ReferenceInput, ReferenceKind, parse_identifier};
pub use setup::{Activity, CareSetting, Course, Design, Recruitment, StudySetup, Unit, Wakefulness};
pub use study::{Study, StudyInput};
