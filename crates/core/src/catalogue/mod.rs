//! What a special test is: its region, purpose and sheet.

mod region;
mod sheet;

pub use region::Region;
pub use sheet::{Condition, ConditionInput, Purpose, Sheet, SheetInput, name_key};
