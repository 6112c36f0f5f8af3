//! Results of accuracy: their columns, and what these say.

use chrono::Utc;
use pruvex_core::FieldError;
use pruvex_core::accuracy::{Counts, Flow, LevelCounts, RawCounts};
use pruvex_core::evidence::{AccuracyResult, Unit};
use sea_orm::ActiveValue::Set;
use sea_orm::entity::prelude::*;

use crate::StoreError;

#[derive(Clone, Debug, PartialEq, Eq, DeriveEntityModel)]
#[sea_orm(table_name = "accuracy_result")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: Uuid,
    pub test_id: Uuid,
    pub study_id: Uuid,
    pub condition_id: Option<Uuid>,
    pub variant: String,
    pub criterion: String,
    pub stage: String,
    pub people_group: String,
    pub reference_standard: String,
    pub unit: Option<String>,
    pub together: Option<Json>,
    pub preferred: bool,
    pub page: String,
    pub note: String,
    pub tp: Option<i32>,
    pub fp: Option<i32>,
    #[sea_orm(column_name = "fn")]
    pub fn_: Option<i32>,
    pub tn: Option<i32>,
    pub positive_unverified: Option<i32>,
    pub negative_unverified: Option<i32>,
    pub uninterpretable_with: Option<i32>,
    pub uninterpretable_without: Option<i32>,
    pub uninterpretable_unverified: Option<i32>,
    pub levels: Option<Json>,
    pub sample: bool,
    pub version: i32,
    pub created_at: DateTimeUtc,
    pub updated_at: DateTimeUtc,
    pub deleted_at: Option<DateTimeUtc>,
}

#[derive(Copy, Clone, Debug, EnumIter, DeriveRelation)]
pub enum Relation {}

impl ActiveModelBehavior for ActiveModel {}

impl ActiveModel {
    /// Everything that a result says, as columns; the condition is a record of its own.
    pub(crate) fn of(result: &AccuracyResult, condition_id: Option<Uuid>) -> Self {
        // Count::MAX is far below i32::MAX.
        let cells = result.counts.cells().map(|cell| Set(cell.and_then(|count| i32::try_from(count).ok())));
        let [tp, fp, fn_, tn] = cells;
        let flow = result.flow.counts().map(|count| Set(count.and_then(|it| i32::try_from(it.get()).ok())));
        let [
            positive_unverified,
            negative_unverified,
            uninterpretable_with,
            uninterpretable_without,
            uninterpretable_unverified,
        ] = flow;
        Self {
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
            positive_unverified,
            negative_unverified,
            uninterpretable_with,
            uninterpretable_without,
            uninterpretable_unverified,
            levels: Set((!result.levels.is_empty()).then(|| serde_json::json!(result.levels))),
            updated_at: Set(Utc::now()),
            ..Default::default()
        }
    }
}

impl Model {
    /// What was counted.
    pub(crate) fn unit(&self) -> Option<Unit> {
        let code = self.unit.as_deref()?;
        [Unit::Person, Unit::Side].into_iter().find(|unit| unit_code(*unit) == code)
    }

    /// The cells.
    ///
    /// # Errors
    /// Cells that no result has.
    pub(crate) fn counts(&self) -> Result<Counts, StoreError> {
        stored_counts(self.id, [self.tp, self.fp, self.fn_, self.tn])
    }

    /// Who is in none of them.
    ///
    /// # Errors
    /// Numbers that no result has.
    pub(crate) fn flow(&self) -> Result<Flow, StoreError> {
        let numbers = [
            self.positive_unverified,
            self.negative_unverified,
            self.uninterpretable_with,
            self.uninterpretable_without,
            self.uninterpretable_unverified,
        ];
        stored_flow(self.id, numbers)
    }

    /// What the columns say.
    ///
    /// # Errors
    /// Columns that say what no result says.
    pub(crate) fn result(self, condition: String) -> Result<AccuracyResult, StoreError> {
        let (counts, flow, unit) = (self.counts()?, self.flow()?, self.unit());
        let levels = stored_levels(self.id, self.levels)?;
        let damaged =
            |error: serde_json::Error| StoreError::Damaged { what: "result", id: self.id, why: error.to_string() };
        let together = self.together.map(serde_json::from_value).transpose().map_err(damaged)?;
        Ok(AccuracyResult {
            variant: self.variant,
            criterion: self.criterion,
            condition,
            stage: self.stage,
            group: self.people_group,
            reference_standard: self.reference_standard,
            unit,
            together,
            preferred: self.preferred,
            page: self.page,
            note: self.note,
            counts,
            flow,
            levels,
        })
    }
}

fn unit_code(unit: Unit) -> &'static str {
    match unit {
        Unit::Person => "person",
        Unit::Side => "side",
    }
}

/// Cells as they are stored, in the order of a table's letters.
///
/// # Errors
/// Cells that no result has.
pub(crate) fn stored_counts(id: Uuid, cells: [Option<i32>; 4]) -> Result<Counts, StoreError> {
    let [tp, fp, fn_, tn] = cells.map(|cell| cell.map(f64::from));
    Counts::check(RawCounts { tp, fp, fn_, tn }).map_err(|errors| damaged(id, &errors))
}

/// Who is in none of the cells, as it is stored.
///
/// # Errors
/// Numbers that no result has.
pub(crate) fn stored_flow(id: Uuid, numbers: [Option<i32>; 5]) -> Result<Flow, StoreError> {
    Flow::check(numbers.map(|number| number.map(f64::from))).map_err(|errors| damaged(id, &errors))
}

/// Counts per level, as they are stored; empty without any.
///
/// # Errors
/// What no result gives.
pub(crate) fn stored_levels(id: Uuid, levels: Option<Json>) -> Result<Vec<LevelCounts>, StoreError> {
    let levels = levels.map(serde_json::from_value).transpose();
    levels.map(Option::unwrap_or_default).map_err(|error| StoreError::Damaged {
        what: "result",
        id,
        why: error.to_string(),
    })
}

fn damaged(id: Uuid, errors: &[FieldError]) -> StoreError {
    let why = errors.iter().map(ToString::to_string).collect::<Vec<_>>().join(" ");
    StoreError::Damaged { what: "result", id, why }
}
