//! Connections of those who change something: they wait for one another, and keep no reader waiting.

use std::sync::Arc;

use pruvex_store::{Connections, DatabaseConnection, DatabaseTransaction, StoreError, TransactionTrait, ping};
use tokio::sync::Semaphore;

use crate::AppError;

/// So many may wait for a connection; more would only wait for longer than anybody looks at a page.
const WAITING: usize = 64;

/// Where changes begin. Each is a transaction that waits until no other changes anything, for a few seconds at most.
#[derive(Debug, Clone)]
pub(crate) struct Writers {
    edits: DatabaseConnection,
    imports: DatabaseConnection,
    readers: DatabaseConnection,
    queue: Arc<Semaphore>,
}

impl Writers {
    /// Connects lazily, beside the connections of those who read.
    pub async fn connect(url: &str, readers: DatabaseConnection) -> Result<Self, StoreError> {
        let edits = pruvex_store::connect(url, Connections::Edits).await?;
        let imports = pruvex_store::connect(url, Connections::Imports).await?;
        Ok(Self { edits, imports, readers, queue: Arc::new(Semaphore::new(WAITING)) })
    }

    /// Begins a change.
    ///
    /// # Errors
    /// [`AppError::Busy`] when too many wait, or it waited for too long.
    pub async fn begin(&self) -> Result<DatabaseTransaction, AppError> {
        self.begin_on(&self.edits).await
    }

    /// Begins a change of many records, which waits for longer and holds up the others.
    ///
    /// # Errors
    /// As [`Self::begin`].
    pub async fn begin_import(&self) -> Result<DatabaseTransaction, AppError> {
        self.begin_on(&self.imports).await
    }

    /// Where a single row beside the catalogue is written, for which nobody waits.
    pub fn notes(&self) -> &DatabaseConnection {
        &self.readers
    }

    async fn begin_on(&self, connections: &DatabaseConnection) -> Result<DatabaseTransaction, AppError> {
        let _waiting = self.queue.try_acquire().map_err(|_| AppError::Busy)?;
        match connections.begin().await.map_err(StoreError::from) {
            // No connection became free because all are at work, or because there is no database: the others know.
            Err(StoreError::Unavailable(_)) if ping(&self.readers).await.is_ok() => Err(AppError::Busy),
            begun => Ok(begun?),
        }
    }
}
