//! Results of accuracy and their rows.

use std::collections::HashMap;

use chrono::Utc;
use pruvex_core::accuracy::{Counts, RawCounts};
use pruvex_core::evidence::{AccuracyResult, Unit};
use pruvex_core::{ResultId, StudyId, TestId};
use sea_orm::ActiveValue::Set;
use uuid::Uuid;

use crate::StoreError;
use crate::entities::accuracy_result::{ActiveModel, Model};

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

pub(super) fn row(result: &AccuracyResult, condition_id: Option<Uuid>) -> ActiveModel {
    // Count::MAX is far below i32::MAX.
    let cells = result.counts.cells().map(|cell| Set(cell.and_then(|count| i32::try_from(count).ok())));
    let [tp, fp, fn_, tn] = cells;
    ActiveModel {
        condition_id: Set(condition_id),
        variant: Set(result.variant.clone()),
        criterion: Set(result.criterion.clone()),
        stage: Set(result.stage.clone()),
        people_group: Set(result.group.clone()),
        reference_standard: Set(result.reference_standard.clone()),
        unit: Set(result.unit.map(|unit| unit_code(unit).to_owned())),
        together: Set(result.together.as_ref().map(|it| serde_json::json!(it))),
        preferred: Set(result.preferred),
        page: Set(result.page.clone()),
        note: Set(result.note.clone()),
        tp,
        fp,
        fn_,
        tn,
        updated_at: Set(Utc::now()),
        ..Default::default()
    }
}

fn unit_code(unit: Unit) -> &'static str {
    match unit {
        Unit::Person => "person",
        Unit::Side => "side",
    }
}

pub(super) fn unit_of(row: &Model) -> Option<Unit> {
    let code = row.unit.as_deref()?;
    [Unit::Person, Unit::Side].into_iter().find(|unit| unit_code(*unit) == code)
}

pub(super) fn counts_of(row: &Model) -> Result<Counts, StoreError> {
    stored_counts(row.id, [row.tp, row.fp, row.fn_, row.tn])
}

pub(super) fn stored_counts(id: Uuid, cells: [Option<i32>; 4]) -> Result<Counts, StoreError> {
    let [tp, fp, fn_, tn] = cells.map(|cell| cell.map(f64::from));
    Counts::check(RawCounts { tp, fp, fn_, tn }).map_err(|errors| {
        let why = errors.iter().map(ToString::to_string).collect::<Vec<_>>().join(" ");
        StoreError::Damaged { what: "result", id, why }
    })
}

pub(super) fn record(row: Model, conditions: &HashMap<Uuid, String>) -> Result<ResultRecord, StoreError> {
    let (counts, unit) = (counts_of(&row)?, unit_of(&row));
    let damaged = |error: serde_json::Error| StoreError::Damaged { what: "result", id: row.id, why: error.to_string() };
    let together = row.together.map(serde_json::from_value).transpose().map_err(damaged)?;
    Ok(ResultRecord {
        id: row.id.into(),
        test_id: row.test_id.into(),
        study_id: row.study_id.into(),
        version: row.version,
        sample: row.sample,
        result: AccuracyResult {
            variant: row.variant,
            criterion: row.criterion,
            condition: row.condition_id.and_then(|id| conditions.get(&id).cloned()).unwrap_or_default(),
            stage: row.stage,
            group: row.people_group,
            reference_standard: row.reference_standard,
            unit,
            together,
            preferred: row.preferred,
            page: row.page,
            note: row.note,
            counts,
        },
    })
}
