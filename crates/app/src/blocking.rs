//! Work that takes more than a moment.

use tokio::task::spawn_blocking;

use crate::AppError;

/// Computes where it holds up nobody else's request.
pub(crate) async fn blocking<T: Send + 'static>(work: impl FnOnce() -> T + Send + 'static) -> Result<T, AppError> {
    spawn_blocking(work).await.map_err(AppError::internal)
}
