//! The plan of an examination: in which order tests are done.

mod order;

pub use order::{
    BestOrder, MAX_EXACT, MAX_PLANNED, OrderCost, OrderError, OrderWeights, PlaceReason, PlannedTest, best_order,
    order_cost,
};
