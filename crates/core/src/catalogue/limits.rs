//! How long texts and lists may be, how names are compared, and how a choice is read.

use crate::field::Checker;
use crate::{FieldError, FieldErrorCode};

pub(crate) const MAX_NAME: usize = 160;
pub(crate) const MAX_TEXT: usize = 10_000;
pub(crate) const MAX_ITEMS: usize = 100;
/// Further conditions of one test.
pub(crate) const MAX_CONDITIONS: usize = 10;
/// Joint angles.
pub(crate) const DEGREES: (f64, f64) = (-180.0, 180.0);

/// Choices without repetition, in the order in which they were made.
pub(crate) fn distinct<T: Copy + PartialEq>(choices: &[T]) -> Vec<T> {
    choices.iter().enumerate().filter(|(index, it)| !choices[..*index].contains(it)).map(|(_, it)| *it).collect()
}

/// A choice by its code; missing and unknown ones are faults.
pub(crate) fn code<T>(
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
