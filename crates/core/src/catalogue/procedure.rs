//! How a test is done: variants, positions, joint ranges, phases and targets; steps, contacts and findings have files of their own.

use serde::{Deserialize, Serialize};

use super::anatomy::{Joint, Motion};
use super::contact::{Contact, Equipment, check_contacts};
use super::finding::{Criterion, Grading, Inability, check_inability};
use super::limits::{DEGREES, MAX_ITEMS, MAX_NAME, MAX_TEXT};
use super::setting_up::{Measuring, Preparation, RelayJoint, Stance};
use super::step::ProcedureStep;
use crate::field::{Checker, Part, parts};

/// One way of doing a test. The first of a sheet is the taught baseline; the others say how they differ from it.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Variant {
    /// Name, unique within the sheet.
    pub name: String,
    /// Where it comes from: a school, a group, a textbook.
    pub origin: String,
    /// How it differs from the baseline.
    pub difference: String,
    /// What the difference does: more sensitive, more irritating, another structure.
    pub effect: String,
    /// How the patient is placed, in one word.
    pub position: Option<Position>,
    /// How the patient is placed, in full.
    pub patient_position: String,
    /// Where the examiner stands or sits, and on which side.
    pub examiner_position: String,
    /// Which sides take part, and how the patient is kept from falling.
    pub stance: Stance,
    /// What touches the patient and what it does there, and what must not touch.
    pub contacts: Vec<Contact>,
    /// Joint positions and the ranges the test works in.
    pub joints: Vec<JointRange>,
    /// What is needed beside a couch and two hands.
    pub equipment: Vec<Equipment>,
    /// Joints that only pass the force on and must be sound.
    pub relays: Vec<RelayJoint>,
    /// How something is measured.
    pub measuring: Measuring,
    /// Where to look from.
    pub viewpoint: String,
    /// What happens before the first touch.
    pub preparation: Preparation,
    /// What to say to the patient.
    pub patient_script: String,
    /// What to show first.
    pub demonstration: String,
    /// Parts of a test that has several, each with its own finding.
    pub phases: Vec<Phase>,
    /// What is done, in order.
    pub steps: Vec<ProcedureStep>,
    /// Structures that it loads, and how.
    pub targets: Vec<Target>,
    /// What counts as positive, equivocal, negative, and as no result at all.
    pub criteria: Vec<Criterion>,
    /// A finding of more than two levels.
    pub grading: Grading,
    /// What it means when the patient cannot do it.
    pub inability: Vec<Inability>,
}

/// How the patient is placed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[allow(missing_docs, reason = "the words say it")]
pub enum Position {
    Sitting,
    Standing,
    LyingFaceUp,
    LyingFaceDown,
    SideLying,
    Kneeling,
    Squatting,
    Walking,
}

impl Position {
    /// All.
    pub const ALL: [Self; 8] = [
        Self::Sitting,
        Self::Standing,
        Self::LyingFaceUp,
        Self::LyingFaceDown,
        Self::SideLying,
        Self::Kneeling,
        Self::Squatting,
        Self::Walking,
    ];

    /// Stable code, as in the API and the database.
    #[must_use]
    pub fn code(self) -> &'static str {
        match self {
            Self::Sitting => "sitting",
            Self::Standing => "standing",
            Self::LyingFaceUp => "lying_face_up",
            Self::LyingFaceDown => "lying_face_down",
            Self::SideLying => "side_lying",
            Self::Kneeling => "kneeling",
            Self::Squatting => "squatting",
            Self::Walking => "walking",
        }
    }

    /// The position of a code.
    #[must_use]
    pub fn from_code(code: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|position| position.code() == code)
    }
}

/// A joint, a motion, and the range in degrees in which the test works.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct JointRange {
    /// Joint.
    pub joint: Option<Joint>,
    /// Motion in which the degrees are counted.
    pub motion: Option<Motion>,
    /// Smallest angle, degrees.
    pub from: Option<f64>,
    /// Largest angle, degrees.
    pub to: Option<f64>,
    /// The angle is found anew in each patient, within this range if one is given.
    pub individual: bool,
}

/// A part of a test with a finding of its own.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Phase {
    /// Name, unique within the variant.
    pub name: String,
    /// What is found in it.
    pub finding: String,
}

/// A structure that a variant loads.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Target {
    /// Name of the structure.
    pub structure: String,
    /// What happens to it.
    pub role: Option<LoadRole>,
    /// Name of the phase; empty when it holds throughout.
    pub phase: String,
    /// Name of the condition of the sheet that it is about; empty for all of them.
    pub condition: String,
}

