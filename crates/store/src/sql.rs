//! Statements written in SQL, where building one would hide what it asks.

use sea_orm::{DbBackend, Statement, Value};

/// A statement with its values, which PostgreSQL is handed apart.
pub(crate) fn with_values(query: impl Into<String>, values: impl IntoIterator<Item = Value>) -> Statement {
    Statement::from_sql_and_values(DbBackend::Postgres, query, values)
}
