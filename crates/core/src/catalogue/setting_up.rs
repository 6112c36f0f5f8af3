//! What comes before the first step: consent and explanation, sides and support, what is measured with and from where.

use serde::{Deserialize, Serialize};

use super::anatomy::Joint;
use super::limits::{MAX_ITEMS, MAX_NAME, MAX_TEXT};
use crate::field::{Checker, Part, parts};

/// What happens before the examiner touches the patient.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Preparation {
    /// Hands are cleaned first.
    pub hand_hygiene: bool,
    /// How permission is asked.
    pub permission: String,
    /// What the patient will feel.
    pub sensation: String,
    /// A question that does not suggest its answer.
    pub question: String,
}

/// Which sides take part, and how the patient is kept from falling.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Stance {
    /// Whether both sides are tested, and how.
    pub sides: Option<SidesTested>,
    /// The side that is moved.
    pub moved: Option<TestedSide>,
    /// The side at which the finding is read.
    pub read: Option<TestedSide>,
    /// The patient stands on one leg.
    pub one_leg: bool,
    /// What keeps the patient from falling.
    pub fall_support: String,
}

/// Whether both sides are tested.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[allow(missing_docs, reason = "the words say it")]
pub enum SidesTested {
    OneSide,
    BothAtOnce,
    OneAfterTheOther,
}

/// A side, seen from the one that is tested.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[allow(missing_docs, reason = "the words say it")]
pub enum TestedSide {
    Tested,
    Other,
    Both,
}

/// A joint that only passes the force on; pain or give there spoils the test.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct RelayJoint {
    /// Joint.
    pub joint: Option<Joint>,
    /// How to make sure that it is sound.
    pub check: String,
}

/// How something is measured.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Measuring {
    /// Where the axis of the goniometer lies.
    pub axis: String,
    /// Along what its fixed arm lies.
    pub fixed_arm: String,
    /// Along what its moving arm lies.
    pub moving_arm: String,
    /// Landmarks, palpated or marked.
    pub landmarks: String,
    /// Where a distance or a trace begins.
    pub start: String,
    /// Force that is applied, newtons.
    pub force: Option<f64>,
    /// What must be set the same at the retest.
    pub setup: Vec<SetupValue>,
}

/// Something that is set before measuring, such as the height of the couch or the angle of the other leg.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct SetupValue {
    /// What is set.
    pub name: String,
    /// To which value.
    pub value: Option<f64>,
    /// Its unit.
    pub unit: String,
}

impl Part for Preparation {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        Self {
            hand_hygiene: self.hand_hygiene,
            permission: c.text(&format!("{at}.permission"), &self.permission, MAX_TEXT),
            sensation: c.text(&format!("{at}.sensation"), &self.sensation, MAX_TEXT),
            question: c.text(&format!("{at}.question"), &self.question, MAX_TEXT),
        }
    }

    fn is_blank(&self) -> bool {
        *self == Self::default()
    }
}

impl Part for Stance {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        Self { fall_support: c.text(&format!("{at}.fall_support"), &self.fall_support, MAX_TEXT), ..self.clone() }
    }

    fn is_blank(&self) -> bool {
        *self == Self::default()
    }
}

impl Part for RelayJoint {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        Self {
            joint: c.present(&format!("{at}.joint"), self.joint, "Choose the joint that passes the force on."),
            check: c.required(&format!("{at}.check"), &self.check, MAX_TEXT, "Say how to make sure that it is sound."),
        }
    }

    fn is_blank(&self) -> bool {
        self.joint.is_none() && self.check.trim().is_empty()
    }
}

/// No muscle of a person pushes harder than this, newtons.
const MAX_FORCE: f64 = 5_000.0;

impl Part for Measuring {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let field = |name: &str| format!("{at}.{name}");
        Self {
            axis: c.text(&field("axis"), &self.axis, MAX_TEXT),
            fixed_arm: c.text(&field("fixed_arm"), &self.fixed_arm, MAX_TEXT),
            moving_arm: c.text(&field("moving_arm"), &self.moving_arm, MAX_TEXT),
            landmarks: c.text(&field("landmarks"), &self.landmarks, MAX_TEXT),
            start: c.text(&field("start"), &self.start, MAX_TEXT),
            force: c.number(&field("force"), self.force, (0.0, MAX_FORCE), "newtons"),
            setup: parts(c, &field("setup"), &self.setup, MAX_ITEMS),
        }
    }

    fn is_blank(&self) -> bool {
        *self == Self::default()
    }
}

impl Part for SetupValue {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        Self {
            name: c.required(&format!("{at}.name"), &self.name, MAX_NAME, "Say what is set."),
            value: c.number(&format!("{at}.value"), self.value, (-1e6, 1e6), ""),
            unit: c.text(&format!("{at}.unit"), &self.unit, 30),
        }
    }

    fn is_blank(&self) -> bool {
        self.name.trim().is_empty() && self.value.is_none()
    }
}
