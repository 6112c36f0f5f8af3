//! Pooled answers at hand.

use std::collections::{BTreeMap, HashMap, HashSet};
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError, RwLock};

use moka::sync::Cache;
use pruvex_core::accuracy::Counts;
use pruvex_core::pooling::{ENGINE, IntervalChoice, PoolOptions, Pooled, pool};
use pruvex_store::DatabaseConnection;
use pruvex_store::pooling::{Asked, KeptAnswer, drop_answers, keep_answers, kept_answers};
use rayon::prelude::*;
use sha2::{Digest, Sha256};
use tokio::sync::OnceCell;
use tracing::warn;

use crate::AppError;
use crate::blocking::blocking;

/// Pooled answers by what they depend on. Nothing ever has to be taken back: studies that change have other counts. Those of the catalogue are kept in
/// the database as well, so that a start computes nothing that was computed before.
pub(crate) struct Pools {
    answers: Cache<Asked, Option<Arc<Pooled>>>,
    /// Answers of an earlier engine, shown until there are new ones.
    earlier: RwLock<HashMap<Asked, Arc<Pooled>>>,
    /// What was shown of them, to be computed again.
    again: Mutex<HashMap<Asked, (Vec<Counts>, IntervalChoice)>>,
    /// Computed since answers were last kept: each once, though two tests with the same counts may be computed side by side, and in one order, so that two
    /// servers do not wait for each other.
    unkept: Mutex<BTreeMap<Asked, Arc<Pooled>>>,
    /// What was kept has been read.
    read: OnceCell<()>,
    /// Kept in the database, and not yet asked for.
    unasked: Mutex<HashSet<Asked>>,
    /// How many were computed again, and of how many.
    progress: [AtomicUsize; 2],
}

/// An answer, and whether an earlier engine computed it.
pub(crate) type Given = (Option<Arc<Pooled>>, bool);

/// Answers that are computed again before they are shown and kept.
const AT_A_TIME: usize = 64;

fn held<T>(lock: &Mutex<T>) -> MutexGuard<'_, T> {
    lock.lock().unwrap_or_else(PoisonError::into_inner)
}

/// What an answer depends on, whatever the order of the studies.
fn asked(counts: &[Counts], interval: IntervalChoice) -> Asked {
    let mut cells: Vec<[Option<u32>; 4]> = counts.iter().map(Counts::cells).collect();
    cells.sort_unstable();
    Sha256::digest(serde_json::to_vec(&(interval, cells)).unwrap_or_default()).into()
}

fn compute(counts: &[Counts], interval: IntervalChoice) -> Option<Arc<Pooled>> {
    pool(counts, PoolOptions { interval, ..PoolOptions::default() }).ok().map(Arc::new)
}

impl Pools {
    /// For so many answers: a large catalogue, and a few thousand that are no longer asked for. At about 4 kB each that is 80 MB.
    pub fn new() -> Self {
        Self {
            answers: Cache::new(20_000),
            earlier: RwLock::default(),
            again: Mutex::default(),
            unkept: Mutex::default(),
            read: OnceCell::new(),
            unasked: Mutex::default(),
            progress: Default::default(),
        }
    }

    /// What these answer, for whoever puts a pool together.
    pub fn of(&self, counts: &[Counts], interval: IntervalChoice) -> Option<Arc<Pooled>> {
        self.at_hand(asked(counts, interval), counts, interval)
    }

    /// Not `get_with`: whoever computes on several processors could be given the same question meanwhile, and wait for itself.
    fn at_hand(&self, asked: Asked, counts: &[Counts], interval: IntervalChoice) -> Option<Arc<Pooled>> {
        if let Some(found) = self.answers.get(&asked) {
            return found;
        }
        let computed = compute(counts, interval);
        self.answers.insert(asked, computed.clone());
        computed
    }

    /// What a test's studies answer: kept, and of an earlier engine until there is a newer one.
    pub fn of_test(&self, counts: &[Counts], interval: IntervalChoice) -> Given {
        let asked = asked(counts, interval);
        if let Some(found) = self.answers.get(&asked) {
            held(&self.unasked).remove(&asked);
            return (found, false);
        }
        let earlier = self.earlier.read().unwrap_or_else(PoisonError::into_inner).get(&asked).cloned();
        if earlier.is_some() {
            held(&self.unasked).remove(&asked);
            held(&self.again).entry(asked).or_insert_with(|| (counts.to_vec(), interval));
            return (earlier, true);
        }
        let computed = self.at_hand(asked, counts, interval);
        held(&self.unkept).extend(computed.clone().map(|pooled| (asked, pooled)));
        (computed, false)
    }

