//! The catalogue as it is looked through. Thousands of tests are filtered, sorted and compared in memory; the history says which of
//! them changed since they were read, and only those are read again.

use std::collections::{BTreeMap, HashMap, HashSet};
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, PoisonError, RwLock};

use pruvex_core::catalogue::{Digest, Finding, Neighbours, Sheet, Vocabulary, audit, name_key};
use pruvex_core::people::{Right, Role, Settings};
use pruvex_core::pooling::IntervalChoice;
use pruvex_core::{ResultId, TestId};
use pruvex_store::DatabaseConnection;
use pruvex_store::catalogue::{TestRecord, get_tests, page_tests, taught_texts, tests_for};
use pruvex_store::evidence::{ResultCandidate, Seen, list_candidates, tests_of};
use pruvex_store::history::{Kind, Moment, changed_since, newest_change};
use pruvex_store::vocabulary::{StructureRecord, list_structures};
use rayon::prelude::*;
use tokio::sync::Mutex;
use tracing::warn;
use uuid::Uuid;

use super::TestRow;
use crate::AppError;
use crate::blocking::{Pace, blocking};
use crate::people::{current_settings, shown_to_learners};
use crate::pooling::{Pools, Wait, back};

/// What is kept, once it was read.
#[derive(Default)]
pub(crate) struct CatalogueCache {
    kept: RwLock<Option<Kept>>,
    /// Held by whoever brings it up to date.
    work: Mutex<()>,
    /// That takes so long that nobody waits for it.
    rebuilding: AtomicBool,
    /// Answers that were due are being computed.
    computing: AtomicBool,
}

#[derive(Clone)]
struct Kept {
    /// Everything up to it is in there for certain.
    moment: Moment,
    catalogue: Arc<Catalogue>,
}

/// The catalogue as somebody finds it.
pub(crate) struct Found {
    pub(crate) catalogue: Arc<Catalogue>,
    /// Something changed since that touches many tests, and is being read.
    pub(crate) behind: bool,
}

/// So many tests are read again while somebody waits: a single change touches no more, as a rule.
const WORTH_WAITING: usize = 50;
/// A catalogue of so many tests is read in a moment whatever has changed.
const SMALL: usize = 300;
/// So many answers that nobody waited for are computed before they are shown.
const SHOWN_AT_A_TIME: usize = 1_000;
/// Where more records have changed, it is not worth asking which tests they touch.
const TOO_MANY: usize = 5_000;

/// What has changed since a moment.
enum Changes {
    /// These tests, and the vocabulary if it stands here.
    Few { tests: Vec<TestId>, structures: Option<Vec<StructureRecord>> },
    /// So much that all is read again.
    Many,
}

impl CatalogueCache {
    fn kept(&self) -> Option<Kept> {
        self.kept.read().unwrap_or_else(PoisonError::into_inner).clone()
    }

    fn keep(&self, moment: Moment, catalogue: Arc<Catalogue>) {
        *self.kept.write().unwrap_or_else(PoisonError::into_inner) = Some(Kept { moment, catalogue });
    }

