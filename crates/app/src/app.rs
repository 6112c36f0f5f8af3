//! What all use cases share: the database, caches, and what is under way.

use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::Duration;

use pruvex_store::{Connections, DatabaseConnection, DatabaseTransaction, StoreError};
use tracing::{error, info, warn};

use crate::AppError;
use crate::catalogue::{Catalogue, CatalogueCache, Found};
use crate::demonstration::furnish;
use crate::evidence::Registry;
use crate::exchange::Imports;
use crate::gate::Gate;
use crate::people::{Outbox, first_administrator, hashing_gate};
use crate::pooling::Pools;
use crate::supersede::Supersede;
use crate::writers::Writers;

/// How the application is set up.
#[derive(Debug, Clone)]
pub struct AppConfig {
    /// PostgreSQL URL.
    pub database_url: String,
    /// A demonstration: anybody on this machine may enter in any role.
    pub demo: bool,
    /// Address of the registry that tells which work an identifier stands for.
    pub registry: Option<String>,
}

/// The application, shared by all who use it.
pub struct App {
    /// For questions; changes begin at [`Self::writers`].
    pub(crate) db: DatabaseConnection,
    pub(crate) writers: Writers,
    /// Where passwords are hashed.
    pub(crate) hashing: Gate,
    pub(crate) demo: bool,
    /// Pooled answers at hand.
    pub(crate) pools: Arc<Pools>,
    /// What is computed for long.
    pub(crate) supersede: Arc<Supersede>,
    /// Where works are looked up.
    pub(crate) registry: Registry,
    /// What would have been mailed.
    pub(crate) outbox: Outbox,
    /// Imports of tables under way.
    pub(crate) imports: Arc<Imports>,
    cache: Arc<CatalogueCache>,
    database_url: String,
    migrated: AtomicBool,
}

impl std::fmt::Debug for App {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("App").field("demo", &self.demo).field("ready", &self.is_ready()).finish_non_exhaustive()
    }
}

impl App {
    /// Connects lazily: a database that is down shows when it is asked.
    ///
    /// # Errors
    /// A database URL that is none.
    pub async fn connect(config: AppConfig) -> Result<Self, AppError> {
        let AppConfig { database_url, demo, registry } = config;
        let url = |cause: StoreError| AppError::DatabaseUrl(cause.to_string());
        let db = pruvex_store::connect(&database_url, Connections::Reading).await.map_err(url)?;
        Ok(Self {
            writers: Writers::connect(&database_url, db.clone()).await.map_err(url)?,
            db,
            hashing: hashing_gate(),
            demo,
            pools: Arc::new(Pools::new()),
            supersede: Arc::default(),
            registry: Registry::new(registry.as_deref()),
            outbox: Outbox::default(),
            imports: Arc::default(),
            cache: Arc::default(),
            database_url,
            migrated: AtomicBool::new(false),
        })
    }

    /// Whether the schema is in place. Before, no use case can be carried out.
    #[must_use]
    pub fn is_ready(&self) -> bool {
        self.migrated.load(Ordering::Acquire)
    }

    /// Whether the database answers, and with it the application.
    pub async fn answers(&self) -> bool {
        self.is_ready() && pruvex_store::ping(&self.db).await.is_ok()
    }

    /// Brings the schema up to date.
    ///
    /// # Errors
    /// A database that does not answer, or is not ours.
    pub async fn migrate(&self) -> Result<(), AppError> {
        pruvex_store::migrate(&self.database_url).await?;
        self.migrated.store(true, Ordering::Release);
        Ok(())
    }

    /// Migrates again and again until the database answers, and answers the path of the page on which the first administrator joins, while
    /// there is no account.
    pub async fn prepare(&self) -> Option<String> {
        while let Err(cause) = self.migrate().await {
            warn!(%cause, "the schema is not up to date yet; trying again");
            tokio::time::sleep(Duration::from_secs(1)).await;
        }
        info!("database ready");
        if self.demo {
            if let Err(cause) = furnish(self).await {
                warn!(%cause, "the demonstration has no frozen pool, or no archived sheet");
            }
            return None;
        }
        first_administrator(&self.db)
            .await
            .inspect_err(|cause| error!(%cause, "the first administrator's invitation could not be made"))
            .ok()
            .flatten()
    }

    /// Reads the catalogue, so that the first list is as fast as later ones.
    pub async fn read_ahead(&self) {
        if let Err(cause) = self.catalogue().await {
            warn!(%cause, "the catalogue could not be read ahead; it will be when it is asked for");
            return;
        }
        if let Err(cause) = self.pools.clear(&self.db).await {
            warn!(%cause, "pooled answers that nobody asks for any more are still kept");
        }
    }

    /// The catalogue as it is now, or was just before a change that touches many tests.
    pub(crate) async fn catalogue(&self) -> Result<Arc<Catalogue>, AppError> {
        Ok(self.find_catalogue().await?.catalogue)
    }

    /// The same, and whether it is behind.
    pub(crate) async fn find_catalogue(&self) -> Result<Found, AppError> {
        self.cache.current(&self.db, &self.pools).await
    }

    pub(crate) async fn begin(&self) -> Result<DatabaseTransaction, AppError> {
        self.writers.begin().await
    }
}

pub(crate) async fn commit(transaction: DatabaseTransaction) -> Result<(), AppError> {
    Ok(transaction.commit().await.map_err(StoreError::from)?)
}

pub(crate) async fn rollback(transaction: DatabaseTransaction) -> Result<(), AppError> {
    Ok(transaction.rollback().await.map_err(StoreError::from)?)
}
