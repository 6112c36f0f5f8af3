//! Bodies: read whole, within a size and a time; JSON ones say what is wrong with them.

use std::time::Duration;

use pruvex_core::{FieldError, FieldErrorCode};
use rocket::data::{Data, FromData, Outcome, ToByteUnit};
use rocket::serde::DeserializeOwned;
use rocket::tokio::io::{AsyncReadExt, copy, sink};
use rocket::tokio::time::timeout;
use rocket::{Request, http::ContentType};
use serde_json::Value;

use crate::problem::{ApiError, MAX_JSON_BYTES, keep};
use crate::strict::Strict;

/// What a slow line sends in half a minute fits.
const JSON_PATIENCE: Duration = Duration::from_secs(30);
/// So much more is read and thrown away, so that the refusal of a body that is too large arrives: a connection that is closed while the
/// client still sends loses it.
const THROWN_AWAY: u64 = 64 * 1024 * 1024;

/// All of a body.
pub(crate) async fn read_whole(data: Data<'_>, limit: u64, patience: Duration) -> Result<Vec<u8>, ApiError> {
    let read = async {
        let mut stream = data.open((limit + THROWN_AWAY).bytes());
        let mut bytes = Vec::new();
        (&mut stream).take(limit + 1).read_to_end(&mut bytes).await?;
        if bytes.len() as u64 <= limit {
            return Ok(Ok(bytes));
        }
        drop(bytes);
        copy(&mut stream, &mut sink()).await?;
        Ok::<_, std::io::Error>(Err(ApiError::TooLarge { limit }))
    };
    match timeout(patience, read).await {
        Ok(Ok(read)) => read,
        Ok(Err(error)) => Err(ApiError::Malformed { message: error.to_string(), faults: Vec::new() }),
        Err(_) => Err(ApiError::TooSlow),
    }
}

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
        match read_whole(data, MAX_JSON_BYTES, JSON_PATIENCE).await.and_then(|bytes| parse(&bytes)) {
            Ok(value) => Outcome::Success(Self(value)),
            Err(error) => fail(error),
        }
    }
}

/// Reads a value out of JSON. A list is no object, although a program could take its items for fields in their order; and no text may hold
/// what the database cannot.
pub(crate) fn parse<T: DeserializeOwned>(json: &[u8]) -> Result<T, ApiError> {
    let mut parser = serde_json::Deserializer::from_slice(json);
    let value = serde_path_to_error::deserialize(&mut parser).map_err(|error| malformed(&error))?;
    let unread = |error: serde_json::Error| ApiError::Malformed { message: error.to_string(), faults: Vec::new() };
    parser.end().map_err(unread)?;
    let plain: Value = serde_json::from_slice(json).map_err(unread)?;
    let mut faults = Vec::new();
    find_nul(&plain, "", &mut faults);
    if !faults.is_empty() {
        return Err(ApiError::Malformed { message: String::new(), faults });
    }
    serde_path_to_error::deserialize::<_, T>(Strict(plain)).map_err(|error| malformed(&error))?;
    Ok(value)
}

/// So many are told.
const MAX_FAULTS: usize = 100;

fn find_nul(value: &Value, path: &str, faults: &mut Vec<FieldError>) {
    let mut look = |text: &str, path: &str| {
        if text.contains('\0') && faults.len() < MAX_FAULTS {
            faults.push(FieldError::nul(path, text));
        }
    };
    match value {
        Value::String(text) => look(text, path),
        Value::Array(items) => {
            for (index, item) in items.iter().enumerate() {
                find_nul(item, &format!("{path}[{index}]"), faults);
            }
        }
        Value::Object(fields) => {
            for (name, value) in fields {
                let path = if path.is_empty() { name.clone() } else { format!("{path}.{name}") };
                if name.contains('\0') {
                    faults.push(FieldError::nul(&path.replace('\0', "␀"), name));
                } else {
                    find_nul(value, &path, faults);
                }
            }
        }
        Value::Null | Value::Bool(_) | Value::Number(_) => {}
    }
}

fn malformed(error: &serde_path_to_error::Error<serde_json::Error>) -> ApiError {
    let (path, said) = (error.path().to_string(), said(error.inner()));
    if path.is_empty() || path == "." {
        return ApiError::Malformed { message: said, faults: Vec::new() };
    }
    let fault = FieldError::new(path, FieldErrorCode::Invalid, "", format!("{said}."), "Send what this field takes.");
    ApiError::Malformed { message: String::new(), faults: vec![fault] }
}

/// What the parser says; where people meet it, because a link was cut, in their words.
fn said(error: &serde_json::Error) -> String {
    let said = error.to_string();
    if said.starts_with("UUID parsing failed") { "this is no identifier, perhaps part of one".to_owned() } else { said }
}
