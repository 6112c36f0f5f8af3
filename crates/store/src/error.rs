//! What can go wrong in the store, in the words of the domain.

use pruvex_core::FieldError;
use sea_orm::{DbErr, RuntimeErr, SqlxError};
use uuid::Uuid;

/// An error of the store.
#[derive(Debug, thiserror::Error)]
pub enum StoreError {
    /// No such record (or it is deleted).
    #[error("there is no {what} {id}")]
    NotFound {
        /// Kind of record.
        what: &'static str,
        /// Its id.
        id: Uuid,
    },
    /// Somebody else saved first.
    #[error("the {what} is at version {current} by now")]
    Conflict {
        /// Kind of record.
        what: &'static str,
        /// The version saved meanwhile.
        current: i32,
    },
    /// Fields that clash with other records.
    #[error("{} fields are refused", .0.len())]
    Fields(Vec<FieldError>),
    /// The database cannot be reached at the moment.
    #[error("the database cannot be reached: {0}")]
    Unavailable(#[source] DbErr),
    /// A row that no domain value can be made of: somebody changed it by hand.
    #[error("the {what} {id} is damaged: {why}")]
    Damaged {
        /// Kind of record.
        what: &'static str,
        /// Its id.
        id: Uuid,
        /// What is wrong.
        why: String,
    },
    /// Anything else.
    #[error("unexpected database error: {0}")]
    Unexpected(#[source] DbErr),
}

impl StoreError {
    /// No record of this kind has this id.
    pub fn not_found(what: &'static str, id: impl Into<Uuid>) -> Self {
        Self::NotFound { what, id: id.into() }
    }
}

impl From<DbErr> for StoreError {
    fn from(error: DbErr) -> Self {
        if is_outage(&error) { Self::Unavailable(error) } else { Self::Unexpected(error) }
    }
}

/// Connection trouble, as opposed to a fault of the statement. Classes 08 (connection exception) and 57P
/// (shutdown, starting up) and code 55000 (not accepting connections) are PostgreSQL's own words for it.
fn is_outage(error: &DbErr) -> bool {
    let runtime = match error {
        DbErr::ConnectionAcquire(_) => return true,
        DbErr::Conn(runtime) | DbErr::Exec(runtime) | DbErr::Query(runtime) => runtime,
        _ => return false,
    };
    let RuntimeErr::SqlxError(error) = runtime else { return false };
    match error.as_ref() {
        SqlxError::Io(_) | SqlxError::PoolTimedOut | SqlxError::PoolClosed | SqlxError::WorkerCrashed => true,
        SqlxError::Database(error) => {
            error.code().is_some_and(|code| code.starts_with("08") || code.starts_with("57P") || code == "55000")
        }
        _ => false,
    }
}
