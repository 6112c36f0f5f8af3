//! What is done for a patient, from which probability on.

use serde::{Deserialize, Serialize};

use crate::Probability;

/// What is done for a patient.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum PlanAction {
    /// Reassured: nothing more is done.
    Reassure,
    /// Examined again later.
    RepeatLater,
    /// Sent to imaging.
    Image,
    /// Referred.
    Refer,
    /// Treated.
    Treat,
}

/// What is done from a probability between the two thresholds on, as a person or a file wrote it.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ActionBandInput {
    /// What is done.
    pub action: Option<PlanAction>,
    /// From this probability on, up to the next action.
    pub from: Option<f64>,
}

/// What is done from a probability between the two thresholds on.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ActionBand {
    /// What is done.
    pub action: PlanAction,
    /// From this probability on, up to the next action.
    pub from: Probability,
}

/// For how many patients something is done.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ActionShare {
    /// What is done; none where it is not decided.
    pub action: Option<PlanAction>,
    /// For how many of the patients.
    pub share: Probability,
}

impl Default for PlanAction {
    /// What is done above the upper threshold unless a plan says otherwise.
    fn default() -> Self {
        Self::Treat
    }
}
