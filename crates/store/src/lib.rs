//! PostgreSQL through SeaORM. One module an area; functions take any connection, so that the use case owns the
//! transaction; rows become domain values here and nowhere else.

pub mod catalogue;
pub mod condition;
pub mod evidence;
pub mod examination;
pub mod exchange;
pub mod history;
pub mod landing;
pub mod people;
pub mod plan;
pub mod pooling;
pub mod progress;
pub mod settings;
pub mod teaching_conflict;
pub mod unsaved;
pub mod vocabulary;

mod among;
mod constraint;
mod database;
mod entities;
mod error;
mod migrations;
mod review;
mod sql;

pub use database::{Connections, connect, has_no_table, migrate, ping};
pub use error::StoreError;
pub use migrations::Migrator;
pub use sea_orm::{ConnectionTrait, DatabaseConnection, DatabaseTransaction, TransactionTrait};
