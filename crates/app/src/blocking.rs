//! Work that takes more than a moment.

use std::sync::LazyLock;

use rayon::{ThreadPool, ThreadPoolBuilder};
use tokio::task::spawn_blocking;

use crate::AppError;

/// Who waits for it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Pace {
    /// Somebody: on all processors.
    Asked,
    /// Nobody: on half of them, behind whatever else the machine has to do.
    Quiet,
}

/// Half of the processors, at a lower priority where the system has one.
static QUIET: LazyLock<Option<ThreadPool>> = LazyLock::new(|| {
    let half = std::thread::available_parallelism().map_or(1, |all| all.get().div_ceil(2));
    ThreadPoolBuilder::new().num_threads(half).start_handler(|_| give_way()).build().ok()
});

#[cfg(target_os = "linux")]
fn give_way() {
    // Priorities are the threads' own here; without one it only computes as fast as others.
    let _ = rustix::process::setpriority_process(Some(rustix::thread::gettid()), 10);
}

#[cfg(not(target_os = "linux"))]
fn give_way() {}

/// Computes where it holds up nobody else's request.
pub(crate) async fn blocking<T: Send + 'static>(work: impl FnOnce() -> T + Send + 'static) -> Result<T, AppError> {
    spawn_blocking(work).await.map_err(AppError::internal)
}

impl Pace {
    /// [`blocking`], on the processors that this pace has.
    pub async fn run<T: Send + 'static>(self, work: impl FnOnce() -> T + Send + 'static) -> Result<T, AppError> {
        match QUIET.as_ref().filter(|_| self == Self::Quiet) {
            Some(threads) => blocking(|| threads.install(work)).await,
            None => blocking(work).await,
        }
    }
}
