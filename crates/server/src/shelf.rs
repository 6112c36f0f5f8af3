//! The catalogue as it is looked through. Thousands of tests are filtered, sorted and compared in memory; the history says which of
//! them changed since they were read, and only those are read again.

use std::collections::{BTreeMap, HashMap, HashSet};
use std::sync::Arc;

use pruvex_core::catalogue::{Digest, Finding, Neighbours, Sheet, Vocabulary, audit, name_key};
use pruvex_core::people::{Right, Role};
use pruvex_store::DatabaseConnection;
use pruvex_store::catalogue::{TestRecord, get_tests, page_tests, taught_texts};
use pruvex_store::evidence::{list_counts, tests_of};
use pruvex_store::history::{Kind, changed_since, newest_change};
use pruvex_store::vocabulary::{StructureRecord, list_structures};
use rocket::tokio::sync::RwLock;
use uuid::Uuid;

use crate::off::off;
use crate::problem::ApiError;
use crate::routes::catalogue::TestRow;
use crate::routes::pooling::{Backed, Pools, pool_each};

/// What is kept, once it was read.
#[derive(Default)]
pub(crate) struct Shelves(RwLock<Option<Arc<Shelf>>>);

/// The whole catalogue at one moment.
pub(crate) struct Shelf {
    /// Number of the newest change that is in it for certain.
    newest: i64,
    /// Structures of all regions, the retired ones included.
    pub structures: Vec<StructureRecord>,
    vocabulary: Arc<Vocabulary>,
    /// In the order in which they were written, so that comparing them gives the same after every reading.
    books: BTreeMap<Uuid, Arc<Book>>,
    neighbours: Neighbours,
    /// Every test as it stands.
    drafts: Vec<Arc<TestRow>>,
    /// Every test that learners see, as they see it.
    published: Vec<Arc<TestRow>>,
}

/// A test by itself: what was read of it, before it is compared with the others.
struct Book {
    digest: Arc<Digest>,
    /// How many things the checks found without looking at other tests.
    findings: usize,
    draft: TestRow,
    published: Option<Arc<TestRow>>,
}

impl Shelves {
    /// The catalogue as it is now; whoever comes while it is being read waits for that one reading.
    pub async fn current(&self, db: &DatabaseConnection, pools: &Arc<Pools>) -> Result<Arc<Shelf>, ApiError> {
        // Asked for before the rows are read: what is kept may be newer than its number, never older.
        let now = newest_change(db).await?;
        let kept = |shelf: &Option<Arc<Shelf>>| shelf.as_ref().filter(|shelf| shelf.newest >= now).map(Arc::clone);
        if let Some(shelf) = kept(&*self.0.read().await) {
            return Ok(shelf);
        }
        let mut place = self.0.write().await;
        if let Some(shelf) = kept(&place) {
            return Ok(shelf);
        }
        let shelf = match place.take() {
            // A failure leaves the place empty, and the next one reads everything.
            Some(old) => Shelf::read_changes(old, now, db, pools).await?,
            None => Shelf::read(now, db, pools).await?,
        };
        *place = Some(Arc::clone(&shelf));
        Ok(shelf)
    }
}

impl Shelf {
    async fn read(newest: i64, db: &DatabaseConnection, pools: &Arc<Pools>) -> Result<Arc<Self>, ApiError> {
        let structures = list_structures(db, None).await?;
        let vocabulary = Arc::new(Vocabulary::new(structures.iter().map(|record| record.structure.clone())));
        let studies = list_counts(db, None).await?;
        let pools = Arc::clone(pools);
        let mut backed = off(move || pool_each(&pools, studies)).await?;
        let mut books = BTreeMap::new();
        let mut last = None;
        loop {
            let page = page_tests(db, last).await?;
            let Some(end) = page.last() else { break };
            last = Some(end.id);
            let of_page = page.iter().filter_map(|test| backed.remove_entry(&test.id)).collect();
            books.extend(bind(page, of_page, &vocabulary, db).await?);
        }
        off(move || Arc::new(Self::put_up(newest, structures, vocabulary, books, |_| HashMap::new()))).await
    }

