//! A study: one set of people who were examined, as one report or several describe them. Its results stand by themselves, so that two
//! of them are known to be of the same people.

use serde::{Deserialize, Serialize};
use uuid::Uuid;

use super::StudySetup;
use super::appraisal::{Appraisal, Aspect};
use crate::field::Checker;
use crate::{FieldError, FieldErrorCode};

/// A study as a person or a file wrote it.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct StudyInput {
    /// Reference text: authors, year, title, journal.
    pub reference: String,
    /// The reference on record that it was published as.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub reference_id: Option<Uuid>,
    /// Who was examined.
    pub population: String,
    /// How the study was done, as far as its report says.
    #[serde(skip_serializing_if = "StudySetup::is_empty")]
    pub setup: StudySetup,
    /// Notes about the study as a whole.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub note: String,
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
    /// Notes about the study as a whole.
    pub note: String,
}

impl Study {
    /// Checks a study by itself.
    ///
    /// # Errors
    /// Every fault found.
    pub fn check(input: &StudyInput) -> Result<Self, Vec<FieldError>> {
        let mut checker = Checker::default();
        let study = Self {
            reference: checker.required("reference", &input.reference, 2_000, "Say where the figures were published."),
            reference_id: input.reference_id,
            population: checker.text("population", &input.population, 2_000),
            setup: input.setup.checked(&mut checker),
            note: checker.text("note", &input.note, 10_000),
        };
        checker.finish(Some(study))
    }

    /// Whether results may be entered of it: figures of own records only once every domain of their accuracy was appraised.
    ///
    /// # Errors
    /// An appraisal that is missing, or not complete.
    pub fn takes_results(&self, appraisal: Option<&Appraisal>) -> Result<(), FieldError> {
        if !self.setup.own_records() || appraisal.is_some_and(|it| it.is_complete(Aspect::Accuracy)) {
            return Ok(());
        }
        let message = "Own examination records become a result only after their appraisal.";
        let remedy = "Judge the risk of bias in every domain first.";
        Err(FieldError::new("setup.source", FieldErrorCode::Invalid, "own_records", message, remedy))
    }

    /// Whether it may be changed to `other`: what was counted from own records stays that, so that no pool takes it unasked, and what was published, too.
    ///
    /// # Errors
    /// Own records that would become something else, or the other way round.
    pub fn may_become(&self, other: &Self) -> Result<(), FieldError> {
        let [before, after] = [self, other].map(|it| it.setup.own_records());
        if before == after {
            return Ok(());
        }
        let (value, message, remedy) = if before {
            let message = "The figures of this study are counted from own examination records.";
            ("", message, "Enter the published report as a study of its own.")
        } else {
            let message = "The figures of this study are not counted from own examination records.";
            ("own_records", message, "Enter local figures from your own records.")
        };
        Err(FieldError::new("setup.source", FieldErrorCode::Invalid, value, message, remedy))
    }

    /// The same with another reference on record.
    #[must_use]
    pub fn published_as(self, reference_id: Option<Uuid>) -> Self {
        Self { reference_id, ..self }
    }
}