    /// The catalogue as it is now; while a change is being read that touches many tests, as it was before.
    pub async fn current(self: &Arc<Self>, db: &DatabaseConnection, pools: &Arc<Pools>) -> Result<Found, AppError> {
        // Asked for before the rows are read: what is kept may be newer than its number, never older.
        let now = newest_change(db).await?;
        let found = |Kept { catalogue, .. }, behind| Found { catalogue, behind };
        let (old, changes) = match self.kept() {
            Some(kept) if kept.moment.covers(now) => {
                self.compute(db, pools);
                return Ok(found(kept, false));
            }
            Some(kept) if now.continues(kept.moment) => {
                if self.rebuilding.load(Ordering::Acquire) {
                    return Ok(found(kept, true));
                }
                let changes = kept.catalogue.changes(kept.moment, db).await?;
                (Some(kept), changes)
            }
            _ => (None, Changes::Many),
        };
        let worth_waiting = |changes: &Changes, kept: &Kept| match changes {
            _ if kept.catalogue.entries.len() <= SMALL => true,
            Changes::Few { tests, .. } => tests.len() <= WORTH_WAITING,
            Changes::Many => false,
        };
        if let Some(old) = old.filter(|old| !worth_waiting(&changes, old)) {
            self.rebuild(db, pools);
            return Ok(found(old, true));
        }
        let _work = self.work.lock().await;
        // Whoever was before may have read it.
        if let Some(kept) = self.kept().filter(|kept| kept.moment.covers(now)) {
            return Ok(found(kept, false));
        }
        let catalogue = self.read(now, Pace::Asked, db, pools).await?;
        self.keep(now, Arc::clone(&catalogue));
        keep_answers(db, pools);
        self.compute(db, pools);
        Ok(Found { catalogue, behind: false })
    }

    /// Brings it up to date while nobody waits.
    fn rebuild(self: &Arc<Self>, db: &DatabaseConnection, pools: &Arc<Pools>) {
        if self.rebuilding.swap(true, Ordering::AcqRel) {
            return;
        }
        let (cache, db, pools) = (Arc::clone(self), db.clone(), Arc::clone(pools));
        tokio::spawn(async move {
            let ended = Ended(&cache.rebuilding);
            let _work = cache.work.lock().await;
            let rebuilt = async {
                let now = newest_change(&db).await?;
                let catalogue = cache.read(now, Pace::Quiet, &db, &pools).await?;
                cache.keep(now, catalogue);
                keep_answers(&db, &pools);
                cache.compute(&db, &pools);
                Ok::<_, AppError>(())
            };
            if let Err(cause) = rebuilt.await {
                warn!(%cause, "the catalogue was not brought up to date; the next question tries again");
            }
            drop(ended);
        });
    }

    /// Computes the answers that are due while nobody waits, and shows them part by part.
    fn compute(self: &Arc<Self>, db: &DatabaseConnection, pools: &Arc<Pools>) {
        // Also where answers were computed and the reading failed that was to show them.
        if pools.progress().is_none() || self.computing.swap(true, Ordering::AcqRel) {
            return;
        }
        let (cache, db, pools) = (Arc::clone(self), db.clone(), Arc::clone(pools));
        tokio::spawn(async move {
            let _ended = Ended(&cache.computing);
            let computed = async {
                while pools.compute_due(SHOWN_AT_A_TIME, &db).await? {
                    cache.read_again(Wait::Later, &db, &pools).await?;
                }
                // Where there are more answers than are held at hand, some are computed once more here: nothing is due for ever.
                cache.read_again(Wait::Now, &db, &pools).await?;
                pools.shown();
                Ok::<_, AppError>(())
            };
            if let Err(cause) = computed.await {
                warn!(%cause, "not all pooled answers were computed; the next question goes on");
            }
        });
    }

    /// Reads everything again, though nothing changed in the database. Others find it as it was meanwhile.
    async fn read_again(&self, wait: Wait, db: &DatabaseConnection, pools: &Arc<Pools>) -> Result<(), AppError> {
        let _work = self.work.lock().await;
        self.rebuilding.store(true, Ordering::Release);
        let _ended = Ended(&self.rebuilding);
        let now = newest_change(db).await?;
        self.keep(now, Catalogue::read(wait, Pace::Quiet, db, pools).await?);
        Ok(())
    }

