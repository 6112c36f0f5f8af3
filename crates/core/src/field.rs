//! What is wrong with one field of something a person or a file handed in: where, what, and the remedy.

use std::collections::HashSet;

use serde::Serialize;

use crate::name::turns;

/// Stable, machine-readable kinds of field errors.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum FieldErrorCode {
    /// Needed and absent.
    Missing,
    /// Longer, or more items, than the stated limit.
    TooLong,
    /// Holds a character that cannot be stored.
    ForbiddenCharacter,
    /// Given twice, or already taken by another record.
    Duplicate,
    /// Not a whole number from 0 to the stated limit.
    NotACount,
    /// A 2x2 table without a single patient.
    EmptyTable,
    /// Points to something that does not exist.
    Unknown,
    /// Breaks the rule that the message states.
    Invalid,
}

/// One fault of one field. Checks return all of them, not the first.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, thiserror::Error)]
#[error("{field}: {message} {remedy}")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct FieldError {
    /// Path of the field, such as `tp` or `steps[2]`.
    pub field: String,
    /// Machine-readable kind.
    pub code: FieldErrorCode,
    /// The refused value, shortened.
    pub value: String,
    /// What is wrong, one sentence.
    pub message: String,
    /// What to do about it, one sentence.
    pub remedy: String,
}

impl FieldError {
    /// Joins the parts; the value is shortened to 80 characters so that a pasted page does not fill the answer.
    pub fn new(
        field: impl Into<String>,
        code: FieldErrorCode,
        value: impl ToString,
        message: impl Into<String>,
        remedy: impl Into<String>,
    ) -> Self {
        let value = value.to_string();
        let shown = value.chars().take(80).collect::<String>();
        let value = if shown.len() < value.len() { format!("{shown}…") } else { shown };
        Self { field: field.into(), code, value, message: message.into(), remedy: remedy.into() }
    }

    /// The fault of a text that holds a NUL, which PostgreSQL's texts cannot.
    #[must_use]
    pub fn nul(field: &str, text: &str) -> Self {
        let message = "This text contains a NUL character, which cannot be stored.";
        let remedy = "Remove it; it often comes from copying out of a damaged file.";
        Self::new(field, FieldErrorCode::ForbiddenCharacter, text.replace('\0', "␀"), message, remedy)
    }

    /// The same fault seen from the enclosing record, with `prefix` put before the field's path.
    #[must_use]
    pub fn within(mut self, prefix: &str) -> Self {
        self.field = format!("{prefix}{}", self.field);
        self
    }
}

/// Faults of a whole file while it is read. The first are kept word for word and the others counted, so that a file of nothing but faults
/// takes no more memory than one that has a few; reading ends when more are counted than anybody mends one by one.
#[derive(Debug, Default, Clone, PartialEq, Eq)]
pub struct Faults {
    told: Vec<FieldError>,
    count: usize,
}

impl Faults {
    /// So many are kept.
    pub const TOLD: usize = 500;
    /// So many are counted; the rest of the file is not looked at then.
    pub const COUNTED: usize = 10_000;

    /// A single one.
    #[must_use]
    pub fn of(fault: FieldError) -> Self {
        Self { told: vec![fault], count: 1 }
    }

    /// One more.
    pub fn push(&mut self, fault: FieldError) {
        self.count += 1;
        if self.told.len() < Self::TOLD {
            self.told.push(fault);
        }
    }

    /// Those of one record, with `prefix` put before their paths.
    pub fn add(&mut self, prefix: &str, found: Vec<FieldError>) {
        let room = Self::TOLD - self.told.len();
        self.count += found.len();
        self.told.extend(found.into_iter().take(room).map(|fault| fault.within(prefix)));
    }

    /// There is none.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.count == 0
    }

    /// Reading should end.
    #[must_use]
    pub fn is_full(&self) -> bool {
        self.count >= Self::COUNTED
    }

    /// How many there are, at least.
    #[must_use]
    pub fn count(&self) -> usize {
        self.count
    }

    /// The first of them.
    #[must_use]
    pub fn told(&self) -> &[FieldError] {
        &self.told
    }

    /// Those that are told; where there are more, a last one says how many.
    #[must_use]
    pub fn into_told(self) -> Vec<FieldError> {
        let Self { mut told, count } = self;
        let more = count - told.len();
        if more > 0 {
            let least = if count >= Self::COUNTED { "at least " } else { "" };
            let message = format!("There are {least}{more} more errors.");
            told.push(FieldError::new(
                "file",
                FieldErrorCode::TooLong,
                count,
                message,
                "Correct these first; then the others are shown.",
            ));
        }
        told
    }
}

impl FromIterator<FieldError> for Faults {
    fn from_iter<I: IntoIterator<Item = FieldError>>(faults: I) -> Self {
        let mut all = Self::default();
        faults.into_iter().for_each(|fault| all.push(fault));
        all
    }
}

/// Collects the faults of one record while its fields are read.
#[derive(Debug, Default)]
pub(crate) struct Checker {
    errors: Vec<FieldError>,
}

impl Checker {
    pub(crate) fn push(&mut self, error: FieldError) {
        self.errors.push(error);
    }

