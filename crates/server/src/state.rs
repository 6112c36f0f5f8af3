//! The database pool and whether the schema is in place.

use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::Duration;

use pruvex_core::people::Role;
use pruvex_store::{DatabaseConnection, StoreError};
use rocket::Request;
use rocket::fairing::AdHoc;
use rocket::request::{FromRequest, Outcome};
use tracing::{error, info, warn};

use crate::ServerConfig;
use crate::imports::Imports;
use crate::latest::Latest;
use crate::mail::Outbox;
use crate::people::Secret;
use crate::problem::{ApiError, refuse};
use crate::registry::Registry;
use crate::routes::people::join_path;
use crate::routes::pooling::Pools;
use crate::shelf::{Shelf, Shelves};

/// Shared by all requests.
pub(crate) struct AppState {
    pub db: DatabaseConnection,
    /// See [`ServerConfig`].
    pub demo: bool,
    pub secure_cookies: bool,
    say: fn(&str),
    /// Pooled answers at hand.
    pub pools: Arc<Pools>,
    /// What is computed for long.
    pub latest: Arc<Latest>,
    /// Where works are looked up.
    pub registry: Registry,
    /// What would have been mailed.
    pub outbox: Outbox,
    /// Imports of tables under way.
    pub imports: Arc<Imports>,
    /// The catalogue at hand.
    pub shelves: Arc<Shelves>,
    database_url: String,
    migrated: Arc<AtomicBool>,
}

impl AppState {
    pub async fn connect(config: &ServerConfig) -> Result<Self, StoreError> {
        Ok(Self {
            db: pruvex_store::connect(&config.database_url).await?,
            demo: config.demo && config.address.is_loopback(),
            secure_cookies: config.secure_cookies,
            say: config.say,
            pools: Arc::new(Pools::new()),
            latest: Arc::default(),
            registry: Registry::new(config.registry.as_deref()),
            outbox: Outbox::default(),
            imports: Arc::default(),
            shelves: Arc::default(),
            database_url: config.database_url.clone(),
            migrated: Arc::default(),
        })
    }

    pub fn is_migrated(&self) -> bool {
        self.migrated.load(Ordering::Acquire)
    }
}

impl AppState {
    /// The catalogue as it is now.
    pub async fn shelf(&self) -> Result<Arc<Shelf>, ApiError> {
        self.shelves.current(&self.db, &self.pools).await
    }
}

/// Migrates in the background, again and again until the database answers; then lets the first administrator in.
pub(crate) fn preparation() -> AdHoc {
    AdHoc::on_liftoff("Preparation", |rocket| {
        Box::pin(async move {
            let Some(state) = rocket.state::<AppState>() else { return };
            let (url, migrated) = (state.database_url.clone(), Arc::clone(&state.migrated));
            let (db, say, demo) = (state.db.clone(), state.say, state.demo);
            let (pools, shelves) = (Arc::clone(&state.pools), Arc::clone(&state.shelves));
            let config = rocket.config();
            let site = format!("http://{}", std::net::SocketAddr::new(config.address, config.port));
            rocket::tokio::spawn(async move {
                loop {
                    match pruvex_store::migrate(&url).await {
                        Ok(()) => break,
                        Err(StoreError::Unavailable(cause)) => {
                            warn!(%cause, "database not reachable yet; trying again")
                        }
                        Err(cause) => error!(%cause, "the schema cannot be brought up to date; trying again"),
                    }
                    rocket::tokio::time::sleep(Duration::from_secs(1)).await;
                }
                migrated.store(true, Ordering::Release);
                info!("database ready");
                // So that the first list is as fast as later ones.
                if let Err(cause) = shelves.current(&db, &pools).await {
                    warn!(?cause, "the catalogue could not be read ahead; it will be when it is asked for");
                }
                if !demo {
                    match first_administrator(&db).await {
                        Ok(Some(path)) => say(&format!("first administrator: {site}{path}")),
                        Ok(None) => {}
                        Err(cause) => error!(%cause, "the first administrator's invitation could not be made"),
                    }
                }
            });
        })
    })
}

/// While nobody can sign in: the page on which the first administrator joins, by an invitation that serves once.
async fn first_administrator(db: &DatabaseConnection) -> Result<Option<String>, StoreError> {
    if pruvex_store::people::has_accounts(db).await? {
        return Ok(None);
    }
    let secret = Secret::random();
    let note = "the first administrator";
    pruvex_store::people::create_invitation(db, secret.hash(), Role::Administrator, note, None).await?;
    Ok(Some(join_path(&secret)))
}

/// The database, for handlers that need it: refused with 503 while the schema is not in place.
pub(crate) struct Db<'r>(pub &'r DatabaseConnection);

#[rocket::async_trait]
impl<'r> FromRequest<'r> for Db<'r> {
    type Error = ();

    async fn from_request(request: &'r Request<'_>) -> Outcome<Self, ()> {
        match request.rocket().state::<AppState>() {
            Some(state) if state.is_migrated() => Outcome::Success(Self(&state.db)),
            _ => refuse(request, ApiError::DatabaseUnavailable),
        }
    }
}
