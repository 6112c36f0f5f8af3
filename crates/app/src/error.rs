//! What can be answered instead of what was asked for.

use std::time::Duration;

use pruvex_core::people::Right;
use pruvex_core::{FieldError, FieldErrorCode};
use pruvex_store::StoreError;
use tracing::{error, warn};
use uuid::Uuid;

/// Why a use case did not do what was asked; nothing was changed then.
#[derive(Debug)]
pub enum AppError {
    /// Fields of what was handed in break rules.
    Fields(Vec<FieldError>),
    /// Fields of what was asked for do: a filter, an order, an address.
    Asked(Vec<FieldError>),
    /// No such record.
    NotFound {
        /// What kind of record.
        what: &'static str,
        /// Which.
        id: String,
    },
    /// Somebody else saved first.
    Conflict {
        /// What kind of record.
        what: &'static str,
        /// The version saved meanwhile.
        current: i32,
    },
    /// Nobody is signed in.
    NotSignedIn,
    /// Somebody is who may not do this.
    NotAllowed {
        /// What they lack.
        right: Right,
    },
    /// A login or password that is wrong; which of them is not told.
    SignInFailed,
    /// The password is right, and a code of the second step is asked for.
    CodeNeeded,
    /// A code of the second step that is wrong, too old, or used.
    CodeWrong,
    /// The role signs in with a second step, which is not set up yet.
    SecondStepMissing,
    /// Too many of those.
    TooManyAttempts {
        /// For how long no other one is looked at.
        wait: Duration,
    },
    /// Too much is asked for at once.
    Busy,
    /// An invitation that was used, taken back, or is too old.
    InvitationGone,
    /// A link to a new password that was used, replaced, or is too old.
    ResetGone,
    /// This is no demonstration, or whoever asks is not at this machine.
    NoDemonstration,
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
    /// No database can be at the address that was set up.
    DatabaseUrl(String),
    /// Our fault; details are in the log only.
    Internal,
}

