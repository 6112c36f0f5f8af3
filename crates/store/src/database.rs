//! Connecting and migrating.

use std::time::Duration;

use sea_orm::{ConnectOptions, ConnectionTrait, Database, DatabaseConnection};
use sea_orm_migration::MigratorTrait;

use crate::{Migrator, StoreError};

/// Taken while migrating: two servers that start on one empty database must not collide. Any constant will do;
/// this one is the product's name in ASCII.
const MIGRATION_LOCK: i64 = 0x7072_7576_6578;

/// A pool that connects on first use, so that a server starts while its database is still down and recovers by
/// itself when it comes.
///
/// # Errors
/// An address that is no PostgreSQL URL.
pub async fn connect(url: &str) -> Result<DatabaseConnection, StoreError> {
    let mut options = ConnectOptions::new(url);
    options
        .max_connections(10)
        .min_connections(0)
        // Long enough for a busy moment, short enough that an outage is told while the user still looks.
        .acquire_timeout(Duration::from_secs(2))
        .connect_lazy(true)
        .sqlx_logging(false);
    Ok(Database::connect(options).await?)
}

/// Brings the schema up to date.
///
/// # Errors
/// An unreachable database, or a migration that fails (which leaves the schema as it was).
pub async fn migrate(url: &str) -> Result<(), StoreError> {
    let mut options = ConnectOptions::new(url);
    // The lock belongs to a session: lock, migration and unlock must share the one connection.
    options.max_connections(1).acquire_timeout(Duration::from_secs(5)).sqlx_logging(false);
    let db = Database::connect(options).await?;
    db.execute_unprepared(&format!("SELECT pg_advisory_lock({MIGRATION_LOCK})")).await?;
    let result = Migrator::up(&db, None).await;
    db.execute_unprepared(&format!("SELECT pg_advisory_unlock({MIGRATION_LOCK})")).await?;
    db.close().await?;
    Ok(result?)
}

/// Asks the database for a sign of life.
///
/// # Errors
/// When there is none.
pub async fn ping(db: &DatabaseConnection) -> Result<(), StoreError> {
    Ok(db.ping().await?)
}
