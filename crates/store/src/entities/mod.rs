//! Rows as SeaORM sees them. Domain values are made of them in the area modules.

pub mod condition;
pub mod study;
pub mod test;
pub mod test_name;
