//! An examination that is carried out: every attempt, what it shows by its test's own rules, and the record that is kept of it.

mod attempt;
mod conduct;
mod label;
mod outcome;
mod reference;

pub use attempt::{
    Attempt, AttemptReading, AttemptRules, AttemptShown, AttemptSide, PainFound, ReadingCause, TestReading,
    UnreadableReason,
};
pub use conduct::{AffectedSide, Conclusion, ExaminationConduct, RepeatDue, TestConduct, UrgentFound};
pub use label::{LABELS, examination_label};
pub use outcome::{
    AskedAbout, ExaminationOutcome, OutcomeQuestion, OutcomeStep, OutcomeTest, ScreeningAnswered, SuggestedRepeat,
    may_finish, suggested_repeats,
};
pub use reference::{
    ClinicPrevalence, ClosedExamination, Holds, OwnRecords, OwnTest, ReferenceFound, ReferenceResult, StandardKind,
    check_reference, clinic_prevalence, holds, own_records,
};
