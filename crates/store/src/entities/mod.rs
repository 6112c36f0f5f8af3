//! Rows as SeaORM sees them. Domain values are made of them in the area modules.

pub mod account;
pub mod accuracy_result;
pub mod agreement;
pub mod appraisal;
pub mod column_choice;
pub mod condition;
pub mod double_extraction;
pub mod extraction;
pub mod import;
pub mod invitation;
pub mod password_reset;
pub mod pool_snapshot;
pub mod pooled_answer;
pub mod recovery_code;
pub mod reference;
pub mod revision;
pub mod session;
pub mod settings;
pub mod sign_in_failure;
pub mod structure;
pub mod structure_name;
pub mod study;
pub mod teaching_conflict;
pub mod test;
pub mod test_name;
pub mod unsaved;
