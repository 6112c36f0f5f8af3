//! The database pool and whether the schema is in place.

use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::Duration;

use pruvex_store::{DatabaseConnection, StoreError};
use rocket::Request;
use rocket::fairing::AdHoc;
use rocket::request::{FromRequest, Outcome};
use tracing::{error, info, warn};

use crate::problem::{ApiError, refuse};

/// Shared by all requests.
#[derive(Debug)]
pub(crate) struct AppState {
    pub db: DatabaseConnection,
    database_url: String,
    migrated: Arc<AtomicBool>,
}

impl AppState {
    pub async fn connect(database_url: &str) -> Result<Self, StoreError> {
        let db = pruvex_store::connect(database_url).await?;
        Ok(Self { db, database_url: database_url.to_owned(), migrated: Arc::default() })
    }

    pub fn is_migrated(&self) -> bool {
        self.migrated.load(Ordering::Acquire)
    }
}

/// Migrates in the background, again and again until the database answers.
pub(crate) fn migrations() -> AdHoc {
    AdHoc::on_liftoff("Migrations", |rocket| {
        Box::pin(async move {
            let Some(state) = rocket.state::<AppState>() else { return };
            let (url, migrated) = (state.database_url.clone(), Arc::clone(&state.migrated));
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
            });
        })
    })
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
