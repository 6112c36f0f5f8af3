//! Places for what must not all happen at once: so many at a time, so many waiting, and the others are told.

use std::sync::Arc;
use std::time::Duration;

use tokio::sync::{OwnedSemaphorePermit, Semaphore};
use tokio::time::timeout;

use crate::AppError;

/// A door behind which there are few places, and before it a short queue.
#[derive(Debug)]
pub(crate) struct Gate {
    places: Arc<Semaphore>,
    /// Places and queue together.
    admitted: Arc<Semaphore>,
    patience: Duration,
}

/// A place; dropping it lets the next one in.
#[derive(Debug)]
pub(crate) struct Place {
    _place: OwnedSemaphorePermit,
    _admitted: OwnedSemaphorePermit,
}

impl Gate {
    /// `waiting` may wait for one of `places`, nobody for longer than `patience`.
    pub fn new(places: usize, waiting: usize, patience: Duration) -> Self {
        let [places, admitted] = [places, places + waiting].map(|permits| Arc::new(Semaphore::new(permits)));
        Self { places, admitted, patience }
    }

    /// A place, as soon as one is free.
    ///
    /// # Errors
    /// [`AppError::Busy`] at once when the queue is full, and after waiting in vain.
    pub async fn enter(&self) -> Result<Place, AppError> {
        let admitted = Arc::clone(&self.admitted).try_acquire_owned().map_err(|_| AppError::Busy)?;
        match timeout(self.patience, Arc::clone(&self.places).acquire_owned()).await {
            Ok(Ok(place)) => Ok(Place { _place: place, _admitted: admitted }),
            _ => Err(AppError::Busy),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[tokio::test]
    async fn whoever_finds_no_place_in_time_is_told_and_leaves_none_taken() {
        let gate = Arc::new(Gate::new(1, 1, Duration::from_millis(30)));
        let inside = gate.enter().await.unwrap();
        let queue = Arc::clone(&gate);
        let waiting = tokio::spawn(async move { queue.enter().await.map(|_| ()) });
        tokio::task::yield_now().await;
        assert!(matches!(gate.enter().await, Err(AppError::Busy)), "the queue is full");
        assert!(matches!(waiting.await.unwrap(), Err(AppError::Busy)), "it waited in vain");
        drop(inside);
        assert!(gate.enter().await.is_ok() && gate.enter().await.is_ok());
    }
}
