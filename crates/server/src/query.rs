//! Parameters that nobody reads, or could store: a filter that is misspelt, or stands twice, must not look as if it were applied.

use std::collections::HashMap;

use pruvex_core::{FieldError, FieldErrorCode};
use rocket::Request;

use crate::problem::ApiError;

/// How often a parameter may stand in a query.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Times {
    /// Once at most.
    Once,
    /// Once for each of its values.
    Any,
}

/// The parameters of each operation, by its method and the path of its route.
#[derive(Debug)]
pub(crate) struct Parameters(pub HashMap<(String, String), HashMap<String, Times>>);

/// The first parameter of a request that holds a NUL, or that its operation does not declare, or not as often.
pub(crate) fn odd_parameter(request: &Request<'_>) -> Option<ApiError> {
    let query = request.uri().query()?;
    let (route, parameters) = (request.route()?, request.rocket().state::<Parameters>()?);
    let known = parameters.0.get(&(route.method.as_str().to_owned(), route.uri.path().to_owned()))?;
    let given: Vec<(&str, &str)> = query.segments().collect();
    if let Some((name, value)) = given.iter().find(|(_, value)| value.contains('\0')) {
        return Some(ApiError::Query(vec![FieldError::nul(name, value)]));
    }
    let again = |place: usize| given[..place].iter().any(|(before, _)| *before == given[place].0);
    let place = (0..given.len()).find(|place| match known.get(given[*place].0) {
        None => true,
        Some(times) => *times == Times::Once && again(*place),
    })?;
    let (name, value) = given[place];
    if known.contains_key(name) {
        let (message, remedy) = ("It stands twice, and only one of them could count.", "Give it once.");
        return Some(ApiError::Query(vec![FieldError::new(name, FieldErrorCode::Duplicate, value, message, remedy)]));
    }
    let mut names: Vec<&str> = known.keys().map(String::as_str).collect();
    names.sort_unstable();
    let remedy = if names.is_empty() { "Leave it out.".to_owned() } else { format!("Use: {}.", names.join(", ")) };
    let message = "There is no such parameter here.";
    Some(ApiError::Query(vec![FieldError::new(name, FieldErrorCode::Unknown, name, message, remedy)]))
}