impl From<StoreError> for AppError {
    fn from(cause: StoreError) -> Self {
        match cause {
            StoreError::NotFound { what, id } => Self::not_found(what, id),
            StoreError::Conflict { what, current } => Self::Conflict { what, current },
            StoreError::Fields(errors) => Self::Fields(errors),
            StoreError::Busy => Self::Busy,
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

impl AppError {
    /// No record of this kind has this id.
    pub fn not_found(what: &'static str, id: impl Into<Uuid>) -> Self {
        Self::NotFound { what, id: id.into().to_string() }
    }

    /// One field of what was handed in breaks a rule.
    pub(crate) fn field(
        field: impl Into<String>,
        code: FieldErrorCode,
        value: impl ToString,
        message: impl Into<String>,
        remedy: impl Into<String>,
    ) -> Self {
        Self::Fields(vec![FieldError::new(field, code, value, message, remedy)])
    }

    /// Something that cannot fail did; the log says what.
    pub(crate) fn internal(cause: impl std::fmt::Display) -> Self {
        error!(%cause, "request failed");
        Self::Internal
    }

    /// The kind, for programs.
    #[must_use]
    pub fn code(&self) -> &'static str {
        match self {
            Self::Fields(_) => "fields_invalid",
            Self::Asked(_) => "query_invalid",
            Self::NotFound { .. } => "not_found",
            Self::Conflict { .. } => "changed_meanwhile",
            Self::NotSignedIn => "not_signed_in",
            Self::NotAllowed { .. } => "not_allowed",
            Self::SignInFailed => "sign_in_failed",
            Self::CodeNeeded => "code_needed",
            Self::CodeWrong => "code_wrong",
            Self::SecondStepMissing => "second_step_missing",
            Self::TooManyAttempts { .. } => "too_many_attempts",
            Self::Busy => "busy",
            Self::InvitationGone => "invitation_gone",
            Self::ResetGone => "reset_gone",
            Self::NoDemonstration => "no_such_address",
            Self::ImportRunning => "import_running",
            Self::Superseded => "superseded",
            Self::NoRegistry => "no_registry",
            Self::RegistryFailed => "registry_failed",
            Self::WorkUnknown => "work_unknown",
            Self::DatabaseUnavailable => "database_unavailable",
            Self::DatabaseUrl(_) => "database_url",
            Self::Internal => "internal",
        }
    }

    /// After how many seconds it is worth asking again, where that is known.
    #[must_use]
    pub fn retry_after(&self) -> Option<u64> {
        match self {
            Self::TooManyAttempts { wait } => Some(wait.as_secs() + 1),
            Self::Busy | Self::DatabaseUnavailable => Some(5),
            _ => None,
        }
    }

    /// The kind in a few words, and what happened and what to do.
    #[must_use]
    pub fn words(&self) -> (&'static str, String) {
        match self {
            Self::Fields(errors) | Self::Asked(errors) => ("Some fields need attention", in_words(errors)),
            Self::NotFound { what, id } => ("Not found", format!("There is no {what} {id}, or it was deleted.")),
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
            Self::SignInFailed => ("Name or password is wrong", "Check both and try again.".to_owned()),
            Self::CodeNeeded => (
                "A code is needed",
                "Type the six digits that your authenticator app shows now, or a recovery code.".to_owned(),
            ),
            Self::CodeWrong => (
                "The code is wrong",
                "It may have expired, or was used already. Wait for the next one and type it; the clock of your device must be right."
                    .to_owned(),
            ),
            Self::SecondStepMissing => (
                "Two-step sign-in is not set up",
                "Your role requires it. Set it up first. Nothing was changed.".to_owned(),
            ),
            Self::TooManyAttempts { wait } => {
                let minutes = match wait.as_secs().div_ceil(60) {
                    1 => "a minute".to_owned(),
                    minutes => format!("{minutes} minutes"),
                };
                (
                    "Too many failed attempts",
                    format!("Try again in {minutes}, or ask an administrator for a link to set a new password."),
                )
            }
            Self::Busy => (
                "Too much at once",
                "Others are being served first. Nothing was changed; try again in a few seconds.".to_owned(),
            ),
            Self::InvitationGone => (
                "This invitation is no longer open",
                "It was used, cancelled, or is older than seven days. Ask an administrator for a new one.".to_owned(),
            ),
            Self::ResetGone => (
                "This link no longer works",
                "It was used, replaced by a newer one, or is older than a day. Ask an administrator for a new one."
                    .to_owned(),
            ),
            Self::NoDemonstration => ("Not found", "There is no demonstration to enter here.".to_owned()),
            Self::Superseded => {
                ("Another choice of yours is computed instead", "Ask again once that is done.".to_owned())
            }
            Self::ImportRunning => (
                "An import of yours is under way",
                "Wait for its end, or stop it. Nothing was changed by this one.".to_owned(),
            ),
            Self::NoRegistry => (
                "No registry is set up",
                "Looking up works is switched off here. Type the reference, or ask the administrator of the server."
                    .to_owned(),
            ),
            Self::RegistryFailed => (
                "The registry does not answer",
                "It took too long, or answered something else. Try again, or type the reference in.".to_owned(),
            ),
            Self::WorkUnknown => (
                "The registry knows no such work",
                "Check the identifier character by character, or type the reference in.".to_owned(),
            ),
            Self::DatabaseUnavailable => (
                "The database does not answer",
                "Nothing was changed. This usually passes; try again in a moment.".to_owned(),
            ),
            Self::DatabaseUrl(cause) => ("The database's URL cannot be used", format!("{cause}.")),
            Self::Internal => {
                ("Something went wrong on our side", "Nothing was changed. The log holds the details.".to_owned())
            }
        }
    }
}

/// So many faults are said in words; all of them stand beside them, field by field.
pub const IN_WORDS: usize = 12;

/// Faults as a text: the first of them, and how many more there are.
#[must_use]
pub fn in_words(faults: &[FieldError]) -> String {
    let mut words: Vec<String> = faults.iter().take(IN_WORDS).map(ToString::to_string).collect();
    match faults.len().saturating_sub(IN_WORDS) {
        0 => {}
        more => words.push(format!("And {more} more.")),
    }
    words.join(" ")
}

/// What went wrong and what to do, as one sentence after the other.
impl std::fmt::Display for AppError {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let (what, more) = self.words();
        write!(f, "{what}. {more}")
    }
}

impl std::error::Error for AppError {}
