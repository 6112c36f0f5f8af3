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

/// Somebody before the door, who may go in when there is a place.
#[derive(Debug)]
pub(crate) struct Waiting<'a> {
    gate: &'a Gate,
    admitted: OwnedSemaphorePermit,
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

    /// A place in the queue.
    ///
    /// # Errors
    /// [`AppError::Busy`] when it is full.
    pub fn queue(&self) -> Result<Waiting<'_>, AppError> {
        let admitted = Arc::clone(&self.admitted).try_acquire_owned().map_err(|_| AppError::Busy)?;
        Ok(Waiting { gate: self, admitted })
    }
}

impl Waiting<'_> {
    /// A place behind the door, as soon as one is free.
    ///
    /// # Errors
    /// [`AppError::Busy`] after waiting in vain.
    pub async fn enter(self) -> Result<Place, AppError> {
        match timeout(self.gate.patience, Arc::clone(&self.gate.places).acquire_owned()).await {
            Ok(Ok(place)) => Ok(Place { _place: place, _admitted: self.admitted }),
            _ => Err(AppError::Busy),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[tokio::test]
    async fn whoever_finds_no_place_in_time_is_told_and_leaves_none_taken() {
        let gate = Gate::new(1, 1, Duration::from_millis(30));
        let inside = gate.queue().unwrap().enter().await.unwrap();
        let waiting = gate.queue().unwrap();
        assert!(matches!(gate.queue(), Err(AppError::Busy)), "the queue is full");
        assert!(matches!(waiting.enter().await, Err(AppError::Busy)), "it waited in vain");
        drop(inside);
        for _ in 0..2 {
            assert!(gate.queue().unwrap().enter().await.is_ok());
        }
    }
}