    /// Reads what was kept, once.
    pub async fn read(&self, db: &DatabaseConnection) -> Result<(), AppError> {
        self.read.get_or_try_init(|| self.read_kept(db)).await.copied()
    }

    async fn read_kept(&self, db: &DatabaseConnection) -> Result<(), AppError> {
        for KeptAnswer { asked, engine, pooled } in kept_answers(db).await? {
            held(&self.unasked).insert(asked);
            if engine == ENGINE {
                self.answers.insert(asked, Some(Arc::new(pooled)));
            } else {
                let mut earlier = self.earlier.write().unwrap_or_else(PoisonError::into_inner);
                earlier.insert(asked, Arc::new(pooled));
            }
        }
        Ok(())
    }

    /// Keeps what was computed since.
    pub async fn keep(&self, db: &DatabaseConnection) -> Result<(), AppError> {
        let unkept = std::mem::take(&mut *held(&self.unkept));
        Ok(keep_answers(db, ENGINE, unkept.iter().map(|(asked, pooled)| (*asked, &**pooled))).await?)
    }

    /// Lets go of what was kept and has not been asked for since: once the catalogue has been read, nobody will.
    pub async fn clear(&self, db: &DatabaseConnection) -> Result<(), AppError> {
        let unasked: Vec<Asked> = std::mem::take(&mut *held(&self.unasked)).into_iter().collect();
        Ok(drop_answers(db, &unasked).await?)
    }

    /// How many answers of an earlier engine have been computed again, and of how many; none when none are left.
    pub fn progress(&self) -> Option<[usize; 2]> {
        let [done, of] = [0, 1].map(|it: usize| self.progress[it].load(Ordering::Relaxed));
        (done < of).then_some([done, of])
    }

    /// Computes again what was shown of an earlier engine; whether there was any.
    pub async fn compute_again(self: &Arc<Self>, db: &DatabaseConnection) -> Result<bool, AppError> {
        let all: Vec<_> = std::mem::take(&mut *held(&self.again)).into_iter().collect();
        self.progress[0].store(0, Ordering::Relaxed);
        self.progress[1].store(all.len(), Ordering::Relaxed);
        for part in all.chunks(AT_A_TIME) {
            let (pools, part) = (Arc::clone(self), part.to_vec());
            let count = part.len();
            blocking(move || {
                part.par_iter().for_each(|(asked, (counts, interval))| {
                    let computed = compute(counts, *interval);
                    pools.answers.insert(*asked, computed.clone());
                    held(&pools.unkept).extend(computed.map(|pooled| (*asked, pooled)));
                });
            })
            .await?;
            // The answers are there; what is not kept is computed anew after the next start.
            if let Err(cause) = self.keep(db).await {
                warn!(%cause, "pooled answers were not kept");
            }
            self.progress[0].fetch_add(count, Ordering::Relaxed);
        }
        *self.earlier.write().unwrap_or_else(PoisonError::into_inner) = HashMap::new();
        Ok(!all.is_empty())
    }
}

#[cfg(test)]
mod tests {
    use std::sync::Arc;

    use super::{Counts, IntervalChoice, Pools, asked, compute};

    #[test]
    fn an_earlier_answer_is_shown_and_noted_until_there_is_a_newer_one() {
        let counts = [Counts::full(20.0, 3.0, 5.0, 40.0), Counts::full(31.0, 9.0, 12.0, 40.0)].map(Result::unwrap);
        let turned = [counts[1], counts[0]];
        let key = asked(&counts, IntervalChoice::Auto);
        assert_eq!(key, asked(&turned, IntervalChoice::Auto), "the order of studies asks nothing else");
        assert_ne!(key, asked(&counts, IntervalChoice::Wald));
        let pools = Pools::new();
        let old = compute(&counts, IntervalChoice::Wald).unwrap();
        pools.earlier.write().unwrap().insert(key, Arc::clone(&old));
        let (found, earlier) = pools.of_test(&turned, IntervalChoice::Auto);
        assert!(earlier && Arc::ptr_eq(&found.unwrap(), &old));
        assert!(pools.again.lock().unwrap().contains_key(&key) && pools.unkept.lock().unwrap().is_empty());
        // Whoever puts a pool together is answered by this engine, and so is the test from then on.
        assert_ne!(pools.of(&counts, IntervalChoice::Auto), Some(old));
        assert!(!pools.of_test(&counts, IntervalChoice::Auto).1);
        // Computed twice, as two processors may, it is kept once: no database takes one key twice in one statement.
        for _ in 0..2 {
            pools.of_test(&counts, IntervalChoice::Profile);
            pools.answers.invalidate(&asked(&counts, IntervalChoice::Profile));
        }
        assert_eq!(pools.unkept.lock().unwrap().len(), 1);
    }
}
