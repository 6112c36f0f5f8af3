//! What was published about tests: references, the studies that they report, and their results of accuracy and of agreement.

mod agreement;
mod appraisal;
mod duplicates;
mod extraction;
mod facet;
mod field_kind;
mod grid;
mod membership;
mod pooled_agreement;
mod pooled_prevalence;
mod reference;
mod result;
mod selection;
mod setup;
mod snapshot;
mod spectrum;
mod study;

pub use crate::population::{Activity, CareSetting, Course, Wakefulness};
pub use agreement::{
    Agreement, AgreementAnswer, AgreementDetail, AgreementHeadline, AgreementInput, AgreementMeasure, Between,
    FiguresInput, agreement_answer,
};
pub use appraisal::{
    Appraisal, AppraisalInput, Aspect, Domain, DomainAppraisal, Judgement, SignallingAnswer, SignallingQuestion,
    suggestions,
};
pub use duplicates::{Likeness, Matcher, likeness, title_key};
pub use extraction::{
    Decision, Extraction, ExtractionInput, FieldAgreement, FieldPair, ReaderAgreement, compare, reader_agreement,
    settle,
};
pub use facet::{Facet, FacetValue};
pub use field_kind::FieldKind;
pub use membership::{Candidate, OfTest, WhyOut, counted_already, does_not_answer, left_out};
pub use pooled_agreement::{AgreementMember, PooledAgreement, pool_agreements};
pub use pooled_prevalence::{Incidental, PooledPrevalence, PrevalenceOf, pool_prevalence};
pub use reference::{Author, Identifier, Reference, ReferenceInput, ReferenceKind, parse_identifier};
pub use result::{AccuracyInput, AccuracyResult, Rule, Together, Unit, fits};
pub use selection::{Member, Offered, Selection, facets, same_people};
pub use setup::{DataSource, Design, Recruitment, StudySetup};
pub use snapshot::{
    Difference, FrozenCorrection, Happened, NotConfirmed, Side, Snapshot, SnapshotFile, SnapshotResult, SnapshotTest,
    StandingResult, differences, side,
};
pub use spectrum::{SpectrumPart, other_spectrum, spectrum};
pub use study::{Study, StudyInput};
