//! Parameters in addresses.

use pruvex_core::catalogue::Region;
use pruvex_core::{FieldError, FieldErrorCode, Probability};
use rocket::request::FromParam;
use uuid::Uuid;

use crate::problem::ApiError;

/// An id in a path. Handlers take it as a `Result`, so that a malformed one is "not found" in words.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Id<T>(pub T);

impl<'a, T: From<Uuid>> FromParam<'a> for Id<T> {
    type Error = ApiError;

    fn from_param(param: &'a str) -> Result<Self, ApiError> {
        let shown = || param.chars().take(80).collect();
        let unknown = |_| ApiError::NoRecord { id: shown() };
        Uuid::parse_str(param).map(|id| Self(T::from(id))).map_err(unknown)
    }
}

/// An id in a query.
pub(crate) fn id<T: From<Uuid>>(field: &str, given: Option<&str>) -> Result<Option<T>, ApiError> {
    choice(field, given, &["an id"], |text| Uuid::parse_str(text).ok().map(T::from))
}

/// Reads an optional query field through `parse`; an unknown value is an error that lists the known ones.
pub(crate) fn choice<T>(
    field: &str,
    given: Option<&str>,
    known: &[&str],
    parse: impl Fn(&str) -> Option<T>,
) -> Result<Option<T>, ApiError> {
    let Some(given) = given else { return Ok(None) };
    let remedy = format!("Use one of: {}.", known.join(", "));
    let unknown = || FieldError::new(field, FieldErrorCode::Unknown, given, "This value is not known.", remedy);
    parse(given).map(Some).ok_or_else(|| ApiError::Query(vec![unknown()]))
}

/// One of the regions.
pub(crate) fn region(given: Option<&str>) -> Result<Option<Region>, ApiError> {
    choice("region", given, &Region::ALL.map(Region::code), Region::from_code)
}

/// A probability before testing: neither 0 nor 1, at which no result could change anything.
pub(crate) fn pre_test(given: Option<&str>) -> Result<Option<Probability>, ApiError> {
    choice("pre_test", given, &["a number above 0 and below 1"], |text| {
        let inside = |p: &Probability| p.get() > 0.0 && p.get() < 1.0;
        text.parse().ok().and_then(|p| Probability::new(p).ok()).filter(inside)
    })
}

/// `true` or `false`.
pub(crate) fn yes_no(field: &str, given: Option<&str>) -> Result<Option<bool>, ApiError> {
    choice(field, given, &["true", "false"], |text| text.parse().ok())
}

/// A whole number up to a limit.
pub(crate) fn whole(field: &str, given: Option<&str>, max: u64) -> Result<Option<u64>, ApiError> {
    let known = format!("a whole number up to {max}");
    choice(field, given, &[&known], |text| text.parse().ok().filter(|number| *number <= max))
}

/// The end of an address, as one of the forms in which something is written.
pub(crate) fn ending<T>(given: &str, parse: impl Fn(&str) -> Option<T>) -> Result<T, ApiError> {
    parse(given).ok_or(ApiError::NoRoute)
}
