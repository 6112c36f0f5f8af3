//! Errors as RFC 9457 problem documents: one exhaustive map from error to answer.

use std::io::Cursor;

use pruvex_app::{AppError, IN_WORDS, in_words};
use pruvex_core::{Faults, FieldError};
use rocket::http::{ContentType, Header, Status};
use rocket::response::{Responder, Response, Result as ResponseResult};
use rocket::serde::Serialize;
use rocket::{Catcher, Request, catch, catchers};
use tracing::error;
use utoipa::ToSchema;

use crate::fairings::request_id;

/// A sheet with every list full of long texts stays below this; a bundle goes in by the command line.
pub(crate) const MAX_JSON_BYTES: u64 = 2 * 1024 * 1024;

/// Everything the API can answer instead of what was asked for.
#[derive(Debug)]
pub(crate) enum ApiError {
    /// What a use case refused.
    App(AppError),
    /// The query's fields break rules.
    Query(Vec<FieldError>),
    /// An id in the path that is none.
    NoRecord { id: String },
    /// No such address.
    NoRoute,
    /// An address that is there for other methods.
    NoMethod { allowed: Vec<&'static str> },
    /// Another site sent this in the user's name.
    CrossSite,
    /// A change without `If-Match`.
    IfMatchMissing,
    /// An `If-Match` that is no version.
    IfMatchInvalid { given: String },
    /// A body that is no JSON, or not of the expected shape: as a whole, or at these fields.
    Malformed { message: String, faults: Vec<FieldError> },
    /// A body that did not arrive in time.
    TooSlow,
    /// Not as HTTP writes a request, or of a method that it does not know.
    NoRequest,
    /// A body beyond the limit.
    TooLarge { limit: u64 },
    /// A body that is not declared as JSON.
    NotJson,
}

impl From<AppError> for ApiError {
    fn from(error: AppError) -> Self {
        Self::App(error)
    }
}

/// The one place where a use case's refusal becomes a status.
fn status_of(error: &AppError) -> Status {
    match error {
        AppError::Fields(_) => Status::UnprocessableEntity,
        AppError::Asked(_) => Status::BadRequest,
        AppError::NotFound { .. } | AppError::WorkUnknown | AppError::NoDemonstration => Status::NotFound,
        AppError::Conflict { .. } => Status::PreconditionFailed,
        AppError::NotSignedIn | AppError::SignInFailed | AppError::CodeNeeded | AppError::CodeWrong => {
            Status::Unauthorized
        }
        AppError::NotAllowed { .. } | AppError::SecondStepMissing => Status::Forbidden,
        AppError::TooManyAttempts { .. } => Status::TooManyRequests,
        AppError::InvitationGone | AppError::ResetGone => Status::Gone,
        AppError::ImportRunning | AppError::Superseded => Status::Conflict,
        AppError::RegistryFailed => Status::BadGateway,
        AppError::DatabaseUnavailable | AppError::NoRegistry | AppError::Busy => Status::ServiceUnavailable,
        AppError::DatabaseUrl(_) | AppError::Internal => Status::InternalServerError,
    }
}

impl ApiError {
    fn status(&self) -> Status {
        match self {
            Self::App(error) => status_of(error),
            Self::Query(_) | Self::IfMatchInvalid { .. } | Self::Malformed { .. } | Self::NoRequest => {
                Status::BadRequest
            }
            Self::NoRecord { .. } | Self::NoRoute => Status::NotFound,
            Self::NoMethod { .. } => Status::MethodNotAllowed,
            Self::CrossSite => Status::Forbidden,
            Self::IfMatchMissing => Status::PreconditionRequired,
            Self::TooSlow => Status::RequestTimeout,
            Self::TooLarge { .. } => Status::PayloadTooLarge,
            Self::NotJson => Status::UnsupportedMediaType,
        }
    }