    /// The catalogue of this moment, from what is kept as far as that goes.
    async fn read(
        &self,
        now: Moment,
        pace: Pace,
        db: &DatabaseConnection,
        pools: &Arc<Pools>,
    ) -> Result<Arc<Catalogue>, AppError> {
        let Some(Kept { moment, catalogue }) = self.kept().filter(|kept| now.continues(kept.moment)) else {
            return Catalogue::read(Wait::Later, pace, db, pools).await;
        };
        match catalogue.changes(moment, db).await? {
            Changes::Few { tests, structures } if tests.len() <= catalogue.entries.len() / 4 => {
                match Catalogue::read_changes(catalogue, tests, structures, db, pools).await? {
                    Some(read) => Ok(read),
                    None => Catalogue::read(Wait::Later, pace, db, pools).await,
                }
            }
            _ => Catalogue::read(Wait::Later, pace, db, pools).await,
        }
    }
}

/// Keeps what was computed, while nobody waits.
fn keep_answers(db: &DatabaseConnection, pools: &Arc<Pools>) {
    let (db, pools) = (db.clone(), Arc::clone(pools));
    tokio::spawn(async move {
        if let Err(cause) = pools.keep(&db).await {
            warn!(%cause, "pooled answers were not kept; they will be computed anew after the next start");
        }
    });
}

/// Says that rebuilding has ended, however it did.
struct Ended<'a>(&'a AtomicBool);

impl Drop for Ended<'_> {
    fn drop(&mut self) {
        self.0.store(false, Ordering::Release);
    }
}

/// The whole catalogue at one moment.
pub(crate) struct Catalogue {
    /// Structures of all regions, the retired ones included.
    pub(crate) structures: Vec<StructureRecord>,
    vocabulary: Arc<Vocabulary>,
    /// What held for everybody when it was read.
    settings: Settings,
    /// In the order in which they were written, so that comparing them gives the same after every reading.
    entries: BTreeMap<TestId, Arc<Entry>>,
    /// Of the newest catalogue: one from before finds what has been written since, too.
    neighbours: Arc<RwLock<Neighbours>>,
    /// Every test as it stands, once for each of its conditions.
    drafts: Vec<Arc<TestRow>>,
    /// Every test that learners see, as they see it.
    published: Vec<Arc<TestRow>>,
}

/// A test by itself: what was read of it, before it is compared with the others.
struct Entry {
    digest: Arc<Digest>,
    /// How many things the checks found without looking at other tests.
    findings: usize,
    /// The test as it stands, for its leading condition and each further one.
    draft: Vec<TestRow>,
    /// The same as learners see it; empty when they do not.
    published: Vec<Arc<TestRow>>,
}

impl Catalogue {
    /// All of it. Answers that have to be computed are waited for as `wait` says, and in a small catalogue always.
    async fn read(wait: Wait, pace: Pace, db: &DatabaseConnection, pools: &Arc<Pools>) -> Result<Arc<Self>, AppError> {
        pools.read(db).await?;
        let structures = list_structures(db, None).await?;
        let vocabulary = Arc::new(vocabulary_of(&structures));
        let settings = current_settings(db).await?;
        let mut results = Candidates::read(db, None, shown_to_learners(settings.learners_see)).await?;
        let wait = if results.all.len() <= SMALL { Wait::Now } else { wait };
        let mut entries = BTreeMap::new();
        let mut last = None;
        loop {
            let page = page_tests(db, last).await?;
            let Some(end) = page.last() else { break };
            last = Some(end.id);
            let of_page = results.take(page.iter().map(|test| test.id));
            entries.extend(entries_of(page, of_page, &vocabulary, (settings.interval, wait, pace), db, pools).await?);
        }
        pace.run(move || Arc::new(Self::arranged(structures, vocabulary, settings, entries))).await
    }

