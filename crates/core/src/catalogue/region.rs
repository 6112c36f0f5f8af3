//! Body regions, head to foot.

use serde::{Deserialize, Serialize};

/// A region of the body. The order is the order of the body rail.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Region {
    /// Neck.
    Neck,
    /// Shoulder.
    Shoulder,
    /// Elbow.
    Elbow,
    /// Wrist and hand.
    HandWrist,
    /// Trunk and low back.
    TrunkBack,
    /// Pelvis.
    Pelvis,
    /// Hip.
    Hip,
    /// Knee.
    Knee,
    /// Ankle and foot.
    AnkleFoot,
}

impl Region {
    /// Head to foot.
    pub const ALL: [Self; 9] = [
        Self::Neck,
        Self::Shoulder,
        Self::Elbow,
        Self::HandWrist,
        Self::TrunkBack,
        Self::Pelvis,
        Self::Hip,
        Self::Knee,
        Self::AnkleFoot,
    ];

    /// The stable code, the same in the database, the API, bundles and addresses.
    #[must_use]
    pub fn code(self) -> &'static str {
        match self {
            Self::Neck => "neck",
            Self::Shoulder => "shoulder",
            Self::Elbow => "elbow",
            Self::HandWrist => "hand_wrist",
            Self::TrunkBack => "trunk_back",
            Self::Pelvis => "pelvis",
            Self::Hip => "hip",
            Self::Knee => "knee",
            Self::AnkleFoot => "ankle_foot",
        }
    }

    /// The region with that code.
    #[must_use]
    pub fn from_code(code: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|region| region.code() == code)
    }
}
