//! Roles, and the rights that routes and screens ask for. One table decides; nothing else compares roles.

use serde::{Deserialize, Serialize};

/// What somebody is here.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Role {
    /// Keeps the accounts; may also write, since a small place has one person for both.
    Administrator,
    /// Writes sheets and enters studies.
    Author,
    /// Reads studies a second time, enters and settles them, and signs sheets off.
    SecondReader,
    /// Reads.
    Learner,
}

/// What a request needs.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Right {
    /// Read the catalogue and its answers.
    Read,
    /// Read what is not published yet, and every history.
    ReadDrafts,
    /// Write sheets.
    WriteSheets,
    /// Enter, correct and delete studies.
    WriteStudies,
    /// Sign sheets off, or send them back.
    SignOff,
    /// Invite people, change roles, end access.
    ManageAccounts,
}

impl Role {
    /// All roles, the one with the most rights first.
    pub const ALL: [Self; 4] = [Self::Administrator, Self::Author, Self::SecondReader, Self::Learner];

    /// Whether the role has a right.
    #[must_use]
    pub fn may(self, right: Right) -> bool {
        match right {
            Right::Read => true,
            Right::ReadDrafts => self != Self::Learner,
            Right::SignOff => self == Self::SecondReader,
            Right::WriteSheets => matches!(self, Self::Administrator | Self::Author),
            Right::WriteStudies => matches!(self, Self::Administrator | Self::Author | Self::SecondReader),
            Right::ManageAccounts => self == Self::Administrator,
        }
    }

    /// The role's rights, in the order of [`Right`].
    #[must_use]
    pub fn rights(self) -> Vec<Right> {
        let all = [
            Right::Read,
            Right::ReadDrafts,
            Right::WriteSheets,
            Right::WriteStudies,
            Right::SignOff,
            Right::ManageAccounts,
        ];
        all.into_iter().filter(|right| self.may(*right)).collect()
    }

    /// Stable code, as in the API and the database.
    #[must_use]
    pub fn code(self) -> &'static str {
        match self {
            Self::Administrator => "administrator",
            Self::Author => "author",
            Self::SecondReader => "second_reader",
            Self::Learner => "learner",
        }
    }

    /// The role of a code.
    #[must_use]
    pub fn from_code(code: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|role| role.code() == code)
    }
}
