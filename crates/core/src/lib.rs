//! Rules of the job and the computation behind every figure: pure functions over checked values.
//!
//! Nothing here performs I/O, reads a clock or knows a screen. Each module is one area of the work and has
//! the same name in the store, the server, the interface and the tests.

pub mod accuracy;
pub mod agreement;
pub mod catalogue;
pub mod combine;
pub mod evidence;
pub mod examination;
pub mod likelihood;
pub mod people;
pub mod plan;
pub mod pooling;
pub mod teach;

mod distribution;
mod field;
mod ids;
mod name;
mod population;
mod quantity;

pub use field::{Faults, FieldError, FieldErrorCode};
pub use ids::{ResultId, StudyId, TestId};
pub use quantity::{Count, Estimate, Level, Probability, QuantityError, Ratio};
