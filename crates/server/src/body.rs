//! JSON bodies, which say what is wrong with them.

use rocket::data::{Data, FromData, Outcome, ToByteUnit};
use rocket::serde::DeserializeOwned;
use rocket::{Request, http::ContentType};
use serde_json::Value;

use crate::problem::{ApiError, MAX_JSON_BYTES, keep};
use crate::strict::Strict;

/// A parsed body. Malformed ones are answered with the place of the fault.
#[derive(Debug)]
pub(crate) struct JsonBody<T>(pub T);

#[rocket::async_trait]
impl<'r, T: DeserializeOwned> FromData<'r> for JsonBody<T> {
    type Error = ();

    async fn from_data(request: &'r Request<'_>, data: Data<'r>) -> Outcome<'r, Self> {
        let fail = |error| Outcome::Error((keep(request, error), ()));
        if request.content_type().is_none_or(|given| given.media_type() != ContentType::JSON.media_type()) {
            return fail(ApiError::NotJson);
        }
        let bytes = match data.open(MAX_JSON_BYTES.bytes()).into_bytes().await {
            Ok(bytes) if bytes.is_complete() => bytes.into_inner(),
            Ok(_) => return fail(ApiError::TooLarge { limit: MAX_JSON_BYTES }),
            Err(error) => return fail(ApiError::Malformed { path: String::new(), message: error.to_string() }),
        };
        match parse(&bytes) {
            Ok(value) => Outcome::Success(Self(value)),
            Err(error) => fail(error),
        }
    }
}

/// Reads a value out of JSON. A list is no object, although a program could take its items for fields in their order.
pub(crate) fn parse<T: DeserializeOwned>(json: &[u8]) -> Result<T, ApiError> {
    let mut parser = serde_json::Deserializer::from_slice(json);
    let value = serde_path_to_error::deserialize(&mut parser).map_err(|error| malformed(&error))?;
    parser.end().map_err(|error| ApiError::Malformed { path: String::new(), message: error.to_string() })?;
    let plain: Value = serde_json::from_slice(json)
        .map_err(|error| ApiError::Malformed { path: String::new(), message: error.to_string() })?;
    serde_path_to_error::deserialize::<_, T>(Strict(plain)).map_err(|error| malformed(&error))?;
    Ok(value)
}

fn malformed(error: &serde_path_to_error::Error<serde_json::Error>) -> ApiError {
    ApiError::Malformed { path: error.path().to_string(), message: said(error.inner()) }
}

/// What the parser says; where people meet it, because a link was cut, in their words.
fn said(error: &serde_json::Error) -> String {
    let said = error.to_string();
    if said.starts_with("UUID parsing failed") { "this is no identifier, perhaps part of one".to_owned() } else { said }
}
