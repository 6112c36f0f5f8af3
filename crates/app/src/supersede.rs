//! Of long computations that one person asks for in a row, only the last is finished.

use std::collections::HashMap;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex, PoisonError};

use pruvex_core::TestId;
use uuid::Uuid;

/// Who asks about which tests.
type Question = (Uuid, Vec<TestId>);

/// The last computation of each question. A browser that has gone on does not wait for the ones before, and nothing tells the server so.
#[derive(Debug, Default)]
pub(crate) struct Supersede(Mutex<HashMap<Question, Arc<AtomicBool>>>);

/// A computation; while it is there, a later one of the same question can call it off.
#[derive(Debug)]
pub(crate) struct Computation {
    of: Arc<Supersede>,
    question: Question,
    called_off: Arc<AtomicBool>,
}

impl Supersede {
    /// Begins a computation and calls off the one before.
    pub fn begin(self: &Arc<Self>, who: Uuid, tests: &[TestId]) -> Computation {
        let (question, called_off) = ((who, tests.to_vec()), Arc::default());
        let mut last = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(before) = last.insert(question.clone(), Arc::clone(&called_off)) {
            before.store(true, Ordering::Relaxed);
        }
        Computation { of: Arc::clone(self), question, called_off }
    }
}

impl Computation {
    /// Whether a later one is asked for instead.
    pub fn is_called_off(&self) -> bool {
        self.called_off.load(Ordering::Relaxed)
    }
}

impl Drop for Computation {
    fn drop(&mut self) {
        let mut last = self.of.0.lock().unwrap_or_else(PoisonError::into_inner);
        if last.get(&self.question).is_some_and(|it| Arc::ptr_eq(it, &self.called_off)) {
            last.remove(&self.question);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_last_of_a_question_goes_on_alone_and_nothing_stays() {
        let supersede = Arc::new(Supersede::default());
        let [somebody, other] = [1, 2].map(Uuid::from_u128);
        let [test, another] = [3, 4].map(|id| TestId(Uuid::from_u128(id)));
        let first = supersede.begin(somebody, &[test]);
        let of_others = [supersede.begin(other, &[test]), supersede.begin(somebody, &[test, another])];
        assert!(!first.is_called_off());
        let second = supersede.begin(somebody, &[test]);
        assert!(first.is_called_off() && !second.is_called_off());
        drop(first);
        let third = supersede.begin(somebody, &[test]);
        assert!(second.is_called_off(), "the first took nothing of the second away");
        assert!(of_others.iter().all(|it| !it.is_called_off()));
        drop((second, third, of_others));
        assert!(supersede.0.lock().unwrap().is_empty());
    }
}