    /// What has changed since this was read. Checks look a structure up by the names that targets bear, so that one that changes touches the
    /// tests that name it, before or after.
    async fn changes(&self, since: Moment, db: &DatabaseConnection) -> Result<Changes, AppError> {
        let changed = changed_since(db, since.seq).await?;
        if changed.len() > TOO_MANY {
            return Ok(Changes::Many);
        }
        if changed.iter().any(|(kind, _)| *kind == Kind::Settings)
            && !current_settings(db).await?.same_figures(&self.settings)
        {
            return Ok(Changes::Many);
        }
        let of = |kind: Kind| changed.iter().filter(move |(it, _)| *it == kind).map(|(_, id)| *id);
        let results: Vec<ResultId> = of(Kind::Result).map(ResultId).collect();
        let conditions: Vec<Uuid> = of(Kind::Condition).collect();
        let mut tests: HashSet<TestId> = of(Kind::Test).map(TestId).chain(tests_of(db, &results).await?).collect();
        if !conditions.is_empty() {
            tests.extend(tests_for(db, &conditions).await?);
        }
        let renamed: HashSet<Uuid> = of(Kind::Structure).collect();
        let mut structures = None;
        if !renamed.is_empty() {
            let read = list_structures(db, None).await?;
            let touched = self.structures.iter().chain(&read).filter(|record| renamed.contains(&record.id));
            let keys: HashSet<String> = touched.flat_map(|record| record.structure.names()).map(name_key).collect();
            // All rows of a test have the same targets.
            let names = |entry: &Entry| {
                let targets = entry.draft.iter().take(1).flat_map(|row| &row.targets);
                targets.into_iter().any(|target| keys.contains(&target.key))
            };
            tests.extend(self.entries.iter().filter(|(_, entry)| names(entry)).map(|(id, _)| *id));
            structures = Some(read);
        }
        Ok(Changes::Few { tests: tests.into_iter().collect(), structures })
    }

    /// This catalogue with what changed since; nothing when some of these tests are gone, and all is to be read anew.
    async fn read_changes(
        old: Arc<Self>,
        tests: Vec<TestId>,
        structures: Option<Vec<StructureRecord>>,
        db: &DatabaseConnection,
        pools: &Arc<Pools>,
    ) -> Result<Option<Arc<Self>>, AppError> {
        if tests.is_empty() && structures.is_none() {
            return Ok(Some(old));
        }
        let (structures, vocabulary) = match structures {
            Some(structures) => {
                let vocabulary = Arc::new(vocabulary_of(&structures));
                (structures, vocabulary)
            }
            None => (old.structures.clone(), Arc::clone(&old.vocabulary)),
        };
        let results = Candidates::read(db, Some(&tests), shown_to_learners(old.settings.learners_see)).await?;
        let wait = if tests.len() <= SMALL { Wait::Now } else { Wait::Later };
        let asked = tests.len();
        let tests = get_tests(db, &tests).await?;
        if tests.len() < asked {
            return Ok(None);
        }
        let read =
            entries_of(tests, results, &vocabulary, (old.settings.interval, wait, Pace::Asked), db, pools).await?;
        Ok(Some(blocking(move || Arc::new(old.with(read, structures, vocabulary))).await?))
    }

    /// All tests compared with each other and put in order.
    fn arranged(
        structures: Vec<StructureRecord>,
        vocabulary: Arc<Vocabulary>,
        settings: Settings,
        entries: BTreeMap<TestId, Arc<Entry>>,
    ) -> Self {
        let digests = entries.iter().map(|(id, entry)| (id.0.as_u128(), Arc::clone(&entry.digest)));
        let neighbours = Neighbours::new(digests);
        let mut drafts: Vec<_> = entries.iter().flat_map(|(id, entry)| entry.rows(*id, &neighbours)).collect();
        let mut published: Vec<_> = entries.values().flat_map(|entry| entry.published.clone()).collect();
        drafts.sort_by(|a, b| a.order(b));
        published.sort_by(|a, b| a.order(b));
        let neighbours = Arc::new(RwLock::new(neighbours));
        Self { structures, vocabulary, settings, entries, neighbours, drafts, published }
    }

