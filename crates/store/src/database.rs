//! Connecting and migrating.

use std::time::Duration;

use sea_orm::{ConnectOptions, ConnectionTrait, Database, DatabaseConnection, DbBackend, Statement, TransactionTrait};
use sea_orm_migration::MigratorTrait;

use crate::{Migrator, StoreError, vocabulary};

/// Taken while migrating: two servers that start on one empty database must not collide. Any constant will do;
/// this one is the product's name in ASCII.
const MIGRATION_LOCK: i64 = 0x7072_7576_6578;

/// What connections are for. Writers wait for one another while they hold one, so that each kind has its own: nobody who reads waits for them.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Connections {
    /// Questions, and notes of a single row beside the catalogue: sessions, texts not saved yet.
    Reading,
    /// Changes by one person.
    Edits,
    /// Imports.
    Imports,
}

impl Connections {
    fn at_most(self) -> u32 {
        match self {
            Self::Reading => 10,
            Self::Edits => 4,
            Self::Imports => 2,
        }
    }

    /// For how long one is waited for, and then the others who write: long enough for a busy moment, short enough that an outage is told
    /// while the user still looks.
    fn patience(self) -> Duration {
        Duration::from_secs(if self == Self::Imports { 40 } else { 8 })
    }
}

/// Connections made on first use, so that a server starts while its database is still down and recovers by itself when it comes.
///
/// # Errors
/// An address that is no PostgreSQL URL.
pub async fn connect(url: &str, kind: Connections) -> Result<DatabaseConnection, StoreError> {
    let mut options = ConnectOptions::new(url);
    options
        .max_connections(kind.at_most())
        .min_connections(0)
        .acquire_timeout(kind.patience())
        .connect_lazy(true)
        .sqlx_logging(false)
        .map_sqlx_postgres_opts(move |options| {
            options.options([
                // How alike a mistyped name must be to be found: two slips in a word of six letters are forgiven.
                ("pg_trgm.word_similarity_threshold", "0.4".to_owned()),
                ("lock_timeout", kind.patience().as_millis().to_string()),
            ])
        });
    Ok(Database::connect(options).await?)
}

/// Brings the schema up to date, and fills an empty vocabulary.
///
/// # Errors
/// An unreachable database, or a migration that fails (which leaves the schema as it was).
pub async fn migrate(url: &str) -> Result<(), StoreError> {
    let mut options = ConnectOptions::new(url);
    // The lock belongs to a session: lock, migration and unlock must share the one connection.
    options.max_connections(1).acquire_timeout(Duration::from_secs(5)).sqlx_logging(false);
    let db = Database::connect(options).await?;
    db.execute_unprepared(&format!("SELECT pg_advisory_lock({MIGRATION_LOCK})")).await?;
    let result = up(&db).await;
    db.execute_unprepared(&format!("SELECT pg_advisory_unlock({MIGRATION_LOCK})")).await?;
    db.close().await?;
    result
}

async fn up(db: &DatabaseConnection) -> Result<(), StoreError> {
    Migrator::up(db, None).await?;
    let transaction = db.begin().await?;
    vocabulary::fill(&transaction).await?;
    Ok(transaction.commit().await?)
}

/// Asks the database for a sign of life.
///
/// # Errors
/// When there is none.
pub async fn ping(db: &DatabaseConnection) -> Result<(), StoreError> {
    Ok(db.ping().await?)
}

/// Whether the database holds no table yet.
///
/// # Errors
/// Database errors.
pub async fn has_no_table(db: &DatabaseConnection) -> Result<bool, StoreError> {
    let query = "SELECT count(*) FROM pg_tables WHERE schemaname = 'public'";
    let row = db.query_one_raw(Statement::from_string(DbBackend::Postgres, query)).await?;
    let tables: i64 = row.map(|row| row.try_get_by_index(0)).transpose()?.unwrap_or_default();
    Ok(tables == 0)
}
