//! The plan of an examination: which tests, for which questions, in which order.

mod action;
mod examination;
mod fit;
mod order;
mod question;
mod standing;

pub use action::{ActionBand, ActionBandInput, ActionShare, PlanAction};
pub use examination::{ExaminationPlan, ExaminationPlanInput, ExaminationTest, ExaminationTestInput};
pub use fit::{
    ExaminationFit, ExaminationStop, FitReason, FitState, PatientFit, ScreenedTest, ScreeningQuestion, TestFit,
    examination_fit,
};
pub use order::{
    BestOrder, MAX_EXACT, MAX_PLANNED, OrderCost, OrderError, OrderWeights, OwnOrder, PlaceReason, PlannedTest,
    best_order, order_cost, own_order,
};
pub use question::{MAX_QUESTIONS, PlanQuestion, PlanQuestionInput, action_shares};
pub use standing::{
    ExaminationEnd, OpenTest, QuestionStanding, QuestionState, StandingResult, StandingStep, TestLeft, examination_end,
    question_standing,
};