    /// This catalogue with these tests in the place of what they were. The index of the comparisons goes over to the new one.
    fn with(
        &self,
        read: HashMap<TestId, Arc<Entry>>,
        structures: Vec<StructureRecord>,
        vocabulary: Arc<Vocabulary>,
    ) -> Self {
        let digests = read.iter().map(|(id, entry)| (id.0.as_u128(), Arc::clone(&entry.digest))).collect();
        let mut neighbours = self.neighbours.write().unwrap_or_else(PoisonError::into_inner);
        let touched: HashSet<u128> = neighbours.replace(digests);
        let mut entries = self.entries.clone();
        entries.extend(read.iter().map(|(id, entry)| (*id, Arc::clone(entry))));
        let is_touched = |row: &Arc<TestRow>| touched.contains(&row.id.0.as_u128());
        let drafts = touched.iter().map(|id| TestId(Uuid::from_u128(*id)));
        let drafts = drafts.filter_map(|id| Some(entries.get(&id)?.rows(id, &neighbours))).flatten().collect();
        let published = read.values().flat_map(|entry| entry.published.clone()).collect();
        drop(neighbours);
        Self {
            structures,
            vocabulary,
            settings: self.settings.clone(),
            entries,
            neighbours: Arc::clone(&self.neighbours),
            drafts: merged(&self.drafts, drafts, is_touched),
            published: merged(&self.published, published, |row| read.contains_key(&row.id)),
        }
    }

    /// Tests as this role sees them, in the order of their names, once for each of their conditions.
    pub fn all_rows(&self, role: Role) -> &[Arc<TestRow>] {
        if role.may(Right::ReadDrafts) { &self.drafts } else { &self.published }
    }

    /// Each test once, with the figures for its leading condition.
    pub fn rows(&self, role: Role) -> impl Iterator<Item = &TestRow> {
        self.all_rows(role).iter().map(AsRef::as_ref).filter(|row| row.leading)
    }

    /// Tests that load the structure of this name, by whichever of its names their sheets call it: an abbreviation finds them too.
    pub fn loading(&self, name: &str, role: Role) -> Vec<TestId> {
        let wanted = name_key(name);
        let named = |record: &&StructureRecord| record.structure.names().any(|name| name_key(name) == wanted);
        let keys: HashSet<String> =
            self.structures.iter().filter(named).flat_map(|record| record.structure.names()).map(name_key).collect();
        let loads = |row: &&TestRow| row.targets.iter().any(|target| keys.contains(&target.key));
        if keys.is_empty() { Vec::new() } else { self.rows(role).filter(loads).map(|row| row.id).collect() }
    }

    /// What a sheet forgot or contradicts; `own` is the test it belongs to, if it is stored. A large interpretation table takes
    /// a moment.
    pub async fn audit(self: Arc<Self>, sheet: Sheet, own: Option<TestId>) -> Result<Vec<Finding>, AppError> {
        blocking(move || {
            let mut findings = audit(&sheet, &self.vocabulary);
            let neighbours = self.neighbours.read().unwrap_or_else(PoisonError::into_inner);
            findings.extend(neighbours.compare(&Digest::of(&sheet), own.map(|id| id.0.as_u128())));
            findings
        })
        .await
    }
}

impl Entry {
    /// The test as it stands, with what the checks found beside the others.
    fn rows(&self, id: TestId, neighbours: &Neighbours) -> Vec<Arc<TestRow>> {
        let findings = self.findings + neighbours.compare_stored(id.0.as_u128()).len();
        self.draft.iter().map(|row| Arc::new(TestRow { findings, ..row.clone() }.written())).collect()
    }
}

/// Rows in their order, with others in the place of those that are replaced.
fn merged(
    rows: &[Arc<TestRow>],
    mut others: Vec<Arc<TestRow>>,
    replaced: impl Fn(&Arc<TestRow>) -> bool,
) -> Vec<Arc<TestRow>> {
    others.sort_by(|a, b| a.order(b));
    let mut all = Vec::with_capacity(rows.len() + others.len());
    let mut others = others.into_iter().peekable();
    for row in rows.iter().filter(|row| !replaced(row)) {
        while let Some(other) = others.next_if(|other| other.order(row).is_lt()) {
            all.push(other);
        }
        all.push(Arc::clone(row));
    }
    all.extend(others);
    all
}

