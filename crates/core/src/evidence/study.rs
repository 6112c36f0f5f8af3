//! One study of one test: who was examined, against what, and the four cells.

use serde::{Deserialize, Serialize};
use uuid::Uuid;

use super::StudySetup;
use crate::FieldError;
use crate::accuracy::{Counts, RawCounts};
use crate::field::Checker;

/// A study as a person or a file wrote it.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct StudyInput {
    /// Reference text: authors, year, title, journal.
    pub reference: String,
    /// The reference on record that it was published as.
    pub reference_id: Option<Uuid>,
    /// Who was examined.
    pub population: String,
    /// How the study was done, as far as its report says.
    pub setup: StudySetup,
    /// What decided who has the condition.
    pub reference_standard: String,
    /// Notes of who extracted it: page, table, how the counts came about.
    pub note: String,
    /// True positives.
    pub tp: Option<f64>,
    /// False positives.
    pub fp: Option<f64>,
    /// False negatives.
    #[serde(rename = "fn")]
    pub fn_: Option<f64>,
    /// True negatives.
    pub tn: Option<f64>,
}

/// A checked study.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Study {
    /// Reference text, as it was when the study was entered.
    pub reference: String,
    /// The reference on record that it was published as.
    pub reference_id: Option<Uuid>,
    /// Who was examined.
    pub population: String,
    /// How the study was done, as far as its report says.
    pub setup: StudySetup,
    /// What decided who has the condition.
    pub reference_standard: String,
    /// Notes of who extracted it.
    pub note: String,
    /// The four cells.
    pub counts: Counts,
}

impl Study {
    /// Checks a study by itself.
    ///
    /// # Errors
    /// Every fault found, those of the cells included.
    pub fn check(input: &StudyInput) -> Result<Self, Vec<FieldError>> {
        let mut checker = Checker::default();
        let reference = checker.required("reference", &input.reference, 2_000, "Say where the figures were published.");
        let population = checker.text("population", &input.population, 2_000);
        let reference_standard = checker.text("reference_standard", &input.reference_standard, 2_000);
        let note = checker.text("note", &input.note, 10_000);
        let raw = RawCounts { tp: input.tp, fp: input.fp, fn_: input.fn_, tn: input.tn };
        let counts = Counts::check(raw).map_err(|errors| errors.into_iter().for_each(|e| checker.push(e))).ok();
        let counted = counts.map(|counts: Counts| counts.cells().into_iter().flatten().map(u64::from).sum());
        let setup = input.setup.checked(&mut checker, counted);
        let reference_id = input.reference_id;
        checker.finish(counts.map(|counts| Self {
            reference,
            reference_id,
            population,
            setup,
            reference_standard,
            note,
            counts,
        }))
    }
}
