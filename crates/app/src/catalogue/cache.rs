//! The catalogue as it is looked through. Thousands of tests are filtered, sorted and compared in memory; the history says which of
//! them changed since they were read, and only those are read again.

use std::collections::{BTreeMap, HashMap, HashSet};
use std::sync::Arc;

use pruvex_core::catalogue::{Digest, Finding, Neighbours, Sheet, Vocabulary, audit, name_key};
use pruvex_core::people::{Right, Role};
use pruvex_core::{ResultId, TestId};
use pruvex_store::DatabaseConnection;
use pruvex_store::catalogue::{TestRecord, get_tests, page_tests, taught_texts};
use pruvex_store::evidence::{ResultCandidate, list_candidates, tests_of};
use pruvex_store::history::{Kind, Moment, changed_since, newest_change};
use pruvex_store::vocabulary::{StructureRecord, list_structures};
use tokio::sync::RwLock;

use super::TestRow;
use crate::AppError;
use crate::blocking::blocking;
use crate::pooling::{Pools, back};

/// What is kept, once it was read.
#[derive(Default)]
pub(crate) struct CatalogueCache(RwLock<Option<Arc<Catalogue>>>);

/// The whole catalogue at one moment.
pub(crate) struct Catalogue {
    /// Everything up to it is in here for certain.
    moment: Moment,
    /// Structures of all regions, the retired ones included.
    pub(crate) structures: Vec<StructureRecord>,
    vocabulary: Arc<Vocabulary>,
    /// In the order in which they were written, so that comparing them gives the same after every reading.
    entries: BTreeMap<TestId, Arc<Entry>>,
    neighbours: Neighbours,
    /// Every test as it stands.
    drafts: Vec<Arc<TestRow>>,
    /// Every test that learners see, as they see it.
    published: Vec<Arc<TestRow>>,
}

/// A test by itself: what was read of it, before it is compared with the others.
struct Entry {
    digest: Arc<Digest>,
    /// How many things the checks found without looking at other tests.
    findings: usize,
    draft: TestRow,
    published: Option<Arc<TestRow>>,
}

impl CatalogueCache {
    /// The catalogue as it is now; whoever comes while it is being read waits for that one reading.
    pub async fn current(&self, db: &DatabaseConnection, pools: &Arc<Pools>) -> Result<Arc<Catalogue>, AppError> {
        // Asked for before the rows are read: what is kept may be newer than its number, never older.
        let now = newest_change(db).await?;
        let kept = |catalogue: &Option<Arc<Catalogue>>| {
            catalogue.as_ref().filter(|catalogue| catalogue.moment.covers(now)).map(Arc::clone)
        };
        if let Some(catalogue) = kept(&*self.0.read().await) {
            return Ok(catalogue);
        }
        let mut place = self.0.write().await;
        if let Some(catalogue) = kept(&place) {
            return Ok(catalogue);
        }
        let catalogue = match place.take() {
            // A failure leaves the place empty, and the next one reads everything.
            Some(old) if now.continues(old.moment) => Catalogue::read_changes(old, now, db, pools).await?,
            _ => Catalogue::read(now, db, pools).await?,
        };
        *place = Some(Arc::clone(&catalogue));
        Ok(catalogue)
    }
}

impl Catalogue {
    async fn read(moment: Moment, db: &DatabaseConnection, pools: &Arc<Pools>) -> Result<Arc<Self>, AppError> {
        let structures = list_structures(db, None).await?;
        let vocabulary = Arc::new(Vocabulary::new(structures.iter().map(|record| record.structure.clone())));
        let mut results = by_test(list_candidates(db, None).await?);
        let mut entries = BTreeMap::new();
        let mut last = None;
        loop {
            let page = page_tests(db, last).await?;
            let Some(end) = page.last() else { break };
            last = Some(end.id);
            let of_page = page.iter().filter_map(|test| results.remove_entry(&test.id)).collect();
            entries.extend(entries_of(page, of_page, &vocabulary, db, pools).await?);
        }
        blocking(move || Arc::new(Self::arranged(moment, structures, vocabulary, entries, |_| HashMap::new()))).await
    }