fn vocabulary_of(structures: &[StructureRecord]) -> Vocabulary {
    Vocabulary::new(structures.iter().map(|record| record.structure.clone()))
}

/// Results by test: all of them, and those that learners see where these are fewer.
struct Candidates {
    all: HashMap<TestId, Vec<ResultCandidate>>,
    learners: Option<HashMap<TestId, Vec<ResultCandidate>>>,
}

impl Candidates {
    async fn read(db: &DatabaseConnection, tests: Option<&[TestId]>, seen: Seen) -> Result<Self, AppError> {
        let all = by_test(list_candidates(db, tests, Seen::All).await?);
        let learners = match seen {
            Seen::All => None,
            Seen::SignedOff => Some(by_test(list_candidates(db, tests, seen).await?)),
        };
        Ok(Self { all, learners })
    }

    /// Those of these tests; they are in here no more then.
    fn take(&mut self, tests: impl Iterator<Item = TestId> + Clone) -> Self {
        let taken = |of: &mut HashMap<TestId, Vec<ResultCandidate>>| {
            tests.clone().filter_map(|test| of.remove_entry(&test)).collect()
        };
        Self { all: taken(&mut self.all), learners: self.learners.as_mut().map(taken) }
    }
}

fn by_test(results: Vec<ResultCandidate>) -> HashMap<TestId, Vec<ResultCandidate>> {
    let mut of: HashMap<TestId, Vec<ResultCandidate>> = HashMap::new();
    for result in results {
        of.entry(result.test_id).or_default().push(result);
    }
    of
}

/// Looks through tests one by one, and pools their results.
async fn entries_of(
    tests: Vec<TestRecord>,
    results: Candidates,
    vocabulary: &Arc<Vocabulary>,
    (interval, wait, pace): (IntervalChoice, Wait, Pace),
    db: &DatabaseConnection,
    pools: &Arc<Pools>,
) -> Result<HashMap<TestId, Arc<Entry>>, AppError> {
    let mut taught = taught_texts(db, &tests).await?;
    let (vocabulary, pools) = (Arc::clone(vocabulary), Arc::clone(pools));
    pace.run(move || {
        let entry = |(test, taught): (TestRecord, Option<TestRecord>)| {
            let id = test.id;
            // What learners see may be taught for another condition than the draft, and then rests on other results.
            let rows = |of: &HashMap<TestId, Vec<ResultCandidate>>, test: &TestRecord| -> Vec<TestRow> {
                let row = |asked: &str| {
                    let conditions = (test.sheet.condition.as_str(), asked);
                    let backed = back(&pools, of.get(&id).into_iter().flatten(), conditions, interval, wait);
                    TestRow::new(test, asked, backed.as_ref())
                };
                test.sheet.conditions().map(row).collect()
            };
            let shown = test.is_taught().then(|| taught.unwrap_or_else(|| test.clone()));
            let published = shown.map(|shown| rows(results.learners.as_ref().unwrap_or(&results.all), &shown));
            let entry = Entry {
                digest: Arc::new(Digest::of(&test.sheet)),
                findings: audit(&test.sheet, &vocabulary).len(),
                published: published.into_iter().flatten().map(|row| Arc::new(row.written())).collect(),
                draft: rows(&results.all, &test),
            };
            (id, Arc::new(entry))
        };
        let taught = |test: TestRecord| (taught.remove(&test.id), test);
        let both: Vec<_> = tests.into_iter().map(taught).map(|(taught, test)| (test, taught)).collect();
        both.into_par_iter().map(entry).collect()
    })
    .await
}
