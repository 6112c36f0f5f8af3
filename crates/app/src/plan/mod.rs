//! Plans of examinations: which tests, for which conditions, in which order.

mod figures;
mod fit;
mod matching;
mod offered;
mod order;
mod plans;
mod print;
mod review;
mod standing;

pub(crate) use figures::{row_for, rows_of};
pub(crate) use fit::{check as check_patient, fit_of, sheets};
pub(crate) use plans::eyes;
pub(crate) use standing::standing_of;

pub use fit::{
    AlternativeTest, AlternativeView, FitView, PatientFitInput, PlanFitAnswer, QuestionAsked, Situation, fit_plan,
};
pub use offered::{OfferedTest, list_offered_tests};
pub use order::{PlanOrderAnswer, PlanOrderInput, PlannedTestView, QuestionView, QuestionWorth, order_plan};
pub use plans::{
    ChangedSheet, PlanFilter, PlanRow, PlanView, SheetChange, create_plan, get_plan, list_plan_changes, list_plans,
    update_plan,
};
pub use print::print_plan;
pub use review::step_plan;
pub use standing::{MustNotMiss, PlanStandingAnswer, QuestionStands, StandingInput, plan_standing};
