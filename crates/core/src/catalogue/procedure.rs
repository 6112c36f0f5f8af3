//! How a test is done: variants, positions, hands, joint ranges, phases, steps, targets and findings.

use serde::{Deserialize, Serialize};

use super::anatomy::{Joint, Motion};
use super::finding::Criterion;
use super::limits::{MAX_ITEMS, MAX_NAME, MAX_TEXT};
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
    /// Where each hand goes, and what it does.
    pub hands: Vec<Hand>,
    /// Joint positions and the ranges the test works in.
    pub joints: Vec<JointRange>,
    /// What is needed beside a couch and two hands.
    pub equipment: Vec<String>,
    /// Where to look from.
    pub viewpoint: String,
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
}

impl Position {
    /// All.
    pub const ALL: [Self; 6] =
        [Self::Sitting, Self::Standing, Self::LyingFaceUp, Self::LyingFaceDown, Self::SideLying, Self::Kneeling];

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
        }
    }

    /// The position of a code.
    #[must_use]
    pub fn from_code(code: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|position| position.code() == code)
    }
}

/// One hand of the examiner.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Hand {
    /// Where it is placed.
    pub placement: String,
    /// What it does there.
    pub task: Option<HandTask>,
}

/// What a hand does.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[allow(missing_docs, reason = "the words say it")]
pub enum HandTask {
    Stabilise,
    Move,
    Resist,
    Palpate,
    Measure,
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

/// One step.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ProcedureStep {
    /// What is done, in words.
    pub text: String,
    /// Who acts.
    pub actor: Option<Actor>,
    /// How the motion comes about.
    pub mode: Option<Mode>,
    /// Joint that moves, or on which the force acts.
    pub joint: Option<Joint>,
    /// Motion; of a resisted step the direction of the examiner's push, against which the patient holds.
    pub motion: Option<Motion>,
    /// At which angle, degrees.
    pub degrees: Option<f64>,
    /// Up to which angle, when the step goes through an arc, degrees.
    pub degrees_to: Option<f64>,
    /// How long it is held, seconds.
    pub hold_seconds: Option<f64>,
    /// How often.
    pub repetitions: Option<f64>,
    /// Name of the phase it belongs to; empty when the variant has none.
    pub phase: String,
    /// May be unpleasant, such as a sudden release: an optional step.
    pub optional: bool,
}

/// Who acts in a step.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[allow(missing_docs, reason = "the words say it")]
pub enum Actor {
    Examiner,
    Patient,
    Both,
}

/// How the motion of a step comes about.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[allow(missing_docs, reason = "the words say it")]
pub enum Mode {
    Active,
    Passive,
    Resisted,
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
        Self {
            name: c.required(&field("name"), &self.name, MAX_NAME, "Name this way of doing the test."),
            origin: c.text(&field("origin"), &self.origin, MAX_TEXT),
            difference: c.text(&field("difference"), &self.difference, MAX_TEXT),
            effect: c.text(&field("effect"), &self.effect, MAX_TEXT),
            position: self.position,
            patient_position: c.text(&field("patient_position"), &self.patient_position, MAX_TEXT),
            examiner_position: c.text(&field("examiner_position"), &self.examiner_position, MAX_TEXT),
            hands: parts(c, &field("hands"), &self.hands, MAX_ITEMS),
            joints: parts(c, &field("joints"), &self.joints, MAX_ITEMS),
            equipment: c.texts(&field("equipment"), &self.equipment, MAX_ITEMS, MAX_NAME),
            viewpoint: c.text(&field("viewpoint"), &self.viewpoint, MAX_TEXT),
            patient_script: c.text(&field("patient_script"), &self.patient_script, MAX_TEXT),
            demonstration: c.text(&field("demonstration"), &self.demonstration, MAX_TEXT),
            phases: parts(c, &field("phases"), &self.phases, MAX_ITEMS),
            steps: parts(c, &field("steps"), &self.steps, MAX_ITEMS),
            targets: parts(c, &field("targets"), &self.targets, MAX_ITEMS),
            criteria: parts(c, &field("criteria"), &self.criteria, MAX_ITEMS),
        }
    }

    fn is_blank(&self) -> bool {
        *self == Self::default()
    }
}

impl Part for Hand {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let placement =
            c.required(&format!("{at}.placement"), &self.placement, MAX_TEXT, "Say where the hand is placed.");
        Self { placement, task: self.task }
    }

    fn is_blank(&self) -> bool {
        self.placement.trim().is_empty()
    }
}

const DEGREES: (f64, f64) = (-180.0, 180.0);

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

impl Part for ProcedureStep {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let field = |name: &str| format!("{at}.{name}");
        Self {
            text: c.required(&field("text"), &self.text, MAX_TEXT, "Say in words what is done."),
            degrees: c.number(&field("degrees"), self.degrees, DEGREES, "degrees"),
            degrees_to: c.number(&field("degrees_to"), self.degrees_to, DEGREES, "degrees"),
            hold_seconds: c.number(&field("hold_seconds"), self.hold_seconds, (0.0, 3_600.0), "seconds"),
            repetitions: c.number(&field("repetitions"), self.repetitions, (1.0, 1_000.0), "times"),
            phase: c.text(&field("phase"), &self.phase, MAX_NAME),
            ..self.clone()
        }
    }

    fn is_blank(&self) -> bool {
        // A line in which only the choices of a new line stand says nothing yet.
        self.text.trim().is_empty() && self.joint.is_none() && self.motion.is_none() && self.degrees.is_none()
    }
}

impl Part for Target {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let remedy = "Choose a structure of the vocabulary, or write its name.";
        Self {
            structure: c.required(&format!("{at}.structure"), &self.structure, MAX_NAME, remedy),
            role: self.role,
            phase: c.text(&format!("{at}.phase"), &self.phase, MAX_NAME),
        }
    }

    fn is_blank(&self) -> bool {
        self.structure.trim().is_empty()
    }
}