/// What happens to a structure under test.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum LoadRole {
    /// Loaded in tension.
    Tension,
    /// Compressed.
    Compressed,
    /// A muscle that contracts.
    Contracted,
    /// A muscle that is lengthened.
    Lengthened,
    /// Palpated.
    Palpated,
    /// A nerve that is put under tension.
    NeuralTension,
}

impl LoadRole {
    const CODES: [(Self, &'static str); 6] = [
        (Self::Tension, "tension"),
        (Self::Compressed, "compressed"),
        (Self::Contracted, "contracted"),
        (Self::Lengthened, "lengthened"),
        (Self::Palpated, "palpated"),
        (Self::NeuralTension, "neural_tension"),
    ];

    /// Stable code, as in the API and the database.
    #[must_use]
    pub fn code(self) -> &'static str {
        Self::CODES.iter().find(|(role, _)| *role == self).map_or("", |(_, code)| code)
    }

    /// The role of a code.
    #[must_use]
    pub fn from_code(code: &str) -> Option<Self> {
        Self::CODES.iter().find(|(_, known)| *known == code).map(|(role, _)| *role)
    }
}

impl Part for Variant {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let field = |name: &str| format!("{at}.{name}");
        check_contacts(c, &field("contacts"), &self.contacts);
        check_inability(c, &field("inability"), &self.inability);
        Self {
            name: c.required(&field("name"), &self.name, MAX_NAME, "Name this way of doing the test."),
            origin: c.text(&field("origin"), &self.origin, MAX_TEXT),
            difference: c.text(&field("difference"), &self.difference, MAX_TEXT),
            effect: c.text(&field("effect"), &self.effect, MAX_TEXT),
            position: self.position,
            patient_position: c.text(&field("patient_position"), &self.patient_position, MAX_TEXT),
            examiner_position: c.text(&field("examiner_position"), &self.examiner_position, MAX_TEXT),
            stance: self.stance.checked(c, &field("stance")),
            contacts: parts(c, &field("contacts"), &self.contacts, MAX_ITEMS),
            joints: parts(c, &field("joints"), &self.joints, MAX_ITEMS),
            equipment: parts(c, &field("equipment"), &self.equipment, MAX_ITEMS),
            relays: parts(c, &field("relays"), &self.relays, MAX_ITEMS),
            measuring: self.measuring.checked(c, &field("measuring")),
            viewpoint: c.text(&field("viewpoint"), &self.viewpoint, MAX_TEXT),
            preparation: self.preparation.checked(c, &field("preparation")),
            patient_script: c.text(&field("patient_script"), &self.patient_script, MAX_TEXT),
            demonstration: c.text(&field("demonstration"), &self.demonstration, MAX_TEXT),
            phases: parts(c, &field("phases"), &self.phases, MAX_ITEMS),
            steps: parts(c, &field("steps"), &self.steps, MAX_ITEMS),
            targets: parts(c, &field("targets"), &self.targets, MAX_ITEMS),
            criteria: parts(c, &field("criteria"), &self.criteria, MAX_ITEMS),
            grading: self.grading.checked(c, &field("grading")),
            inability: parts(c, &field("inability"), &self.inability, MAX_ITEMS),
        }
    }

    fn is_blank(&self) -> bool {
        *self == Self::default()
    }
}

impl Part for JointRange {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let field = |name: &str| format!("{at}.{name}");
        c.present(&field("joint"), self.joint, "Choose the joint.");
        c.present(&field("motion"), self.motion, "Choose the motion in which the degrees are counted.");
        let from = c.number(&field("from"), self.from, DEGREES, "degrees");
        let to = c.number(&field("to"), self.to, DEGREES, "degrees");
        if let (Some(low), Some(high)) = (from, to)
            && low > high
        {
            let remedy = "Put the smaller angle first.";
            c.invalid(&field("to"), high, format!("The range ends before it begins at {low}."), remedy);
        }
        Self { from, to, ..self.clone() }
    }

    fn is_blank(&self) -> bool {
        *self == Self::default()
    }
}

impl Part for Phase {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        Self {
            name: c.required(&format!("{at}.name"), &self.name, MAX_NAME, "Name the phase."),
            finding: c.text(&format!("{at}.finding"), &self.finding, MAX_TEXT),
        }
    }

    fn is_blank(&self) -> bool {
        self.name.trim().is_empty() && self.finding.trim().is_empty()
    }
}

impl Part for Target {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let remedy = "Choose a structure of the vocabulary, or write its name.";
        Self {
            structure: c.required(&format!("{at}.structure"), &self.structure, MAX_NAME, remedy),
            role: self.role,
            phase: c.text(&format!("{at}.phase"), &self.phase, MAX_NAME),
            condition: c.text(&format!("{at}.condition"), &self.condition, MAX_NAME),
        }
    }

    fn is_blank(&self) -> bool {
        self.structure.trim().is_empty()
    }
}
