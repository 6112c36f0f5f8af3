//! What is on record already of that which a file brings.

use std::collections::{HashMap, HashSet, VecDeque};

use pruvex_core::evidence::{AccuracyResult, Agreement, Study};
use pruvex_core::{StudyId, TestId};
use sea_orm::ConnectionTrait;

use crate::StoreError;
use crate::evidence::{Seen, list_agreements, list_results, studies_of_texts};

/// What is on record already of that which a file brings.
pub(super) struct Existing {
    /// By place in the file.
    pub studies: HashMap<usize, StudyId>,
    /// Places of those that are made up on record, whatever the file says.
    pub made_up: HashSet<usize>,
    /// References, in lower case, under which studies are on record.
    pub reported: HashSet<String>,
    /// By test, with their studies.
    results: HashMap<TestId, Vec<(StudyId, AccuracyResult)>>,
    agreements: HashMap<TestId, Vec<(StudyId, Agreement)>>,
}

impl Existing {
    /// Of these studies, and of all results of these tests.
    pub async fn read<'a>(
        db: &impl ConnectionTrait,
        studies: impl Iterator<Item = &'a Study> + Clone,
        tests: &[TestId],
    ) -> Result<Self, StoreError> {
        // Which number its reference has here says nothing about a study.
        let key = |study: &Study| serde_json::json!(study.clone().published_as(None)).to_string();
        let texts: HashSet<&str> = studies.clone().map(|study| study.reference.as_str()).collect();
        let mut known: HashMap<String, VecDeque<(StudyId, bool)>> = HashMap::new();
        let mut reported = HashSet::new();
        for record in studies_of_texts(db, &texts).await? {
            reported.insert(record.study.reference.to_lowercase());
            known.entry(key(&record.study)).or_default().push_back((record.id, record.sample));
        }
        let (mut met, mut made_up) = (HashMap::new(), HashSet::new());
        for (place, study) in studies.enumerate() {
            // Two that say the same are two: each meets one of those on record.
            if let Some((id, sample)) = known.get_mut(&key(study)).and_then(VecDeque::pop_front) {
                met.insert(place, id);
                if sample {
                    made_up.insert(place);
                }
            }
        }
        let mut existing =
            Self { studies: met, made_up, reported, results: HashMap::new(), agreements: HashMap::new() };
        for it in list_results(db, tests, Seen::All).await? {
            existing.results.entry(it.test_id).or_default().push((it.study_id, it.result));
        }
        for it in list_agreements(db, tests, Seen::All).await? {
            existing.agreements.entry(it.test_id).or_default().push((it.study_id, it.agreement));
        }
        Ok(existing)
    }

    /// Which of several results of the same people was chosen here since does not make it another one.
    pub fn knows_result(&self, test: TestId, study: usize, result: &AccuracyResult) -> bool {
        let Some(study) = self.studies.get(&study) else { return false };
        let same = |known: &AccuracyResult| *known == AccuracyResult { preferred: known.preferred, ..result.clone() };
        self.results.get(&test).into_iter().flatten().any(|(of, known)| of == study && same(known))
    }

    pub fn knows_agreement(&self, test: TestId, study: usize, agreement: &Agreement) -> bool {
        let Some(study) = self.studies.get(&study) else { return false };
        self.agreements.get(&test).into_iter().flatten().any(|(of, known)| of == study && known == agreement)
    }
}
