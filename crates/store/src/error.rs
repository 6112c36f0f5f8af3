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
    /// Others who write went on for longer than it is worth waiting for.
    #[error("others are writing")]
    Busy,
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
        if is_lock_timeout(&error) {
            Self::Busy
        } else if is_outage(&error) {
            Self::Unavailable(error)
        } else {
            Self::Unexpected(error)
        }
    }
}

fn cause(error: &DbErr) -> Option<&SqlxError> {
    match error {
        DbErr::Conn(RuntimeErr::SqlxError(cause))
        | DbErr::Exec(RuntimeErr::SqlxError(cause))
        | DbErr::Query(RuntimeErr::SqlxError(cause)) => Some(cause.as_ref()),
        _ => None,
    }
}

/// PostgreSQL's code for a lock that was waited for in vain.
fn is_lock_timeout(error: &DbErr) -> bool {
    matches!(cause(error), Some(SqlxError::Database(error)) if error.code().is_some_and(|code| code == "55P03"))
}

/// Connection trouble, as opposed to a fault of the statement. Classes 08 (connection exception) and 57P
/// (shutdown, starting up) and code 55000 (not accepting connections) are PostgreSQL's own words for it.
fn is_outage(error: &DbErr) -> bool {
    if matches!(error, DbErr::ConnectionAcquire(_)) {
        return true;
    }
    match cause(error) {
        Some(SqlxError::Io(_) | SqlxError::PoolTimedOut | SqlxError::PoolClosed | SqlxError::WorkerCrashed) => true,
        Some(SqlxError::Database(error)) => {
            error.code().is_some_and(|code| code.starts_with("08") || code.starts_with("57P") || code == "55000")
        }
        _ => false,
    }
}
