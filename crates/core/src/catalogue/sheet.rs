//! A test's sheet: what it stresses, how it is done, what counts as positive, what spoils it, whom not to do it on.

use std::collections::HashSet;

use serde::{Deserialize, Serialize};

use super::Region;
use crate::field::Checker;
use crate::{FieldError, FieldErrorCode, Probability};

/// What a test is for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Purpose {
    /// Provoke the familiar pain or symptom.
    PainProvocation,
    /// Show laxity or instability.
    Laxity,
    /// Strength, or a lag.
    Strength,
    /// Length of a muscle.
    MuscleLength,
    /// Tension of a nerve.
    NerveTension,
    /// Palpation.
    Palpation,
    /// Observation.
    Observation,
    /// Measurement of alignment.
    Alignment,
    /// A functional task.
    FunctionalTask,
}

impl Purpose {
    const CODES: [(&'static str, Self); 9] = [
        ("pain_provocation", Self::PainProvocation),
        ("laxity", Self::Laxity),
        ("strength", Self::Strength),
        ("muscle_length", Self::MuscleLength),
        ("nerve_tension", Self::NerveTension),
        ("palpation", Self::Palpation),
        ("observation", Self::Observation),
        ("alignment", Self::Alignment),
        ("functional_task", Self::FunctionalTask),
    ];

    /// The stable code.
    #[must_use]
    pub fn code(self) -> &'static str {
        Self::CODES.iter().find(|(_, purpose)| *purpose == self).map_or("", |(code, _)| code)
    }

    /// The purpose with that code.
    #[must_use]
    pub fn from_code(code: &str) -> Option<Self> {
        Self::CODES.iter().find(|(known, _)| *known == code).map(|(_, purpose)| *purpose)
    }
}

/// A sheet as a person or a file wrote it. Every field may be absent, so that all faults are told at once.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct SheetInput {
    /// Name of the test.
    pub name: String,
    /// Other names for the very same test.
    pub aliases: Vec<String>,
    /// Region code.
    pub region: String,
    /// Purpose code.
    pub purpose: String,
    /// Name of the target condition; one that is not known yet is added to the region.
    pub condition: String,
    /// Structures the test stresses.
    pub target_structures: Vec<String>,
    /// Position of the patient.
    pub patient_position: String,
    /// What is done, in order.
    pub steps: Vec<String>,
    /// What counts as positive.
    pub positive_finding: String,
    /// Whom not to do it on, and when to stop.
    pub cautions: Vec<String>,
    /// What goes wrong, and what it does to the result.
    pub pitfalls: Vec<String>,
}

/// A checked sheet.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Sheet {
    /// Name of the test; unique in the catalogue among all names and aliases.
    pub name: String,
    /// Other names for the very same test.
    pub aliases: Vec<String>,
    /// Region.
    pub region: Region,
    /// Purpose.
    pub purpose: Purpose,
    /// Name of the target condition.
    pub condition: String,
    /// Structures the test stresses.
    pub target_structures: Vec<String>,
    /// Position of the patient.
    pub patient_position: String,
    /// What is done, in order.
    pub steps: Vec<String>,
    /// What counts as positive.
    pub positive_finding: String,
    /// Whom not to do it on, and when to stop.
    pub cautions: Vec<String>,
    /// What goes wrong, and what it does to the result.
    pub pitfalls: Vec<String>,
}

const MAX_NAME: usize = 160;
const MAX_TEXT: usize = 10_000;
const MAX_ITEMS: usize = 100;

/// The form in which names are compared: case and runs of white space do not make another test.
#[must_use]
pub fn name_key(name: &str) -> String {
    name.split_whitespace().collect::<Vec<_>>().join(" ").to_lowercase()
}

