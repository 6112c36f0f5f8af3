//! What a special test is: its region, purpose and sheet, the words it is written in, and what its sheet forgot.

mod advice;
mod anatomy;
mod audit;
mod caution;
mod condition;
mod contact;
mod derived;
mod finding;
mod indication;
mod interpretation;
mod likeness;
pub(crate) mod limits;
mod pitfall;
mod prevalence;
mod procedure;
mod region;
mod setting_up;
mod sheet;
mod status;
mod step;
mod teaching_conflict;

pub use crate::name::name_key;
pub use advice::{Alternative, Burden, Norm, NormKind, Repeat, RepeatWhen, Retest};
pub use anatomy::{Action, Joint, Motion, Structure, StructureInput, Tissue};
pub use audit::{Digest, Finding, FindingCode, Neighbours, Vocabulary, audit};
pub use caution::{Caution, CautionKind, CautionScope, ScreeningAnswer, UrgentReading};
pub use condition::{Condition, ConditionInput};
pub use contact::{Contact, ContactPart, ContactTask, Equipment};
pub use derived::{Derived, DerivedPitfall, DerivedStep};
pub use finding::{
    Comparison, Criterion, CriterionKind, Displacement, EndFeel, GradeLevel, Grading, Inability, InabilityReason,
    Outcome, RangePart, Sex,
};
pub use indication::{EvidenceSearch, Indication, IndicationKind};
pub use interpretation::{ExampleValue, Found, Interpretation, Measure, Reading, ReadingRow, RowCondition, TableFault};
pub use pitfall::{Bias, Effect, Pitfall};
pub use prevalence::{PrevalenceReport, Symptoms};
pub use procedure::{JointRange, LoadRole, Phase, Position, Target, Variant};
pub use region::Region;
pub use setting_up::{Measuring, Preparation, RelayJoint, SetupValue, SidesTested, Stance, TestedSide};
pub use sheet::{Basis, Purpose, Sheet, SheetInput};
pub use status::{Status, Step};
pub use step::{Actor, Mode, ProcedureStep, ReadAtEvent, StepEvent};
pub use teaching_conflict::{ConflictTopic, TeachingClaim, TeachingConflict, TeachingConflictInput, Verdict};
