//! How a study was done: who was examined, where and when, how they were found, and by whom.

use serde::{Deserialize, Serialize};

use crate::field::Checker;
use crate::population::{Activity, CareSetting, Course, Wakefulness};

/// How people came into the study.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Design {
    /// One group, in whom the condition was suspected and then looked for.
    OneGroup,
    /// People known to have the condition, and others known not to: accuracy comes out too good.
    TwoGroups,
    /// Records looked through afterwards.
    Retrospective,
}

/// How they were chosen.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Recruitment {
    /// Everybody who came.
    Consecutive,
    /// Drawn by lot.
    Random,
    /// Who happened to be at hand.
    Convenience,
}

/// Where its figures are from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum DataSource {
    /// A report that was published.
    Published,
    /// Somebody's own examinations, counted here: local figures.
    OwnRecords,
}

/// How a study was done, as far as its report says.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct StudySetup {
    /// Where its figures are from; a published report where nothing is said.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub source: Option<DataSource>,
    /// How people came into the study.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub design: Option<Design>,
    /// How they were chosen.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub recruitment: Option<Recruitment>,
    /// Where they were examined.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub setting: Option<CareSetting>,
    /// In which country.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub country: String,
    /// Year in which examining began.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub first_year: Option<f64>,
    /// Year in which it ended.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub last_year: Option<f64>,
    /// People examined.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub people: Option<f64>,
    /// Mean or median age in years.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub age: Option<f64>,
    /// Age of the youngest.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub youngest: Option<f64>,
    /// Age of the oldest.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub oldest: Option<f64>,
    /// Women, in per cent.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub women: Option<f64>,
    /// How active they are.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub activity: Option<Activity>,
    /// How long they have had it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub course: Option<Course>,
    /// Whether they could guard.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub state: Option<Wakefulness>,
    /// Who examined, and how experienced they are.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub examiners: String,
}

impl StudySetup {
    /// Nothing is said.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        *self == Self::default()
    }

    /// Its figures are local: counted from somebody's own examinations. No pool takes them unasked.
    #[must_use]
    pub fn own_records(&self) -> bool {
        self.source == Some(DataSource::OwnRecords)
    }

    /// Tidied; faults are kept under `setup`.
    pub(super) fn checked(&self, c: &mut Checker) -> Self {
        let years = (1900.0, 2100.0);
        let ages = (0.0, 120.0);
        let tidy = Self {
            country: c.text("setup.country", &self.country, 100),
            examiners: c.text("setup.examiners", &self.examiners, 500),
            first_year: whole(c, "setup.first_year", self.first_year, years),
            last_year: whole(c, "setup.last_year", self.last_year, years),
            people: whole(c, "setup.people", self.people, (1.0, 10_000_000.0)),
            age: c.number("setup.age", self.age, ages, "years"),
            youngest: c.number("setup.youngest", self.youngest, ages, "years"),
            oldest: c.number("setup.oldest", self.oldest, ages, "years"),
            women: c.number("setup.women", self.women, (0.0, 100.0), "per cent"),
            ..self.clone()
        };
        for (field, low, high) in [
            ("setup.last_year", tidy.first_year, tidy.last_year),
            ("setup.age", tidy.youngest, tidy.age),
            ("setup.oldest", tidy.age.or(tidy.youngest), tidy.oldest),
        ] {
            if let (Some(low), Some(high)) = (low, high)
                && low > high
            {
                let message = format!("{high} is less than the {low} that should not exceed it.");
                c.invalid(field, high, message, "Compare both with the report.");
            }
        }
        tidy
    }
}

fn whole(c: &mut Checker, field: &str, value: Option<f64>, range: (f64, f64)) -> Option<f64> {
    let value = c.number(field, value, range, "")?;
    if value.fract() != 0.0 {
        c.invalid(field, value, format!("{value} is not a whole number."), "Give a whole number.");
    }
    Some(value)
}
