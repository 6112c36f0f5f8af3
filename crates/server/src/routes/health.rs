//! Signs of life, and the API's own description.

use rocket::serde::json::Json;
use rocket::{Route, State, get, routes};

use crate::openapi;
use crate::problem::ApiError;
use crate::state::AppState;

/// The process runs.
#[get("/healthz")]
fn healthz() -> &'static str {
    "ok"
}

/// The database answers and its schema is in place.
#[get("/readyz")]
async fn readyz(state: &State<AppState>) -> Result<&'static str, ApiError> {
    if !state.is_migrated() {
        return Err(ApiError::DatabaseUnavailable);
    }
    pruvex_store::ping(&state.db).await.map_err(|_| ApiError::DatabaseUnavailable)?;
    Ok("ready")
}

/// The OpenAPI document.
#[get("/api/openapi.json")]
fn document() -> Json<utoipa::openapi::OpenApi> {
    Json(openapi::document())
}

pub(crate) fn routes() -> Vec<Route> {
    routes![healthz, readyz, document]
}
