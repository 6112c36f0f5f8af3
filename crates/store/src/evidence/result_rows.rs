//! Results of accuracy and their rows.

use std::collections::HashMap;

use pruvex_core::evidence::AccuracyResult;
use pruvex_core::{ResultId, StudyId, TestId};
use uuid::Uuid;

use crate::StoreError;
use crate::entities::accuracy_result::Model;

/// A stored result.
#[derive(Debug, Clone, PartialEq)]
pub struct ResultRecord {
    /// Id.
    pub id: ResultId,
    /// The test it is about.
    pub test_id: TestId,
    /// The study it is of.
    pub study_id: StudyId,
    /// Rises by one with every change, deletion and restoring included.
    pub version: i32,
    /// Made up; cannot be switched off.
    pub sample: bool,
    /// What it reports.
    pub result: AccuracyResult,
}

pub(super) fn record(row: Model, conditions: &HashMap<Uuid, String>) -> Result<ResultRecord, StoreError> {
    Ok(ResultRecord {
        id: row.id.into(),
        test_id: row.test_id.into(),
        study_id: row.study_id.into(),
        version: row.version,
        sample: row.sample,
        result: {
            let condition = row.condition_id.and_then(|id| conditions.get(&id).cloned()).unwrap_or_default();
            row.result(condition)?
        },
    })
}
