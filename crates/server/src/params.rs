//! Parameters in addresses.

use pruvex_core::{FieldError, FieldErrorCode};
use rocket::request::FromParam;
use uuid::Uuid;

use crate::problem::ApiError;

/// An id in a path. Handlers take it as a `Result`, so that a malformed one is "not found" in words.
#[derive(Debug, Clone, Copy)]
pub(crate) struct RecordId(pub Uuid);

impl<'a> FromParam<'a> for RecordId {
    type Error = ApiError;

    fn from_param(param: &'a str) -> Result<Self, ApiError> {
        let shown = || param.chars().take(80).collect();
        Uuid::parse_str(param).map(Self).map_err(|_| ApiError::NotFound { what: "record", id: shown() })
    }
}

/// Reads an optional query field through `parse`; an unknown value is an error that lists the known ones.
pub(crate) fn choice<T>(
    field: &str,
    given: Option<&str>,
    known: &[&str],
    parse: impl Fn(&str) -> Option<T>,
) -> Result<Option<T>, ApiError> {
    let Some(given) = given.filter(|given| !given.is_empty()) else { return Ok(None) };
    let remedy = format!("Use one of: {}.", known.join(", "));
    let unknown = || FieldError::new(field, FieldErrorCode::Unknown, given, "This value is not known.", remedy);
    parse(given).map(Some).ok_or_else(|| ApiError::Query(vec![unknown()]))
}

/// A whole number in a query, up to a limit.
pub(crate) fn whole(field: &str, given: Option<&str>, max: u64) -> Result<Option<u64>, ApiError> {
    let known = format!("a whole number up to {max}");
    choice(field, given, &[&known], |text| text.parse().ok().filter(|number| *number <= max))
}

/// A short text of a body.
pub(crate) fn text_field(field: &str, given: &str) -> Result<String, ApiError> {
    match search_text(field, Some(given)) {
        Ok(text) => Ok(text.unwrap_or_default().trim().to_owned()),
        Err(ApiError::Query(errors)) => Err(ApiError::Fields(errors)),
        Err(other) => Err(other),
    }
}

/// Free text in a query.
pub(crate) fn search_text(field: &str, given: Option<&str>) -> Result<Option<String>, ApiError> {
    let text = given.unwrap_or_default();
    let fault = if text.contains('\0') {
        Some((FieldErrorCode::ForbiddenCharacter, "This text holds a NUL character.", "Remove it."))
    } else if text.chars().count() > 200 {
        Some((FieldErrorCode::TooLong, "This text has more than 200 characters.", "Shorten it."))
    } else {
        None
    };
    match fault {
        Some((code, message, remedy)) => {
            Err(ApiError::Query(vec![FieldError::new(field, code, text, message, remedy)]))
        }
        None => Ok(Some(text.to_owned()).filter(|text| !text.is_empty())),
    }
}
