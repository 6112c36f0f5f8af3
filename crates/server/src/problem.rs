//! Errors as RFC 9457 problem documents: one exhaustive map from error to answer.

use std::io::Cursor;

use pruvex_core::FieldError;
use pruvex_core::people::Right;
use pruvex_store::StoreError;
use rocket::http::{ContentType, Status};
use rocket::response::{Responder, Response, Result as ResponseResult};
use rocket::serde::Serialize;
use rocket::{Catcher, Request, catch, catchers};
use tracing::{error, warn};
use utoipa::ToSchema;
use uuid::Uuid;

use crate::fairings::request_id;

/// Everything the API can answer instead of what was asked for.
#[derive(Debug)]
pub(crate) enum ApiError {
    /// The body's fields break rules.
    Fields(Vec<FieldError>),
    /// The query's fields do.
    Query(Vec<FieldError>),
    /// No such record.
    NotFound { what: &'static str, id: String },
    /// No such address.
    NoRoute,
    /// Somebody else saved first.
    Conflict { what: &'static str, current: i32 },
    /// Nobody is signed in.
    NotSignedIn,
    /// Somebody is who may not do this.
    NotAllowed { right: Right },
    /// Another site sent this in the user's name.
    CrossSite,
    /// A login or password that is wrong; which of them is not told.
    SignInFailed,
    /// Too many of those.
    TooManyAttempts,
    /// An invitation that was used, taken back, or is too old.
    InvitationGone,
    /// A change without `If-Match`.
    IfMatchMissing,
    /// An `If-Match` that is no version.
    IfMatchInvalid { given: String },
    /// A body that is no JSON, or not of the expected shape.
    Malformed { path: String, message: String },
    /// A body beyond the limit.
    TooLarge { limit: u64 },
    /// A body that is not declared as JSON.
    NotJson,
    /// Another import of the same person is under way.
    ImportRunning,
    /// The same person asked for another computation instead.
    Superseded,
    /// No registry of works is set up.
    NoRegistry,
    /// The registry does not answer, or not as it should.
    RegistryFailed,
    /// The registry knows no such work.
    WorkUnknown,
    /// The database is away.
    DatabaseUnavailable,
    /// Our fault; details are in the log only.
    Internal,
}

impl From<StoreError> for ApiError {
    fn from(cause: StoreError) -> Self {
        match cause {
            StoreError::NotFound { what, id } => Self::not_found(what, id),
            StoreError::Conflict { what, current } => Self::Conflict { what, current },
            StoreError::Fields(errors) => Self::Fields(errors),
            StoreError::Unavailable(cause) => {
                warn!(%cause, "database not reachable");
                Self::DatabaseUnavailable
            }
            StoreError::Damaged { .. } | StoreError::Unexpected(_) => {
                error!(%cause, "request failed");
                Self::Internal
            }
        }
    }
}

impl ApiError {
    pub fn not_found(what: &'static str, id: Uuid) -> Self {
        Self::NotFound { what, id: id.to_string() }
    }

    /// What went wrong and what to do, for a reader who asked some time ago.
    pub fn told(&self) -> String {
        let (what, more) = self.words();
        format!("{what}. {more}")
    }

    fn status(&self) -> Status {
        match self {
            Self::Fields(_) => Status::UnprocessableEntity,
            Self::Query(_) | Self::IfMatchInvalid { .. } | Self::Malformed { .. } => Status::BadRequest,
            Self::NotFound { .. } | Self::NoRoute | Self::WorkUnknown => Status::NotFound,
            Self::Conflict { .. } => Status::PreconditionFailed,
            Self::NotSignedIn | Self::SignInFailed => Status::Unauthorized,
            Self::NotAllowed { .. } | Self::CrossSite => Status::Forbidden,
            Self::TooManyAttempts => Status::TooManyRequests,
            Self::InvitationGone => Status::Gone,
            Self::IfMatchMissing => Status::PreconditionRequired,
            Self::TooLarge { .. } => Status::PayloadTooLarge,
            Self::NotJson => Status::UnsupportedMediaType,
            Self::ImportRunning | Self::Superseded => Status::Conflict,
            Self::RegistryFailed => Status::BadGateway,
            Self::DatabaseUnavailable | Self::NoRegistry => Status::ServiceUnavailable,
            Self::Internal => Status::InternalServerError,
        }
    }

    fn code(&self) -> &'static str {
        match self {
            Self::Fields(_) => "fields_invalid",
            Self::Query(_) => "query_invalid",
            Self::NotFound { .. } => "not_found",
            Self::NoRoute => "no_such_address",
            Self::Conflict { .. } => "changed_meanwhile",
            Self::NotSignedIn => "not_signed_in",
            Self::NotAllowed { .. } => "not_allowed",
            Self::CrossSite => "cross_site",
            Self::SignInFailed => "sign_in_failed",
            Self::TooManyAttempts => "too_many_attempts",
            Self::InvitationGone => "invitation_gone",
            Self::IfMatchMissing => "if_match_missing",
            Self::IfMatchInvalid { .. } => "if_match_invalid",
            Self::Malformed { .. } => "body_malformed",
            Self::TooLarge { .. } => "body_too_large",
            Self::NotJson => "body_not_json",
            Self::ImportRunning => "import_running",
            Self::Superseded => "superseded",
            Self::NoRegistry => "no_registry",
            Self::RegistryFailed => "registry_failed",
            Self::WorkUnknown => "work_unknown",
            Self::DatabaseUnavailable => "database_unavailable",
            Self::Internal => "internal",
        }
    }

    fn words(&self) -> (&'static str, String) {
        match self {
            Self::Fields(errors) | Self::Query(errors) => {
                let detail = errors.iter().map(ToString::to_string).collect::<Vec<_>>().join(" ");
                ("Some fields need attention", detail)
            }
            Self::NotFound { what, id } => ("Not found", format!("There is no {what} {id}, or it was deleted.")),
            Self::NoRoute => ("Not found", "The API has no such address, or not with this method.".to_owned()),
            Self::Conflict { what, current } => (
                "Somebody else saved first",
                format!("This {what} is at version {current} by now. Nothing was changed; load it and compare."),
            ),
            Self::NotSignedIn => ("Not signed in", "Sign in and send it again. Nothing was changed.".to_owned()),
            Self::NotAllowed { right } => {
                let what = match right {
                    Right::Read => "read here",
                    Right::ReadDrafts => "see drafts and histories",
                    Right::SignOff => "sign sheets off",
                    Right::WriteSheets => "write sheets",
                    Right::WriteStudies => "enter or change studies",
                    Right::ManageAccounts => "keep the accounts",
                };
                ("Not allowed", format!("Your role does not let you {what}. Ask an administrator if it should."))
            }
            Self::CrossSite => (
                "Sent by another site",
                "Changes are accepted from this site's own pages only. Nothing was changed.".to_owned(),
            ),
            Self::SignInFailed => ("Name or password is wrong", "Check both and try again.".to_owned()),
            Self::TooManyAttempts => (
                "Too many failed attempts",
                "Wait a quarter of an hour, or ask an administrator for a new invitation.".to_owned(),
            ),
            Self::InvitationGone => (
                "This invitation is no longer open",
                "It was used, taken back, or is older than seven days. Ask an administrator for a new one.".to_owned(),
            ),
            Self::IfMatchMissing => (
                "Version missing",
                "Send If-Match with the ETag you read, so that nobody's changes are overwritten.".to_owned(),
            ),
            Self::IfMatchInvalid { given } => {
                ("Version not understood", format!("If-Match {given:?} is no ETag of this API, such as \"3\"."))
            }
            Self::Malformed { path, message } => {
                let place = if path.is_empty() || path == "." { String::new() } else { format!("At {path}: ") };
                ("Body not understood", format!("{place}{message}. Nothing was changed."))
            }
            Self::TooLarge { limit } => {
                ("Body too large", format!("At most {limit} bytes are accepted. Shorten the texts and send it again."))
            }
            Self::NotJson => ("Not JSON", "Send the body as application/json.".to_owned()),
            Self::Superseded => {
                ("Another choice of yours is computed instead", "Ask again once that is done.".to_owned())
            }
            Self::ImportRunning => (
                "An import of yours is under way",
                "Wait for its end, or stop it. Nothing was changed by this one.".to_owned(),
            ),
            Self::NoRegistry => (
                "No registry is set up",
                "Works cannot be looked up here. Type the reference in, or ask whoever runs the server.".to_owned(),
            ),
            Self::RegistryFailed => (
                "The registry does not answer",
                "It took too long, or answered something else. Try again, or type the reference in.".to_owned(),
            ),
            Self::WorkUnknown => (
                "The registry knows no such work",
                "Check the identifier's signs one by one, or type the reference in.".to_owned(),
            ),
            Self::DatabaseUnavailable => (
                "The database does not answer",
                "Nothing was changed. This usually passes; try again in a moment.".to_owned(),
            ),
            Self::Internal => {
                ("Something went wrong on our side", "Nothing was changed. The log holds the details.".to_owned())
            }
        }
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
        let conflict = if let Self::Conflict { what, current } = &self { Some((*what, *current)) } else { None };
        let (status, code) = (self.status(), self.code());
        let errors = if let Self::Fields(errors) | Self::Query(errors) = self { errors } else { Vec::new() };
        let problem = Problem {
            r#type: format!("urn:pruvex:problem:{code}"),
            title: title.to_owned(),
            status: status.code,
            detail,
            code: code.to_owned(),
            request_id: request_id(request),
            errors,
            current_version: conflict.map(|(_, current)| current),
            changed: conflict.map(|(what, _)| what.to_owned()),
        };
        let body = serde_json::to_string(&problem).map_err(|_| Status::InternalServerError)?;
        Response::build()
            .status(status)
            .header(ContentType::new("application", "problem+json"))
            .sized_body(body.len(), Cursor::new(body))
            .ok()
    }
}

type Refusal = std::sync::Mutex<Option<ApiError>>;

/// Lets a guard fail with an error that the catcher then answers in full.
pub(crate) fn refuse<S>(request: &Request<'_>, error: ApiError) -> rocket::request::Outcome<S, ()> {
    rocket::request::Outcome::Error((keep(request, error), ()))
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

#[catch(default)]
fn any(status: Status, request: &Request<'_>) -> Caught {
    let kept = request.local_cache(Refusal::default).lock().ok().and_then(|mut kept| kept.take());
    let api = request.uri().path().starts_with("/api");
    Caught::Problem(match (kept, status.code) {
        (Some(error), _) => error,
        _ if !api => return Caught::Plain(status),
        (None, 413) => ApiError::TooLarge { limit: crate::body::MAX_JSON_BYTES },
        (None, 404) => ApiError::NoRoute,
        (None, 400..=499) => ApiError::Malformed { path: String::new(), message: status.to_string() },
        (None, _) => {
            error!(status = status.code, "a handler failed without an answer");
            ApiError::Internal
        }
    })
}

pub(crate) fn catchers() -> Vec<Catcher> {
    catchers![any]
}
