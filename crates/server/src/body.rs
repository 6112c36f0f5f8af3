//! Bodies: JSON that says what is wrong with it, and uploaded files.

use rocket::data::{Data, FromData, Outcome, ToByteUnit};
use rocket::serde::DeserializeOwned;
use rocket::{Request, http::ContentType};

use crate::problem::{ApiError, keep};

/// A sheet with every list full of long texts stays below this; a bundle goes in by the command line.
pub(crate) const MAX_JSON_BYTES: u64 = 2 * 1024 * 1024;

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
        let mut parser = serde_json::Deserializer::from_slice(&bytes);
        match serde_path_to_error::deserialize(&mut parser) {
            Ok(value) => match parser.end() {
                Ok(()) => Outcome::Success(Self(value)),
                Err(error) => fail(ApiError::Malformed { path: String::new(), message: error.to_string() }),
            },
            Err(error) => fail(ApiError::Malformed { path: error.path().to_string(), message: said(error.inner()) }),
        }
    }
}

/// What the parser says; where people meet it, because a link was cut, in their words.
fn said(error: &serde_json::Error) -> String {
    let said = error.to_string();
    if said.starts_with("UUID parsing failed") { "this is no identifier, perhaps part of one".to_owned() } else { said }
}

/// A bundle of one module by hand is far smaller; whole large catalogues go by the command line.
const MAX_UPLOAD_BYTES: u64 = 20 * 1024 * 1024;

/// An uploaded file, whole.
pub(crate) async fn upload(file: Data<'_>) -> Result<Vec<u8>, ApiError> {
    let bytes = file.open(MAX_UPLOAD_BYTES.bytes()).into_bytes().await;
    let bytes = bytes.map_err(|error| ApiError::Malformed { path: String::new(), message: error.to_string() })?;
    if bytes.is_complete() { Ok(bytes.into_inner()) } else { Err(ApiError::TooLarge { limit: MAX_UPLOAD_BYTES }) }
}