    fn code(&self) -> &'static str {
        match self {
            Self::App(error) => error.code(),
            Self::Query(_) => "query_invalid",
            Self::NoRecord { .. } => "not_found",
            Self::NoRoute => "no_such_address",
            Self::NoMethod { .. } => "no_such_method",
            Self::CrossSite => "cross_site",
            Self::IfMatchMissing => "if_match_missing",
            Self::IfMatchInvalid { .. } => "if_match_invalid",
            Self::Malformed { .. } => "body_malformed",
            Self::NoRequest => "request_malformed",
            Self::TooSlow => "body_too_slow",
            Self::TooLarge { .. } => "body_too_large",
            Self::NotJson => "body_not_json",
        }
    }

    fn words(&self) -> (&'static str, String) {
        match self {
            Self::App(error) => error.words(),
            Self::Query(errors) => {
                ("Some fields need attention", in_words(errors))
            }
            Self::NoRecord { id } => ("Not found", format!("There is no record {id}, or it was deleted.")),
            Self::NoRoute => ("Not found", "The API has no such address.".to_owned()),
            Self::NoMethod { allowed } => {
                ("Not with this method", format!("This address answers {} only.", allowed.join(", ")))
            }
            Self::CrossSite => (
                "Sent by another site",
                "Changes are accepted from this site's own pages only. Nothing was changed.".to_owned(),
            ),
            Self::IfMatchMissing => (
                "Version missing",
                "Send If-Match with the ETag you read, so that nobody's changes are overwritten.".to_owned(),
            ),
            Self::IfMatchInvalid { given } => {
                ("Version not understood", format!("If-Match {given:?} is no ETag of this API, such as \"3\"."))
            }
            Self::Malformed { message, faults } if faults.is_empty() => {
                ("Body not understood", format!("{message}. Nothing was changed."))
            }
            Self::Malformed { faults, .. } => {
                let places: Vec<String> =
                    faults.iter().take(IN_WORDS).map(|it| format!("At {}: {}", it.field, it.message)).collect();
                ("Body not understood", format!("{} Nothing was changed.", places.join(" ")))
            }
            Self::TooSlow => (
                "Body too slow",
                "What you sent did not arrive in time. Nothing was changed; send it again over a better line.".to_owned(),
            ),
            Self::NoRequest => (
                "Request not understood",
                "Its method is unknown here, or its address or a header is not as HTTP writes them. Nothing was changed."
                    .to_owned(),
            ),
            Self::TooLarge { limit } => {
                ("Body too large", format!("At most {limit} bytes are accepted. Shorten the texts and send it again."))
            }
            Self::NotJson => ("Not JSON", "Send the body as application/json.".to_owned()),
        }
    }
}

impl std::fmt::Display for ApiError {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(&self.words().1)
    }
}

/// The document itself.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct Problem {
    /// Names the kind of problem.
    r#type: String,
    /// The kind in a few words.
    title: String,
    /// HTTP status.
    status: u16,
    /// What happened here, and what to do.
    detail: String,
    /// The kind, for programs.
    code: String,
    /// Stands in the server's log too.
    request_id: String,
    /// Faults field by field, if any.
    errors: Vec<FieldError>,
    /// The version saved meanwhile, in a conflict.
    current_version: Option<i32>,
    /// What was saved meanwhile, in a conflict: `study`, `result`, `test`, ...
    changed: Option<String>,
}

