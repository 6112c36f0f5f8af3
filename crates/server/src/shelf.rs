//! The catalogue as it is looked through: read once after each change, then kept. Thousands of tests are filtered, sorted and
//! compared in memory; the database says by one number whether anything changed since.

use std::collections::HashMap;
use std::sync::Arc;

use pruvex_core::catalogue::{Digest, Finding, Neighbours, Sheet, Vocabulary, audit, name_key};
use pruvex_core::people::{Right, Role};
use pruvex_store::DatabaseConnection;
use pruvex_store::catalogue::{TestRecord, page_tests, taught_texts};
use pruvex_store::evidence::list_counts;
use pruvex_store::history::generation;
use pruvex_store::vocabulary::{StructureRecord, list_structures};
use rocket::tokio::sync::RwLock;
use uuid::Uuid;

use crate::off::off;
use crate::problem::ApiError;
use crate::routes::catalogue::TestRow;
use crate::routes::pooling::{Backed, Pools, pool_each};

/// What is kept, once it was read.
#[derive(Default)]
pub(crate) struct Shelves(RwLock<Option<(i64, Arc<Shelf>)>>);

/// The whole catalogue at one moment.
pub(crate) struct Shelf {
    /// Structures of all regions, the retired ones included.
    pub structures: Vec<StructureRecord>,
    vocabulary: Vocabulary,
    neighbours: Neighbours<Uuid>,
    /// Every test as it stands.
    drafts: Vec<TestRow>,
    /// Every test that learners see, as they see it.
    published: Vec<TestRow>,
}

impl Shelves {
    /// The catalogue as it is now; whoever comes while it is being read waits for that one reading.
    pub async fn current(&self, db: &DatabaseConnection, pools: &Arc<Pools>) -> Result<Arc<Shelf>, ApiError> {
        // Asked for before the rows are read: what is kept may be newer than its number, never older.
        let now = generation(db).await?;
        let kept = |shelf: &Option<(i64, Arc<Shelf>)>| {
            shelf.as_ref().filter(|(generation, _)| *generation == now).map(|(_, shelf)| Arc::clone(shelf))
        };
        if let Some(shelf) = kept(&*self.0.read().await) {
            return Ok(shelf);
        }
        let mut place = self.0.write().await;
        if let Some(shelf) = kept(&place) {
            return Ok(shelf);
        }
        let shelf = Arc::new(Shelf::read(db, pools).await?);
        *place = Some((now, Arc::clone(&shelf)));
        Ok(shelf)
    }
}

impl Shelf {
    async fn read(db: &DatabaseConnection, pools: &Arc<Pools>) -> Result<Self, ApiError> {
        let structures = list_structures(db, None).await?;
        let vocabulary = Vocabulary::new(structures.iter().map(|record| record.structure.clone()));
        let studies = list_counts(db, None).await?;
        let pools = Arc::clone(pools);
        let mut reading =
            Reading { vocabulary, backed: off(move || pool_each(&pools, studies)).await?, ..Reading::default() };
        let mut last = None;
        loop {
            let page = page_tests(db, last).await?;
            let Some(end) = page.last() else { break };
            last = Some(end.id);
            let taught = taught_texts(db, &page).await?;
            reading = off(move || reading.with(page, taught)).await?;
        }
        off(move || reading.done(structures)).await
    }

    /// Tests as this role sees them, in the order of their names.
    pub fn rows(&self, role: Role) -> &[TestRow] {
        if role.may(Right::ReadDrafts) { &self.drafts } else { &self.published }
    }

    /// What a sheet forgot or contradicts; `own` is the test it belongs to, if it is stored. A large interpretation table takes
    /// a moment.
    pub async fn audit(self: Arc<Self>, sheet: Sheet, own: Option<Uuid>) -> Result<Vec<Finding>, ApiError> {
        off(move || {
            let mut findings = audit(&sheet, &self.vocabulary);
            findings.extend(self.neighbours.compare(&Digest::of(&sheet), own));
            findings
        })
        .await
    }
}

/// The catalogue while it is being read, portion by portion.
#[derive(Default)]
struct Reading {
    vocabulary: Vocabulary,
    backed: HashMap<Uuid, Backed>,
    digests: Vec<(Uuid, Digest)>,
    drafts: Vec<TestRow>,
    published: Vec<TestRow>,
}

impl Reading {
    fn with(mut self, page: Vec<TestRecord>, mut taught: HashMap<Uuid, TestRecord>) -> Self {
        for test in page {
            let (backed, findings) = (self.backed.get(&test.id), audit(&test.sheet, &self.vocabulary).len());
            self.digests.push((test.id, Digest::of(&test.sheet)));
            if test.is_taught() {
                let shown = taught.remove(&test.id).unwrap_or_else(|| test.clone());
                self.published.push(TestRow::new(shown, backed));
            }
            self.drafts.push(TestRow { findings, ..TestRow::new(test, backed) });
        }
        self
    }

    fn done(mut self, structures: Vec<StructureRecord>) -> Shelf {
        let neighbours = Neighbours::new(self.digests);
        for row in &mut self.drafts {
            row.findings += neighbours.compare_stored(row.id).len();
        }
        for rows in [&mut self.drafts, &mut self.published] {
            rows.sort_by_cached_key(|row| name_key(&row.name));
            rows.iter_mut().for_each(TestRow::write);
            rows.shrink_to_fit();
        }
        let Self { vocabulary, drafts, published, .. } = self;
        Shelf { structures, vocabulary, neighbours, drafts, published }
    }
}
