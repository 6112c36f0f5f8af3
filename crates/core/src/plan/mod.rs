//! The plan of an examination: which tests, for which questions, in which order.

mod examination;
mod fit;
mod order;

pub use examination::{
    ExaminationPlan, ExaminationPlanInput, ExaminationTest, ExaminationTestInput, MAX_QUESTIONS, PlanQuestion,
    PlanQuestionInput,
};
pub use fit::{
    ExaminationFit, ExaminationStop, FitReason, FitState, PatientFit, ScreenedTest, ScreeningQuestion, TestFit,
    examination_fit,
};
pub use order::{
    BestOrder, MAX_EXACT, MAX_PLANNED, OrderCost, OrderError, OrderWeights, OwnOrder, PlaceReason, PlannedTest,
    best_order, order_cost, own_order,
};
