//! Off the asynchronous threads.

use rocket::tokio::task::spawn_blocking;

use crate::problem::ApiError;

/// Does what takes more than a moment of computing where it holds nobody up.
pub(crate) async fn off<T: Send + 'static>(work: impl FnOnce() -> T + Send + 'static) -> Result<T, ApiError> {
    spawn_blocking(work).await.map_err(|_| ApiError::Internal)
}
