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
use serde::Serialize;
use sha2::{Digest, Sha256};
use tokio::sync::OnceCell;
use tracing::warn;
use utoipa::ToSchema;

use crate::AppError;
use crate::blocking::Pace;

/// Pooled answers by what they depend on. Nothing ever has to be taken back: studies that change have other counts. Those of the catalogue are kept in
/// the database as well, so that a start computes nothing that was computed before.
pub(crate) struct Pools {
    answers: Cache<Asked, Option<Arc<Pooled>>>,
    /// Answers of an earlier engine, shown until there are new ones.
    earlier: RwLock<HashMap<Asked, Arc<Pooled>>>,
    /// What was shown of them, and what nobody waited for: to be computed.
    due: Mutex<HashMap<Asked, (Vec<Counts>, IntervalChoice)>>,
    /// Computed since answers were last kept: each once, though two tests with the same counts may be computed side by side, and in one order, so that two
    /// servers do not wait for each other.
    unkept: Mutex<BTreeMap<Asked, Arc<Pooled>>>,
    /// What was kept has been read.
    read: OnceCell<()>,
    /// Kept in the database, and not yet asked for.
    unasked: Mutex<HashSet<Asked>>,
    /// How many of those that were due are computed.
    done: AtomicUsize,
}

/// How an answer stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Standing {
    /// As this version of the program computes it.
    Current,
    /// From an earlier version; it is being computed again.
    Earlier,
    /// It is being computed.
    Computing,
}

/// Who asks for an answer that is not at hand.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Wait {
    /// Waits for it.
    Now,
    /// Asks for thousands, and does without those that have to be computed.
    Later,
}

/// An answer, and how it stands.
pub(crate) type Given = (Option<Arc<Pooled>>, Standing);

/// Answers that are computed before they are kept.
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
            due: Mutex::default(),
            unkept: Mutex::default(),
            read: OnceCell::new(),
            unasked: Mutex::default(),
            done: AtomicUsize::new(0),
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
    pub fn of_test(&self, counts: &[Counts], interval: IntervalChoice, wait: Wait) -> Given {
        let asked = asked(counts, interval);
        if let Some(found) = self.answers.get(&asked) {
            held(&self.unasked).remove(&asked);
            return (found, Standing::Current);
        }
        let earlier = self.earlier.read().unwrap_or_else(PoisonError::into_inner).get(&asked).cloned();
        if earlier.is_some() {
            held(&self.unasked).remove(&asked);
            held(&self.due).entry(asked).or_insert_with(|| (counts.to_vec(), interval));
            return (earlier, Standing::Earlier);
        }
        if wait == Wait::Later {
            held(&self.due).entry(asked).or_insert_with(|| (counts.to_vec(), interval));
            return (None, Standing::Computing);
        }
        let computed = self.at_hand(asked, counts, interval);
        held(&self.unkept).extend(computed.clone().map(|pooled| (asked, pooled)));
        (computed, Standing::Current)
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

    /// How many of the answers that were due have been computed, and of how many; none when all are shown.
    pub fn progress(&self) -> Option<[usize; 2]> {
        let due = held(&self.due).len();
        let done = self.done.load(Ordering::Relaxed);
        (done + due > 0).then_some([done, done + due])
    }

    /// The answers that were computed are shown.
    pub fn shown(&self) {
        self.done.store(0, Ordering::Relaxed);
    }

    /// Computes up to so many answers that are due, while nobody waits; whether more are left.
    pub async fn compute_due(self: &Arc<Self>, most: usize, db: &DatabaseConnection) -> Result<bool, AppError> {
        let part: Vec<_> = held(&self.due).iter().take(most).map(|(asked, of)| (*asked, of.clone())).collect();
        for part in part.chunks(AT_A_TIME) {
            let (pools, part) = (Arc::clone(self), part.to_vec());
            let each = move || {
                part.par_iter().for_each(|(asked, (counts, interval))| {
                    let computed = compute(counts, *interval);
                    pools.answers.insert(*asked, computed.clone());
                    held(&pools.unkept).extend(computed.map(|pooled| (*asked, pooled)));
                    held(&pools.due).remove(asked);
                    pools.done.fetch_add(1, Ordering::Relaxed);
                });
            };
            Pace::Quiet.run(each).await?;
            // The answers are there; what is not kept is computed anew after the next start.
            if let Err(cause) = self.keep(db).await {
                warn!(%cause, "pooled answers were not kept");
            }
        }
        let more = !held(&self.due).is_empty();
        if !more {
            *self.earlier.write().unwrap_or_else(PoisonError::into_inner) = HashMap::new();
        }
        Ok(more)
    }
}

#[cfg(test)]
mod tests {
    use std::sync::Arc;

    use super::{Counts, IntervalChoice, Pools, Standing, Wait, asked, compute};

    #[test]
    fn what_is_not_at_hand_is_noted_until_it_is_computed() {
        let counts = [Counts::full(20.0, 3.0, 5.0, 40.0), Counts::full(31.0, 9.0, 12.0, 40.0)].map(Result::unwrap);
        let turned = [counts[1], counts[0]];
        let key = asked(&counts, IntervalChoice::Auto);
        assert_eq!(key, asked(&turned, IntervalChoice::Auto), "the order of studies asks nothing else");
        assert_ne!(key, asked(&counts, IntervalChoice::Wald));
        let pools = Pools::new();
        // Of an earlier engine: shown, whoever asks.
        let old = compute(&counts, IntervalChoice::Wald).unwrap();
        pools.earlier.write().unwrap().insert(key, Arc::clone(&old));
        for wait in [Wait::Now, Wait::Later] {
            let (found, standing) = pools.of_test(&turned, IntervalChoice::Auto, wait);
            assert!(standing == Standing::Earlier && Arc::ptr_eq(&found.unwrap(), &old));
        }
        assert!(pools.due.lock().unwrap().contains_key(&key) && pools.unkept.lock().unwrap().is_empty());
        // Of none: nothing for those who do not wait, and noted once.
        let profile = |wait| pools.of_test(&counts, IntervalChoice::Profile, wait);
        assert_eq!(
            [profile(Wait::Later), profile(Wait::Later)],
            [(None, Standing::Computing), (None, Standing::Computing)]
        );
        assert_eq!(pools.progress(), Some([0, 2]));
        // Whoever puts a pool together is answered by this engine, and so is the test from then on.
        assert_ne!(pools.of(&counts, IntervalChoice::Auto), Some(old));
        assert_eq!(pools.of_test(&counts, IntervalChoice::Auto, Wait::Later).1, Standing::Current);
        // Computed twice, as two processors may, it is kept once: no database takes one key twice in one statement.
        for _ in 0..2 {
            assert_eq!(profile(Wait::Now).1, Standing::Current);
            pools.answers.invalidate(&asked(&counts, IntervalChoice::Profile));
        }
        assert_eq!(pools.unkept.lock().unwrap().len(), 1);
    }
}