    /// The catalogue of before with what changed since.
    async fn read_changes(
        old: Arc<Self>,
        newest: i64,
        db: &DatabaseConnection,
        pools: &Arc<Pools>,
    ) -> Result<Arc<Self>, ApiError> {
        let changed = changed_since(db, old.newest).await?;
        let of = |kind: Kind| changed.iter().filter(move |(it, _)| *it == kind).map(|(_, id)| *id);
        // The names of conditions and structures are read with every test.
        let named = of(Kind::Structure).chain(of(Kind::Condition)).count();
        let of_tests = of(Kind::Test).chain(of(Kind::Result)).count();
        if named > 0 || of_tests > old.books.len() / 4 {
            drop(old);
            return Self::read(newest, db, pools).await;
        }
        let results: Vec<Uuid> = of(Kind::Result).collect();
        let tests: HashSet<Uuid> = of(Kind::Test).chain(tests_of(db, &results).await?).collect();
        let tests: Vec<Uuid> = tests.into_iter().collect();
        let counts = list_counts(db, Some(&tests)).await?;
        let pools = Arc::clone(pools);
        let backed = off(move || pool_each(&pools, counts)).await?;
        let read = bind(get_tests(db, &tests).await?, backed, &old.vocabulary, db).await?;
        off(move || {
            let mut books = old.books.clone();
            let (mut affected, mut digests) = (HashSet::new(), Vec::new());
            for (id, book) in read {
                affected.insert(id.as_u128());
                digests.push(Arc::clone(&book.digest));
                if let Some(before) = books.insert(id, book) {
                    affected.extend(old.neighbours.related(&before.digest));
                }
            }
            let unaffected = |neighbours: &Neighbours| {
                affected.extend(digests.iter().flat_map(|digest| neighbours.related(digest)));
                let rows = old.drafts.iter().filter(|row| !affected.contains(&row.id.as_u128()));
                rows.map(|row| (row.id, Arc::clone(row))).collect()
            };
            let (structures, vocabulary) = (old.structures.clone(), Arc::clone(&old.vocabulary));
            Arc::new(Self::put_up(newest, structures, vocabulary, books, unaffected))
        })
        .await
    }

    /// Compares the tests with each other and puts them in order; `unaffected` says which rows stay as they were.
    fn put_up(
        newest: i64,
        structures: Vec<StructureRecord>,
        vocabulary: Arc<Vocabulary>,
        books: BTreeMap<Uuid, Arc<Book>>,
        unaffected: impl FnOnce(&Neighbours) -> HashMap<Uuid, Arc<TestRow>>,
    ) -> Self {
        let neighbours =
            Neighbours::new(books.iter().map(|(id, book)| (id.as_u128(), Arc::clone(&book.digest))).collect());
        let mut kept = unaffected(&neighbours);
        let draft = |(id, book): (&Uuid, &Arc<Book>)| {
            if let Some(row) = kept.remove(id) {
                return row;
            }
            let findings = book.findings + neighbours.compare_stored(id.as_u128()).len();
            Arc::new(TestRow { findings, ..book.draft.clone() }.written())
        };
        let mut drafts: Vec<Arc<TestRow>> = books.iter().map(draft).collect();
        let mut published: Vec<Arc<TestRow>> = books.values().filter_map(|book| book.published.clone()).collect();
        for rows in [&mut drafts, &mut published] {
            rows.sort_by_cached_key(|row| name_key(&row.name));
        }
        Self { newest, structures, vocabulary, books, neighbours, drafts, published }
    }

    /// Tests as this role sees them, in the order of their names.
    pub fn rows(&self, role: Role) -> &[Arc<TestRow>] {
        if role.may(Right::ReadDrafts) { &self.drafts } else { &self.published }
    }

    /// What a sheet forgot or contradicts; `own` is the test it belongs to, if it is stored. A large interpretation table takes
    /// a moment.
    pub async fn audit(self: Arc<Self>, sheet: Sheet, own: Option<Uuid>) -> Result<Vec<Finding>, ApiError> {
        off(move || {
            let mut findings = audit(&sheet, &self.vocabulary);
            findings.extend(self.neighbours.compare(&Digest::of(&sheet), own.map(|id| id.as_u128())));
            findings
        })
        .await
    }
}

/// Looks through tests one by one.
async fn bind(
    tests: Vec<TestRecord>,
    backed: HashMap<Uuid, Backed>,
    vocabulary: &Arc<Vocabulary>,
    db: &DatabaseConnection,
) -> Result<HashMap<Uuid, Arc<Book>>, ApiError> {
    let mut taught = taught_texts(db, &tests).await?;
    let vocabulary = Arc::clone(vocabulary);
    off(move || {
        let book = |test: TestRecord| {
            let (id, backed) = (test.id, backed.get(&test.id));
            let shown = test.is_taught().then(|| taught.remove(&id).unwrap_or_else(|| test.clone()));
            let book = Book {
                digest: Arc::new(Digest::of(&test.sheet)),
                findings: audit(&test.sheet, &vocabulary).len(),
                published: shown.map(|shown| Arc::new(TestRow::new(shown, backed).written())),
                draft: TestRow::new(test, backed),
            };
            (id, Arc::new(book))
        };
        tests.into_iter().map(book).collect()
    })
    .await
}
