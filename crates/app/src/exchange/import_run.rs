//! Imports under way: they take longer than an answer should, so that they are begun, watched and stopped by requests of
//! their own. One that is stopped, or whose server ends, leaves nothing behind: it is a single transaction.

use std::collections::HashMap;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};
use std::time::{Duration, Instant};

use pruvex_core::Faults;
use pruvex_store::StoreError;
use pruvex_store::progress::ImportPhase;
use tokio::sync::{Semaphore, SemaphorePermit, watch};
use tracing::error;
use uuid::Uuid;

use super::outcome::Outcome;
use crate::AppError;

/// Ended ones are told about for so long.
const KEPT: Duration = Duration::from_secs(3_600);
/// More files at a time would need more memory than a small machine has.
const AT_A_TIME: usize = 2;

/// All imports of this server.
#[derive(Debug)]
pub(crate) struct Imports {
    runs: Mutex<HashMap<Uuid, Arc<Run>>>,
    files: Semaphore,
}

/// Why an import came to nothing.
#[derive(Debug)]
pub(crate) enum Broken {
    /// The file has faults.
    Faulty(Faults),
    /// Anything else.
    Failed(AppError),
}

impl From<Faults> for Broken {
    fn from(faults: Faults) -> Self {
        Self::Faulty(faults)
    }
}

impl From<AppError> for Broken {
    fn from(error: AppError) -> Self {
        match error {
            AppError::Fields(faults) => Self::Faulty(faults.into_iter().collect()),
            other => Self::Failed(other),
        }
    }
}

impl From<StoreError> for Broken {
    fn from(error: StoreError) -> Self {
        AppError::from(error).into()
    }
}

/// How far an import is.
#[derive(Debug, Clone)]
pub(crate) enum Stage {
    /// Others are before it.
    Waiting,
    /// Under way.
    Busy { phase: ImportPhase, done: usize, of: usize },
    /// It came to its end.
    Done(Outcome),
    /// The file has faults; nothing was changed.
    Refused { faults: Faults },
    /// It was stopped; nothing was changed.
    Stopped,
    /// Something else went wrong; nothing was changed.
    Failed { why: String },
}

impl Stage {
    fn is_end(&self) -> bool {
        !matches!(self, Self::Waiting | Self::Busy { .. })
    }
}

/// One import.
#[derive(Debug)]
pub(crate) struct Run {
    pub id: Uuid,
    by: Uuid,
    pub preview: bool,
    began: Instant,
    stop: AtomicBool,
    stage: watch::Sender<Stage>,
}

impl Run {
    /// How far it is.
    pub fn stage(&self) -> Stage {
        self.stage.borrow().clone()
    }

    /// Tells how far it is; answers whether to go on.
    pub fn step(&self, phase: ImportPhase, done: usize, of: usize) -> bool {
        self.stage.send_replace(Stage::Busy { phase, done, of });
        !self.stop.load(Ordering::Acquire)
    }

    /// Asks it to stop, and waits for how it ended: it may have come to its end before.
    pub async fn stop(&self) -> Stage {
        self.stop.store(true, Ordering::Release);
        let mut stages = self.stage.subscribe();
        match stages.wait_for(Stage::is_end).await {
            Ok(stage) => stage.clone(),
            Err(_) => self.stage(),
        }
    }
}

impl Default for Imports {
    fn default() -> Self {
        Self { runs: Mutex::default(), files: Semaphore::new(AT_A_TIME) }
    }
}

impl Imports {
    /// A place for reading a file; whoever comes later waits.
    pub async fn place(&self) -> Result<SemaphorePermit<'_>, AppError> {
        self.files.acquire().await.map_err(AppError::internal)
    }

    fn runs(&self) -> MutexGuard<'_, HashMap<Uuid, Arc<Run>>> {
        self.runs.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// One of this account's imports.
    pub fn of(&self, by: Uuid, id: Uuid) -> Result<Arc<Run>, AppError> {
        let found = self.runs().get(&id).filter(|run| run.by == by).cloned();
        found.ok_or_else(|| AppError::not_found("import", id))
    }

    /// Begins an import. Everybody has one at a time. `work` answers nothing when it was stopped.
    pub fn begin<Work, Going>(self: &Arc<Self>, by: Uuid, preview: bool, work: Work) -> Result<Arc<Run>, AppError>
    where
        Work: FnOnce(Arc<Run>) -> Going + Send + 'static,
        Going: Future<Output = Result<Option<Outcome>, Broken>> + Send,
    {
        let (stage, _) = watch::channel(Stage::Waiting);
        let (id, began) = (Uuid::now_v7(), Instant::now());
        let run = Arc::new(Run { id, by, preview, began, stop: AtomicBool::default(), stage });
        {
            let mut runs = self.runs();
            runs.retain(|_, run| !run.stage().is_end() || run.began.elapsed() < KEPT);
            if runs.values().any(|run| run.by == by && !run.stage().is_end()) {
                return Err(AppError::ImportRunning);
            }
            runs.insert(id, Arc::clone(&run));
        }
        let (imports, own) = (Arc::clone(self), Arc::clone(&run));
        tokio::spawn(async move {
            let going = Arc::clone(&own);
            // A task of its own, so that even one that breaks down is told to have ended.
            let task = tokio::spawn(async move {
                let _place = imports.place().await?;
                if going.stop.load(Ordering::Acquire) { Ok(None) } else { work(going).await }
            });
            let end = match task.await {
                Ok(Ok(Some(outcome))) => Stage::Done(outcome),
                Ok(Ok(None)) => Stage::Stopped,
                Ok(Err(Broken::Faulty(faults))) => Stage::Refused { faults },
                Ok(Err(Broken::Failed(cause))) => Stage::Failed { why: cause.to_string() },
                Err(cause) => {
                    error!(%cause, "an import broke down");
                    Stage::Failed { why: AppError::Internal.to_string() }
                }
            };
            own.stage.send_replace(end);
        });
        Ok(run)
    }
}