    /// The catalogue of before with what changed since.
    async fn read_changes(
        old: Arc<Self>,
        moment: Moment,
        db: &DatabaseConnection,
        pools: &Arc<Pools>,
    ) -> Result<Arc<Self>, AppError> {
        let changed = changed_since(db, old.moment.seq).await?;
        let of = |kind: Kind| changed.iter().filter(move |(it, _)| *it == kind).map(|(_, id)| *id);
        // The names of conditions and structures are read with every test.
        let named = of(Kind::Structure).chain(of(Kind::Condition)).count();
        let of_tests = of(Kind::Test).chain(of(Kind::Result)).count();
        if named > 0 || of_tests > old.entries.len() / 4 {
            drop(old);
            return Self::read(moment, db, pools).await;
        }
        let results: Vec<ResultId> = of(Kind::Result).map(ResultId).collect();
        let tests: HashSet<TestId> = of(Kind::Test).map(TestId).chain(tests_of(db, &results).await?).collect();
        let tests: Vec<TestId> = tests.into_iter().collect();
        let results = by_test(list_candidates(db, Some(&tests)).await?);
        let read = entries_of(get_tests(db, &tests).await?, results, &old.vocabulary, db, pools).await?;
        blocking(move || {
            let mut entries = old.entries.clone();
            let (mut affected, mut digests) = (HashSet::new(), Vec::new());
            for (id, entry) in read {
                affected.insert(id.0.as_u128());
                digests.push(Arc::clone(&entry.digest));
                if let Some(before) = entries.insert(id, entry) {
                    affected.extend(old.neighbours.related(&before.digest));
                }
            }
            let unaffected = |neighbours: &Neighbours| {
                affected.extend(digests.iter().flat_map(|digest| neighbours.related(digest)));
                let rows = old.drafts.iter().filter(|row| !affected.contains(&row.id.0.as_u128()));
                rows.map(|row| (row.id, Arc::clone(row))).collect()
            };
            let (structures, vocabulary) = (old.structures.clone(), Arc::clone(&old.vocabulary));
            Arc::new(Self::arranged(moment, structures, vocabulary, entries, unaffected))
        })
        .await
    }

    /// Compares the tests with each other and puts them in order; `unaffected` says which rows stay as they were.
    fn arranged(
        moment: Moment,
        structures: Vec<StructureRecord>,
        vocabulary: Arc<Vocabulary>,
        entries: BTreeMap<TestId, Arc<Entry>>,
        unaffected: impl FnOnce(&Neighbours) -> HashMap<TestId, Arc<TestRow>>,
    ) -> Self {
        let neighbours =
            Neighbours::new(entries.iter().map(|(id, entry)| (id.0.as_u128(), Arc::clone(&entry.digest))).collect());
        let mut kept = unaffected(&neighbours);
        let draft = |(id, entry): (&TestId, &Arc<Entry>)| {
            if let Some(row) = kept.remove(id) {
                return row;
            }
            let findings = entry.findings + neighbours.compare_stored(id.0.as_u128()).len();
            Arc::new(TestRow { findings, ..entry.draft.clone() }.written())
        };
        let mut drafts: Vec<Arc<TestRow>> = entries.iter().map(draft).collect();
        let mut published: Vec<Arc<TestRow>> = entries.values().filter_map(|entry| entry.published.clone()).collect();
        for rows in [&mut drafts, &mut published] {
            rows.sort_by_cached_key(|row| name_key(&row.name));
        }
        Self { moment, structures, vocabulary, entries, neighbours, drafts, published }
    }

    /// Tests as this role sees them, in the order of their names.
    pub fn rows(&self, role: Role) -> &[Arc<TestRow>] {
        if role.may(Right::ReadDrafts) { &self.drafts } else { &self.published }
    }

    /// What a sheet forgot or contradicts; `own` is the test it belongs to, if it is stored. A large interpretation table takes
    /// a moment.
    pub async fn audit(self: Arc<Self>, sheet: Sheet, own: Option<TestId>) -> Result<Vec<Finding>, AppError> {
        blocking(move || {
            let mut findings = audit(&sheet, &self.vocabulary);
            findings.extend(self.neighbours.compare(&Digest::of(&sheet), own.map(|id| id.0.as_u128())));
            findings
        })
        .await
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
    results: HashMap<TestId, Vec<ResultCandidate>>,
    vocabulary: &Arc<Vocabulary>,
    db: &DatabaseConnection,
    pools: &Arc<Pools>,
) -> Result<HashMap<TestId, Arc<Entry>>, AppError> {
    let mut taught = taught_texts(db, &tests).await?;
    let (vocabulary, pools) = (Arc::clone(vocabulary), Arc::clone(pools));
    blocking(move || {
        let entry = |test: TestRecord| {
            let id = test.id;
            // What learners see may be taught for another condition than the draft, and then rests on other results.
            let backed = |sheet: &Sheet| back(&pools, results.get(&id).into_iter().flatten(), &sheet.condition);
            let own = backed(&test.sheet);
            let shown = test.is_taught().then(|| taught.remove(&id).unwrap_or_else(|| test.clone()));
            let published = |shown: TestRecord| {
                let backed = backed(&shown.sheet);
                Arc::new(TestRow::new(shown, backed.as_ref()).written())
            };
            let entry = Entry {
                digest: Arc::new(Digest::of(&test.sheet)),
                findings: audit(&test.sheet, &vocabulary).len(),
                published: shown.map(published),
                draft: TestRow::new(test, own.as_ref()),
            };
            (id, Arc::new(entry))
        };
        tests.into_iter().map(entry).collect()
    })
    .await
}
