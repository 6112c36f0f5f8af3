//! How common a condition is: what reports say of people with symptoms and of people without.

use serde::{Deserialize, Serialize};

use super::limits::{MAX_NAME, MAX_TEXT};
use crate::field::{Checker, Part};
use crate::name::name_key;
use crate::population::{Activity, CareSetting};
use crate::{Count, FieldError, FieldErrorCode};

/// Whether people had the symptoms for which the condition is looked for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Symptoms {
    /// They had.
    With,
    /// They had none.
    Without,
}

/// What one report counted in one group of people.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct PrevalenceReport {
    /// Whether they had symptoms.
    pub symptoms: Option<Symptoms>,
    /// People examined.
    pub people: Option<f64>,
    /// Of these, with the condition.
    pub with_condition: Option<f64>,
    /// Age of the youngest, in years.
    pub age_from: Option<f64>,
    /// Age of the oldest.
    pub age_to: Option<f64>,
    /// Where they were examined.
    pub setting: Option<CareSetting>,
    /// How active they were.
    pub activity: Option<Activity>,
    /// How the condition was found, such as by imaging.
    pub method: String,
    /// Where it was published.
    pub source: String,
    /// Made up.
    pub sample: bool,
}

/// Ages that the groups of one report may have in common without being the same people: bands such as 40–50 and 50–60 touch.
const TOUCH: f64 = 1.0;

impl PrevalenceReport {
    /// Whether two entries may count the same people: of one source and the same kind, with ages that overlap by more than a year.
    pub(super) fn overlaps(&self, other: &Self) -> bool {
        let kind = |it: &Self| (name_key(&it.source), it.symptoms, it.setting, it.activity);
        let ages = |it: &Self| (it.age_from.unwrap_or(f64::NEG_INFINITY), it.age_to.unwrap_or(f64::INFINITY));
        let ((a, b), (c, d)) = (ages(self), ages(other));
        kind(self) == kind(other) && b.min(d) - a.max(c) > TOUCH
    }
}

/// Entries of one source must not count the same people twice.
pub(super) fn check_overlaps(c: &mut Checker, field: &str, reports: &[PrevalenceReport]) {
    for (index, report) in reports.iter().enumerate() {
        if let Some(before) = reports[..index].iter().position(|other| other.overlaps(report)) {
            let place = format!("{field}[{index}].source");
            let message = format!("Entry {} of the same source counts people of the same kind and age.", before + 1);
            let remedy = "Give each group once, with the ages, setting or activity that tell them apart.";
            c.push(FieldError::new(place, FieldErrorCode::Duplicate, &report.source, message, remedy));
        }
    }
}

impl Part for PrevalenceReport {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let field = |name: &str| format!("{at}.{name}");
        let ages = (0.0, 120.0);
        let mut count = |name: &str, value: Option<f64>, remedy: &str| match value.map(Count::new) {
            Some(Ok(count)) => Some(f64::from(count.get())),
            Some(Err(error)) => {
                c.invalid(&field(name), value.unwrap_or_default(), format!("{error}."), remedy);
                None
            }
            None => {
                c.push(FieldError::new(field(name), FieldErrorCode::Missing, "", "No number is given.", remedy));
                None
            }
        };
        let people = count("people", self.people, "Say how many people were examined.");
        let with_condition = count("with_condition", self.with_condition, "Say how many of them had the condition.");
        if people == Some(0.0) {
            c.invalid(&field("people"), 0, "Nobody was examined.", "Say how many people were examined.");
        } else if let (Some(people), Some(with)) = (people, with_condition)
            && with > people
        {
            let message = format!("{with} of {people} is more than everybody.");
            c.invalid(&field("with_condition"), with, message, "Compare both numbers with the report.");
        }
        let (age_from, age_to) = (
            c.number(&field("age_from"), self.age_from, ages, "years"),
            c.number(&field("age_to"), self.age_to, ages, "years"),
        );
        if age_from.zip(age_to).is_some_and(|(from, to)| from > to) {
            let message = "The youngest are older than the oldest.";
            c.invalid(&field("age_to"), age_to.unwrap_or_default(), message, "Put the lower age first.");
        }
        Self {
            symptoms: c.present(&field("symptoms"), self.symptoms, "Say whether these people had symptoms."),
            people,
            with_condition,
            age_from,
            age_to,
            setting: self.setting,
            activity: self.activity,
            method: c.text(&field("method"), &self.method, MAX_NAME),
            source: c.required(&field("source"), &self.source, MAX_TEXT, "Say where this was published."),
            sample: self.sample,
        }
    }

    fn is_blank(&self) -> bool {
        *self == Self { sample: self.sample, ..Self::default() }
    }
}
