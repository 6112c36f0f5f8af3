//! What the administrator settles for everybody.

use serde::{Deserialize, Serialize};

use super::Role;
use crate::pooling::IntervalChoice;

/// Which results learners see, and which ones the figures that they see rest on.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum LearnersSee {
    /// All results of the sheets that they see.
    #[default]
    AllResults,
    /// Those that a second person has looked at: settled from two extractions, or on record as they stand when somebody else signed the
    /// sheet off; and what came with the installation.
    SignedOff,
}

/// What holds for everybody.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Settings {
    /// Which results learners see.
    pub learners_see: LearnersSee,
    /// The intervals of pooled answers, where a pool asks for no others.
    #[serde(default)]
    pub interval: IntervalChoice,
    /// Who signs in with a second step: people in these roles set one up before anything else.
    #[serde(default)]
    pub second_step: Vec<Role>,
}

impl Settings {
    /// Whether every figure is the same where the others hold.
    #[must_use]
    pub fn same_figures(&self, others: &Self) -> bool {
        (self.learners_see, self.interval) == (others.learners_see, others.interval)
    }
}
