//! The way of a sheet from a draft to what learners see, and who may take which step.

use serde::{Deserialize, Serialize};

use crate::people::{Right, Role};

/// Where a sheet stands. A sheet that was published once stays visible to learners, as it was signed off, until it is archived;
/// what is written since waits for the next sign-off.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Status {
    /// Being written.
    Draft,
    /// Waits for the second reader.
    InReview,
    /// Signed off as it stands.
    Published,
    /// No longer taught; kept, and shown to learners no more.
    Retired,
}

/// A step from one status to another.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Step {
    /// Hand a draft to the second reader.
    Submit,
    /// Take it back.
    Withdraw,
    /// Sign it off: learners see it as it stands.
    SignOff,
    /// Send it back to its author.
    SendBack,
    /// Teach it no longer.
    Retire,
    /// Take a retired sheet up again, as a draft.
    Revive,
}

impl Step {
    /// All steps.
    pub const ALL: [Self; 6] =
        [Self::Submit, Self::Withdraw, Self::SignOff, Self::SendBack, Self::Retire, Self::Revive];

    /// The right that it takes.
    #[must_use]
    pub fn right(self) -> Right {
        match self {
            Self::SignOff | Self::SendBack => Right::SignOff,
            Self::Submit | Self::Withdraw | Self::Retire | Self::Revive => Right::WriteSheets,
        }
    }

    /// Stable code, as in the API and the database.
    #[must_use]
    pub fn code(self) -> &'static str {
        match self {
            Self::Submit => "submit",
            Self::Withdraw => "withdraw",
            Self::SignOff => "sign_off",
            Self::SendBack => "send_back",
            Self::Retire => "retire",
            Self::Revive => "revive",
        }
    }
}

impl Status {
    /// All, in the order of the way.
    pub const ALL: [Self; 4] = [Self::Draft, Self::InReview, Self::Published, Self::Retired];

    /// Where a step leads; `None` when it cannot be taken from here.
    #[must_use]
    pub fn after(self, step: Step) -> Option<Self> {
        match (self, step) {
            // A published sheet is handed in again as it stands when results have come since.
            (Self::Draft | Self::Published, Step::Submit) => Some(Self::InReview),
            (Self::InReview, Step::Withdraw | Step::SendBack) | (Self::Retired, Step::Revive) => Some(Self::Draft),
            (Self::InReview, Step::SignOff) => Some(Self::Published),
            (Self::Draft | Self::InReview | Self::Published, Step::Retire) => Some(Self::Retired),
            _ => None,
        }
    }

    /// Where a change of the text leads: whatever was signed off or handed in was another text.
    #[must_use]
    pub fn after_edit(self) -> Self {
        Self::Draft
    }

    /// The steps that somebody in a role can take from here.
    #[must_use]
    pub fn steps(self, role: Role) -> Vec<Step> {
        Step::ALL.into_iter().filter(|step| self.after(*step).is_some() && role.may(step.right())).collect()
    }

    /// Stable code.
    #[must_use]
    pub fn code(self) -> &'static str {
        match self {
            Self::Draft => "draft",
            Self::InReview => "in_review",
            Self::Published => "published",
            Self::Retired => "retired",
        }
    }

    /// The status of a code.
    #[must_use]
    pub fn from_code(code: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|status| status.code() == code)
    }
}
