//! Short texts that people hand in or ask for.

use pruvex_core::{FieldError, FieldErrorCode};

use crate::AppError;

/// Longer ones are no names and no comments.
const MOST_CHARACTERS: usize = 200;

/// Free text that is asked for, such as a search; `None` when it is empty.
///
/// # Errors
/// [`AppError::Asked`] for one that is too long or holds a NUL.
pub(crate) fn asked_text(field: &str, given: Option<&str>) -> Result<Option<String>, AppError> {
    let text = given.unwrap_or_default();
    match fault(field, text) {
        Some(fault) => Err(AppError::Asked(vec![fault])),
        None => Ok(Some(text.to_owned()).filter(|text| !text.is_empty())),
    }
}

/// A short text that is to be kept, without the spaces around it.
///
/// # Errors
/// [`AppError::Fields`] for one that is too long or holds a NUL.
pub(crate) fn short_text(field: &str, given: &str) -> Result<String, AppError> {
    match fault(field, given) {
        Some(fault) => Err(AppError::Fields(vec![fault])),
        None => Ok(given.trim().to_owned()),
    }
}

fn fault(field: &str, text: &str) -> Option<FieldError> {
    if text.contains('\0') {
        return Some(FieldError::nul(field, text));
    }
    let (code, message, remedy) = if text.chars().count() > MOST_CHARACTERS {
        (FieldErrorCode::TooLong, "This text has more than 200 characters.", "Shorten it.")
    } else {
        return None;
    };
    Some(FieldError::new(field, code, text, message, remedy))
}
