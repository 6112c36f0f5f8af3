//! What a test is meant to show.

use serde::{Deserialize, Serialize};

use super::Region;
use super::limits::{MAX_NAME, code};
use crate::field::Checker;
use crate::{FieldError, Probability};

/// A target condition as a person or a file wrote it.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
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
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
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
                c.invalid("pre_test", p, format!("{error}."), remedy);
                None
            }
        });
        checker.finish(region.map(|region| Self { region, name, setting, pre_test }))
    }
}