impl<'r> Responder<'r, 'static> for ApiError {
    fn respond_to(self, request: &'r Request<'_>) -> ResponseResult<'static> {
        let (title, detail) = self.words();
        let (status, code) = (self.status(), self.code());
        let (mut conflict, mut errors, mut allow, mut retry) = (None, Vec::new(), None, None);
        if let Self::App(error) = &self {
            retry = error.retry_after();
        }
        match self {
            Self::App(AppError::Conflict { what, current }) => conflict = Some((what, current)),
            Self::App(AppError::Fields(faults) | AppError::Asked(faults))
            | Self::Query(faults)
            | Self::Malformed { faults, .. } => errors = faults,
            Self::NoMethod { allowed } => allow = Some(allowed.join(", ")),
            _ => {}
        }
        let problem = Problem {
            r#type: format!("urn:pruvex:problem:{code}"),
            title: title.to_owned(),
            status: status.code,
            detail,
            code: code.to_owned(),
            request_id: request_id(request),
            errors: errors.into_iter().collect::<Faults>().into_told(),
            current_version: conflict.map(|(_, current)| current),
            changed: conflict.map(|(what, _)| what.to_owned()),
        };
        let body = serde_json::to_string(&problem).map_err(|_| Status::InternalServerError)?;
        let mut response = Response::build();
        response.status(status).header(ContentType::new("application", "problem+json"));
        if let Some(allow) = allow {
            response.header(Header::new("Allow", allow));
        }
        if let Some(seconds) = retry {
            response.header(Header::new("Retry-After", seconds.to_string()));
        }
        response.sized_body(body.len(), Cursor::new(body)).ok()
    }
}

type Refusal = std::sync::Mutex<Option<ApiError>>;

/// Lets a guard fail with an error that the catcher then answers in full.
pub(crate) fn refuse<S>(request: &Request<'_>, error: impl Into<ApiError>) -> rocket::request::Outcome<S, ()> {
    rocket::request::Outcome::Error((keep(request, error.into()), ()))
}

/// Keeps the error for the catcher and gives its status.
pub(crate) fn keep(request: &Request<'_>, error: ApiError) -> Status {
    let status = error.status();
    if let Ok(mut kept) = request.local_cache(Refusal::default).lock() {
        *kept = Some(error);
    }
    status
}

/// What a catcher answers: a problem document to programs, a word to a browser that asked for a missing file.
enum Caught {
    Problem(ApiError),
    Plain(Status),
}

impl<'r> Responder<'r, 'static> for Caught {
    fn respond_to(self, request: &'r Request<'_>) -> ResponseResult<'static> {
        match self {
            Self::Problem(error) => error.respond_to(request),
            Self::Plain(status) => (status, (ContentType::Plain, status.reason_lossy())).respond_to(request),
        }
    }
}

/// The methods for which the address of a request is there.
fn methods_of(request: &Request<'_>) -> Vec<&'static str> {
    let parts = |path: &str| path.trim_matches('/').split('/').map(str::to_owned).collect::<Vec<_>>();
    let wanted = parts(request.uri().path().as_str());
    let fits = |route: &&rocket::Route| {
        let known = parts(route.uri.path());
        known.first().is_some_and(|first| first == "api")
            && known.len() == wanted.len()
            && known.iter().zip(&wanted).all(|(known, given)| known.starts_with('<') || known == given)
    };
    let mut methods: Vec<&'static str> =
        request.rocket().routes().filter(fits).map(|route| route.method.as_str()).collect();
    // What can be got can also be asked for its head.
    if methods.contains(&"GET") {
        methods.push("HEAD");
    }
    methods.sort_unstable();
    methods.dedup();
    methods
}

#[catch(default)]
fn any(status: Status, request: &Request<'_>) -> Caught {
    let kept = request.local_cache(Refusal::default).lock().ok().and_then(|mut kept| kept.take());
    let api = request.uri().path().starts_with("/api");
    Caught::Problem(match (kept, status.code) {
        (Some(error), _) => error,
        _ if !api => return Caught::Plain(status),
        (None, 413) => ApiError::TooLarge { limit: MAX_JSON_BYTES },
        (None, 404) => match methods_of(request) {
            allowed if allowed.is_empty() => ApiError::NoRoute,
            allowed => ApiError::NoMethod { allowed },
        },
        (None, 400..=499) => ApiError::NoRequest,
        (None, _) => {
            error!(status = status.code, "a handler failed without an answer");
            AppError::Internal.into()
        }
    })
}

pub(crate) fn catchers() -> Vec<Catcher> {
    catchers![any]
}
