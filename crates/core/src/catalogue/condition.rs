//! What a test is meant to show.

use serde::{Deserialize, Serialize};

use super::Region;
use super::limits::{MAX_NAME, code};
use super::prevalence::{PrevalenceReport, check_overlaps};
use crate::field::{Checker, parts};
use crate::name::name_key;
use crate::{FieldError, Probability};

/// More reports of one condition nobody enters.
const MAX_REPORTS: usize = 200;

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
    /// How common it is in people with symptoms and in people without.
    #[serde(default)]
    pub prevalence: Vec<PrevalenceReport>,
    /// It must not be missed: no examination of the region ends by reassuring before it was asked about.
    #[serde(default)]
    pub must_not_miss: bool,
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
    /// How common it is in people with symptoms and in people without, report by report.
    #[serde(default)]
    pub prevalence: Vec<PrevalenceReport>,
    /// It must not be missed: no examination of the region ends by reassuring before it was asked about.
    #[serde(default)]
    pub must_not_miss: bool,
}

impl Condition {
    /// One of which only the name is known.
    #[must_use]
    pub fn named(region: Region, name: &str) -> Self {
        let setting = String::new();
        Self { region, name: name.to_owned(), setting, pre_test: None, prevalence: Vec::new(), must_not_miss: false }
    }

    /// What is known of it, with what another account of it adds: a usual probability where none is known, and groups of people that no
    /// report here has counted.
    #[must_use]
    pub fn completed_by(&self, other: &Self) -> Self {
        let mut whole = self.clone();
        if whole.pre_test.is_none() && other.pre_test.is_some() {
            whole.pre_test = other.pre_test;
            whole.setting.clone_from(&other.setting);
        }
        let new = other.prevalence.iter().filter(|it| !self.prevalence.iter().any(|known| known.overlaps(it)));
        whole.prevalence.extend(new.cloned());
        // Whoever says that it must not be missed is heard.
        whole.must_not_miss |= other.must_not_miss;
        whole
    }

    /// Reports of a source that was made up before are made up still.
    pub fn keep_sample_marks(&mut self, before: &Self) {
        for report in &mut self.prevalence {
            let same = |it: &PrevalenceReport| it.sample && name_key(&it.source) == name_key(&report.source);
            report.sample |= before.prevalence.iter().any(same);
        }
    }

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
        let prevalence = parts(c, "prevalence", &input.prevalence, MAX_REPORTS);
        check_overlaps(c, "prevalence", &prevalence);
        let must_not_miss = input.must_not_miss;
        checker.finish(region.map(|region| Self { region, name, setting, pre_test, prevalence, must_not_miss }))
    }
}