    /// Trimmed text with line ends as `\n`, within `max` characters; may be empty.
    pub(crate) fn text(&mut self, field: &str, value: &str, max: usize) -> String {
        let text = value.replace("\r\n", "\n").trim().to_owned();
        let length = text.chars().count();
        if length > max {
            self.push(FieldError::new(
                field,
                FieldErrorCode::TooLong,
                &text,
                format!("This text has {length} characters; at most {max} fit."),
                "Shorten it, or split it over several entries.",
            ));
        }
        if text.contains('\0') {
            self.push(FieldError::nul(field, &text));
        }
        text
    }

    /// As [`Checker::text`], and not empty.
    pub(crate) fn required(&mut self, field: &str, value: &str, max: usize, remedy: &str) -> String {
        let text = self.text(field, value, max);
        if text.is_empty() {
            self.push(FieldError::new(field, FieldErrorCode::Missing, "", "This field is empty.", remedy));
        }
        text
    }

    /// A name that reads as it is written: signs that turn the direction of those around them give it the look of another one. Others that
    /// do not show have their use in some scripts, and make no difference to [`name_key`](crate::catalogue::name_key).
    pub(crate) fn seen(&mut self, field: &str, name: &str) {
        if name.chars().any(turns) {
            let shown = name.chars().map(|sign| if turns(sign) { '␣' } else { sign }).collect::<String>();
            let message = "This name contains characters that change the reading direction; they are shown as ␣.";
            self.push(FieldError::new(
                field,
                FieldErrorCode::ForbiddenCharacter,
                shown,
                message,
                "Type it again instead of pasting it.",
            ));
        }
    }

    /// A list of texts; empty entries are dropped, as an empty line at the end of a list means nothing.
    pub(crate) fn texts(&mut self, field: &str, values: &[String], max_items: usize, max: usize) -> Vec<String> {
        if values.len() > max_items {
            self.push(FieldError::new(
                field,
                FieldErrorCode::TooLong,
                values.len(),
                format!("This list has {} entries; at most {max_items} fit.", values.len()),
                "Remove or join entries.",
            ));
            // What cannot be kept is not looked at: a million entries must not make a million messages.
            return Vec::new();
        }
        let mut texts = Vec::new();
        for (index, value) in values.iter().enumerate() {
            let text = self.text(&format!("{field}[{index}]"), value, max);
            if !text.is_empty() {
                texts.push(text);
            }
        }
        texts
    }

    /// A choice that must be made.
    pub(crate) fn present<T: Copy>(&mut self, field: &str, value: Option<T>, remedy: &str) -> Option<T> {
        if value.is_none() {
            self.push(FieldError::new(field, FieldErrorCode::Missing, "", "Nothing is chosen.", remedy));
        }
        value
    }

    /// A number within its possible range; the unit stands in the message.
    pub(crate) fn number(
        &mut self,
        field: &str,
        value: Option<f64>,
        (low, high): (f64, f64),
        unit: &str,
    ) -> Option<f64> {
        let value = value?;
        if !(low..=high).contains(&value) {
            let message = format!("{value} is not possible here.");
            let remedy = format!("Give a number from {low} to {high} {unit}");
            self.invalid(field, value, message, &format!("{}.", remedy.trim_end()));
        }
        Some(value)
    }

    /// A broken rule.
    pub(crate) fn invalid(&mut self, field: &str, value: impl ToString, message: impl Into<String>, remedy: &str) {
        self.push(FieldError::new(field, FieldErrorCode::Invalid, value, message, remedy));
    }

    /// Names that must tell the entries of a list apart, whatever their case.
    pub(crate) fn unique<'a>(&mut self, field: &str, names: impl Iterator<Item = &'a str>) {
        let mut seen = HashSet::new();
        for (index, name) in names.enumerate() {
            if !name.is_empty() && !seen.insert(name.to_lowercase()) {
                let (place, message) = (format!("{field}[{index}]"), "Another entry of this list has the same name.");
                let remedy = "Give each its own name.";
                self.push(FieldError::new(place, FieldErrorCode::Duplicate, name, message, remedy));
            }
        }
    }

    pub(crate) fn finish<T>(self, value: Option<T>) -> Result<T, Vec<FieldError>> {
        match value {
            Some(value) if self.errors.is_empty() => Ok(value),
            _ => Err(self.errors),
        }
    }
}

/// A part of a record that checks itself and comes back tidied.
pub(crate) trait Part {
    /// Keeps what is wrong, each under the path `at`.
    fn checked(&self, c: &mut Checker, at: &str) -> Self;

    /// Says nothing, as the empty line at the end of a list.
    fn is_blank(&self) -> bool;
}

/// Checks the entries of a list; blank ones are dropped.
pub(crate) fn parts<T: Part>(c: &mut Checker, field: &str, values: &[T], max_items: usize) -> Vec<T> {
    if values.len() > max_items {
        let message = format!("This list has {} entries; at most {max_items} fit.", values.len());
        c.push(FieldError::new(field, FieldErrorCode::TooLong, values.len(), message, "Remove or join entries."));
        // What cannot be kept is not looked at: a million entries must not make a million messages.
        return Vec::new();
    }
    let filled = values.iter().enumerate().filter(|(_, value)| !value.is_blank());
    filled.map(|(index, value)| value.checked(c, &format!("{field}[{index}]"))).collect()
}
