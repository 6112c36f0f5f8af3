//! What results mean at a pre-test probability, and what is done about it.

mod answers;
mod background;
mod ladder;
mod patient;
mod study_size;

pub use answers::{Answer, AskedTest, Question, answer};
pub use background::{PatientBackground, SpectrumRow, TestLimits, explain_patient};
pub use ladder::{Grouping, print_ladder};
pub use patient::{FindingInput, PatientAnswer, PatientInput, PatientTest, answer_patient};
pub use study_size::{
    AccuracyPlan, ActionThreshold, AgreementPlan, SizeForWidth, Stakes, StudyPlan, StudySizes, plan_study, weigh_stakes,
};
