//! Signs of life.

use std::sync::Arc;

use pruvex_app::{App, AppError};
use rocket::{Route, State, get, routes};

use crate::problem::ApiError;

/// The process runs.
#[get("/healthz")]
fn healthz() -> &'static str {
    "ok"
}

/// The database answers and its schema is in place.
#[get("/readyz")]
async fn readyz(app: &State<Arc<App>>) -> Result<&'static str, ApiError> {
    if app.answers().await { Ok("ready") } else { Err(AppError::DatabaseUnavailable.into()) }
}

pub(crate) fn routes() -> Vec<Route> {
    routes![healthz, readyz]
}
