//! Which kind of people somebody is about: a study, a report of prevalence, a patient.

use serde::{Deserialize, Serialize};

/// Where they were examined.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum CareSetting {
    /// General practice, first contact.
    PrimaryCare,
    /// Referred to a specialist clinic.
    SpecialistClinic,
    /// Listed for an operation.
    SurgicalSeries,
    /// Emergency department.
    Emergency,
    /// At work, at a screening.
    Community,
    /// Club, team or sports medicine.
    Sports,
}

impl CareSetting {
    /// Their codes.
    pub const CODES: [&'static str; 6] =
        ["primary_care", "specialist_clinic", "surgical_series", "emergency", "community", "sports"];

    /// The one with this code.
    #[must_use]
    pub fn from_code(code: &str) -> Option<Self> {
        use CareSetting as S;
        let all = [S::PrimaryCare, S::SpecialistClinic, S::SurgicalSeries, S::Emergency, S::Community, S::Sports];
        Self::CODES.iter().position(|known| *known == code).map(|index| all[index])
    }
}

/// How active they are.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Activity {
    /// Everybody.
    General,
    /// Athletes.
    Athletes,
    /// People who work hard with their bodies.
    Workers,
}

impl Activity {
    /// Their codes.
    pub const CODES: [&'static str; 3] = ["general", "athletes", "workers"];

    /// The one with this code.
    #[must_use]
    pub fn from_code(code: &str) -> Option<Self> {
        let all = [Self::General, Self::Athletes, Self::Workers];
        Self::CODES.iter().position(|known| *known == code).map(|index| all[index])
    }
}

/// How long they have had it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Course {
    /// Acute.
    Acute,
    /// Chronic.
    Chronic,
    /// Both.
    Mixed,
}

/// Whether they could guard.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Wakefulness {
    /// Awake.
    Awake,
    /// Under anaesthesia, where muscles do not guard.
    Anaesthetised,
}
