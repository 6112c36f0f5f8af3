//! Imports of tables under way: they take longer than an answer should, so that they are begun, watched and stopped by requests of
//! their own. One that is stopped, or whose server ends, leaves nothing behind: it is a single transaction.

use std::collections::{BTreeMap, HashMap};
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};
use std::time::{Duration, Instant};

use pruvex_core::FieldError;
use pruvex_formats::{Remark, chosen_columns, open_table, read_results_table};
use pruvex_store::exchange::{ImportPhase, ImportedTable, import_table, remember_columns};
use pruvex_store::history::Act;
use tokio::sync::{Semaphore, SemaphorePermit, watch};
use tracing::{error, warn};
use uuid::Uuid;

use crate::AppError;
use crate::blocking::blocking;
use crate::writers::Writers;

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

/// What is to be imported.
#[derive(Debug)]
pub(crate) struct Wish {
    pub bytes: Vec<u8>,
    pub sheet: Option<usize>,
    pub header_row: Option<u32>,
    pub mapping: BTreeMap<&'static str, usize>,
    /// Only compare it with what is on record.
    pub preview: bool,
}

/// How far an import is.
#[derive(Debug, Clone)]
pub(crate) enum Stage {
    /// Others are before it.
    Waiting,
    /// Under way.
    Busy { phase: ImportPhase, done: usize, of: usize },
    /// It came to its end.
    Done { table: Box<ImportedTable>, remarks: Vec<Remark> },
    /// The file has faults; nothing was changed.
    Refused { faults: Vec<FieldError> },
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
    fn step(&self, phase: ImportPhase, done: usize, of: usize) -> bool {
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

    /// Begins an import. Everybody has one at a time.
    pub fn begin(self: &Arc<Self>, writers: Writers, by: Uuid, wish: Wish) -> Result<Arc<Run>, AppError> {
        let (stage, _) = watch::channel(Stage::Waiting);
        let (id, preview, began) = (Uuid::now_v7(), wish.preview, Instant::now());
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
            // A task of its own, so that even one that breaks down is told to have ended.
            let work = tokio::spawn(carry_out(imports, writers, Arc::clone(&own), wish));
            let end = match work.await {
                Ok(Ok(Some(end))) => end,
                Ok(Ok(None)) => Stage::Stopped,
                Ok(Err(AppError::Fields(faults))) => Stage::Refused { faults },
                Ok(Err(cause)) => Stage::Failed { why: cause.to_string() },
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

async fn carry_out(
    imports: Arc<Imports>,
    writers: Writers,
    run: Arc<Run>,
    wish: Wish,
) -> Result<Option<Stage>, AppError> {
    let _place = imports.place().await?;
    let Wish { bytes, sheet, header_row, mapping, preview } = wish;
    let reader = Arc::clone(&run);
    let read = blocking(move || {
        if !reader.step(ImportPhase::Reading, 0, 0) {
            return Ok(None);
        }
        let file = open_table(&bytes, sheet)?;
        drop(bytes);
        let table =
            read_results_table(&file, header_row, &mapping, &|done, of| reader.step(ImportPhase::Reading, done, of));
        let chosen = chosen_columns(&file, header_row, &mapping);
        let remarks = file.remarks;
        table.transpose().map(|table| table.map(|table| (table, remarks, chosen)))
    });
    let Some((table, mut remarks, chosen)) = read.await?.map_err(AppError::Fields)? else { return Ok(None) };
    let act = Act::of("imported", Some(run.by));
    let step = |phase, done, of| run.step(phase, done, of);
    let transaction = writers.begin_import().await?;
    let Some(imported) = import_table(transaction, &table, act, preview, &step).await? else { return Ok(None) };
    if !preview && let Err(cause) = remember_columns(writers.notes(), run.by, &chosen).await {
        warn!(%cause, "what the columns of a table hold is not remembered");
    }
    remarks.extend(table.remarks);
    Ok(Some(Stage::Done { table: Box::new(imported), remarks }))
}
