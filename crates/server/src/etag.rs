//! Versions as ETags: what was read goes back with `If-Match`, so that concurrent edits conflict loudly.

use pruvex_app::Versioned;
use rocket::Request;
use rocket::http::{Header, Status};
use rocket::request::{FromRequest, Outcome};
use rocket::response::{Responder, Result as ResponseResult};
use rocket::serde::Serialize;
use rocket::serde::json::Json;
use utoipa::openapi::Required;
use utoipa::openapi::path::{Parameter, ParameterBuilder, ParameterIn};
use utoipa::openapi::schema::{Object, Type};

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

impl utoipa::IntoParams for IfMatch {
    fn into_params(_: impl Fn() -> Option<ParameterIn>) -> Vec<Parameter> {
        let header = ParameterBuilder::new()
            .name("If-Match")
            .parameter_in(ParameterIn::Header)
            .required(Required::True)
            .description(Some("The ETag that was read, such as \"3\"; \"0\" where there was nothing yet."))
            .schema(Some(Object::with_type(Type::String)));
        vec![header.build()]
    }
}

/// A record with its version in the ETag.
#[derive(Debug)]
pub(crate) struct Tagged<T> {
    status: Status,
    value: T,
}

impl<T> Tagged<T> {
    pub fn ok(value: T) -> Self {
        Self { status: Status::Ok, value }
    }

    pub fn created(value: T) -> Self {
        Self { status: Status::Created, value }
    }
}

impl<'r, T: Serialize + Versioned> Responder<'r, 'static> for Tagged<T> {
    fn respond_to(self, request: &'r Request<'_>) -> ResponseResult<'static> {
        let tag = Header::new("ETag", format!("\"{}\"", self.value.version()));
        let mut response = Json(self.value).respond_to(request)?;
        response.set_status(self.status);
        response.set_header(tag);
        Ok(response)
    }
}
