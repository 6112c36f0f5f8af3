//! What tests stand on: a fresh PostgreSQL database each, on the cluster that `script/test` starts, and an authenticator app.

mod authenticator;

use sea_orm::{ConnectionTrait, Database, DatabaseConnection, DbErr};
use uuid::Uuid;

pub use authenticator::Moment;

/// A database of its own for one test.
#[derive(Debug)]
pub struct TestDatabase {
    /// Where to connect.
    pub url: String,
    name: String,
    admin: DatabaseConnection,
}

impl TestDatabase {
    /// Creates an empty database next to the one `TEST_DATABASE_URL` names.
    ///
    /// # Errors
    /// Without that variable or that server: tests are not skipped silently.
    pub async fn create() -> Result<Self, DbErr> {
        let base = std::env::var("TEST_DATABASE_URL")
            .map_err(|_| DbErr::Custom("TEST_DATABASE_URL is not set: run the tests through script/test".to_owned()))?;
        let admin = Database::connect(&base).await?;
        let name = format!("pruvex_test_{}", Uuid::now_v7().simple());
        admin.execute_unprepared(&format!("CREATE DATABASE {name}")).await?;
        let url = match base.rsplit_once('/') {
            Some((server, _)) => format!("{server}/{name}"),
            None => base,
        };
        Ok(Self { url, name, admin })
    }

    /// Refuses connections and ends the open ones, as if the server had gone away, until [`TestDatabase::resume`].
    ///
    /// # Errors
    /// Database errors.
    pub async fn pause(&self) -> Result<(), DbErr> {
        let name = &self.name;
        self.admin.execute_unprepared(&format!("ALTER DATABASE {name} ALLOW_CONNECTIONS false")).await?;
        let end = format!("SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = '{name}'");
        self.admin.execute_unprepared(&end).await.map(|_| ())
    }

    /// Ends [`TestDatabase::pause`].
    ///
    /// # Errors
    /// Database errors.
    pub async fn resume(&self) -> Result<(), DbErr> {
        let name = &self.name;
        self.admin.execute_unprepared(&format!("ALTER DATABASE {name} ALLOW_CONNECTIONS true")).await.map(|_| ())
    }

    /// Drops the database.
    ///
    /// # Errors
    /// Database errors.
    pub async fn drop(self) -> Result<(), DbErr> {
        self.admin.execute_unprepared(&format!("DROP DATABASE {} WITH (FORCE)", self.name)).await.map(|_| ())
    }
}
