//! What a special test is: its region, purpose and sheet, the words it is written in, and what its sheet forgot.

mod advice;
mod anatomy;
mod audit;
mod condition;
mod finding;
mod interpretation;
mod likeness;
mod limits;
mod procedure;
mod region;
mod sheet;
mod status;

pub use crate::name::name_key;
pub use advice::{Alternative, Bias, Burden, Caution, CautionKind, Norm, Pitfall, Retest, UrgentReading};
pub use anatomy::{Action, Joint, Motion, Structure, StructureInput, Tissue};
pub use audit::{Digest, Finding, FindingCode, Neighbours, Vocabulary, audit};
pub use condition::{Condition, ConditionInput};
pub use finding::{Comparison, Criterion, CriterionKind, Outcome, Sex};
pub use interpretation::{ExampleValue, Found, Interpretation, Measure, Reading, ReadingRow, RowCondition, TableFault};
pub use procedure::{
    Actor, Hand, HandTask, JointRange, LoadRole, Mode, Phase, Position, ProcedureStep, Target, Variant,
};
pub use region::Region;
pub use sheet::{Purpose, Sheet, SheetInput};
pub use status::{Status, Step};
