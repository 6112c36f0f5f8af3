//! A study: one set of people who were examined, as one report or several describe them. Its results stand by themselves, so that two
//! of them are known to be of the same people.

use serde::{Deserialize, Serialize};
use uuid::Uuid;

use super::StudySetup;
use crate::FieldError;
use crate::field::Checker;

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

    /// The same with another reference on record.
    #[must_use]
    pub fn published_as(self, reference_id: Option<Uuid>) -> Self {
        Self { reference_id, ..self }
    }
}