impl Sheet {
    /// Checks a sheet by itself; whether its names are free is the store's to say.
    ///
    /// # Errors
    /// Every fault found.
    pub fn check(input: &SheetInput) -> Result<Self, Vec<FieldError>> {
        let mut checker = Checker::default();
        let c = &mut checker;
        let name = c.required("name", &input.name, MAX_NAME, "Give the test a plain, descriptive name.");
        let aliases = c.texts("aliases", &input.aliases, 30, MAX_NAME);
        check_aliases(c, &name, &aliases);
        let region = code(c, "region", &input.region, Region::from_code, "Choose a body region.");
        let purpose = code(c, "purpose", &input.purpose, Purpose::from_code, "Choose what the test is for.");
        let condition =
            c.required("condition", &input.condition, MAX_NAME, "Name the condition that the test is meant to show.");
        let target_structures = c.texts("target_structures", &input.target_structures, MAX_ITEMS, MAX_NAME);
        let patient_position = c.text("patient_position", &input.patient_position, MAX_TEXT);
        let steps = c.texts("steps", &input.steps, MAX_ITEMS, MAX_TEXT);
        let positive_finding = c.required(
            "positive_finding",
            &input.positive_finding,
            MAX_TEXT,
            "Say what is seen, felt or reported when the test is positive.",
        );
        let cautions = c.texts("cautions", &input.cautions, MAX_ITEMS, MAX_TEXT);
        let pitfalls = c.texts("pitfalls", &input.pitfalls, MAX_ITEMS, MAX_TEXT);
        let sheet = region.zip(purpose).map(|(region, purpose)| Self {
            name,
            aliases,
            region,
            purpose,
            condition,
            target_structures,
            patient_position,
            steps,
            positive_finding,
            cautions,
            pitfalls,
        });
        checker.finish(sheet)
    }

    /// Name first, then the aliases.
    pub fn names(&self) -> impl Iterator<Item = &str> {
        std::iter::once(self.name.as_str()).chain(self.aliases.iter().map(String::as_str))
    }
}

fn check_aliases(checker: &mut Checker, name: &str, aliases: &[String]) {
    let mut seen = HashSet::from([name_key(name)]);
    for (index, alias) in aliases.iter().enumerate() {
        if !seen.insert(name_key(alias)) {
            checker.push(FieldError::new(
                format!("aliases[{index}]"),
                FieldErrorCode::Duplicate,
                alias,
                "This alias repeats the name or another alias.",
                "Remove it.",
            ));
        }
    }
}

fn code<T>(
    checker: &mut Checker,
    field: &str,
    value: &str,
    parse: impl Fn(&str) -> Option<T>,
    remedy: &str,
) -> Option<T> {
    let parsed = parse(value);
    if parsed.is_none() {
        let (code, message) = if value.is_empty() {
            (FieldErrorCode::Missing, "Nothing is chosen.".to_owned())
        } else {
            (FieldErrorCode::Unknown, "This code is not known.".to_owned())
        };
        checker.push(FieldError::new(field, code, value, message, remedy));
    }
    parsed
}

/// A target condition as a person or a file wrote it.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct ConditionInput {
    /// Region code.
    pub region: String,
    /// Name.
    pub name: String,
    /// Where the usual pre-test probability below was met.
    #[serde(default)]
    pub setting: String,
    /// A usual pre-test probability there.
    pub pre_test: Option<f64>,
}

/// A target condition, with the pre-test probability from which the question strip starts.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Condition {
    /// Region.
    pub region: Region,
    /// Name, unique within the region.
    pub name: String,
    /// Where the usual pre-test probability was met; empty when none is known.
    pub setting: String,
    /// A usual pre-test probability there.
    pub pre_test: Option<Probability>,
}

impl Condition {
    /// Checks a condition by itself.
    ///
    /// # Errors
    /// Every fault found.
    pub fn check(input: &ConditionInput) -> Result<Self, Vec<FieldError>> {
        let mut checker = Checker::default();
        let c = &mut checker;
        let name = c.required("name", &input.name, MAX_NAME, "Name the condition.");
        let setting = c.text("setting", &input.setting, MAX_NAME);
        let region = code(c, "region", &input.region, Region::from_code, "Choose a body region.");
        let pre_test = input.pre_test.and_then(|p| match Probability::new(p) {
            Ok(p) => Some(p),
            Err(error) => {
                let remedy = "Write it as a number between 0 and 1, such as 0.35.";
                c.push(FieldError::new("pre_test", FieldErrorCode::Invalid, p, format!("{error}."), remedy));
                None
            }
        });
        checker.finish(region.map(|region| Self { region, name, setting, pre_test }))
    }
}
