//! Versions as ETags: what was read goes back with `If-Match`, so that concurrent edits conflict loudly.

use rocket::Request;
use rocket::http::{Header, Status};
use rocket::request::{FromRequest, Outcome};
use rocket::response::{Responder, Result as ResponseResult};
use rocket::serde::Serialize;
use rocket::serde::json::Json;

use crate::problem::{ApiError, refuse};

/// The version a change starts from.
#[derive(Debug, Clone, Copy)]
pub(crate) struct IfMatch(pub i32);

#[rocket::async_trait]
impl<'r> FromRequest<'r> for IfMatch {
    type Error = ();

    async fn from_request(request: &'r Request<'_>) -> Outcome<Self, ()> {
        let Some(given) = request.headers().get_one("If-Match") else {
            return refuse(request, ApiError::IfMatchMissing);
        };
        match given.trim().trim_matches('"').parse() {
            Ok(version) => Outcome::Success(Self(version)),
            Err(_) => refuse(request, ApiError::IfMatchInvalid { given: given.chars().take(80).collect() }),
        }
    }
}

/// A record with its version in the ETag.
#[derive(Debug)]
pub(crate) struct Tagged<T> {
    pub status: Status,
    pub version: i32,
    pub value: T,
}

impl<T> Tagged<T> {
    pub fn ok(version: i32, value: T) -> Self {
        Self { status: Status::Ok, version, value }
    }

    pub fn created(version: i32, value: T) -> Self {
        Self { status: Status::Created, version, value }
    }
}

impl<'r, T: Serialize> Responder<'r, 'static> for Tagged<T> {
    fn respond_to(self, request: &'r Request<'_>) -> ResponseResult<'static> {
        let mut response = Json(self.value).respond_to(request)?;
        response.set_status(self.status);
        response.set_header(Header::new("ETag", format!("\"{}\"", self.version)));
        Ok(response)
    }
}
