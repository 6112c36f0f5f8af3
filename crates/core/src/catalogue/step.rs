//! One step of a test: who acts, into which motion, what ends it, and what is read there.

use serde::{Deserialize, Serialize};

use super::anatomy::{Joint, Motion};
use super::limits::{DEGREES, MAX_NAME, MAX_TEXT, distinct};
use crate::field::{Checker, Part};
use crate::{FieldError, FieldErrorCode};

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
    /// Of a resisted step, the motion that the patient tries to make.
    pub effort: Option<Motion>,
    /// At which angle, degrees.
    pub degrees: Option<f64>,
    /// Up to which angle, when the step goes through an arc, degrees.
    pub degrees_to: Option<f64>,
    /// What ends it, when that is no angle.
    pub until: Option<StepEvent>,
    /// Which segment, which click, which compensation.
    pub until_detail: String,
    /// What is read when it ends so.
    pub reads: Vec<ReadAtEvent>,
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
    /// Passive to the end of the range, and a little pressure there.
    Overpressure,
    Resisted,
}

/// What ends a step.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum StepEvent {
    /// A neighbouring segment begins to move along.
    SegmentMoves,
    /// Pain comes.
    Pain,
    /// A click is felt or heard.
    Click,
    /// The joint goes no further.
    EndOfRange,
    /// The patient begins to compensate.
    Compensation,
}

/// What is read when a step ends at an event.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum ReadAtEvent {
    /// The angle, degrees.
    Angle,
    /// The time until then, seconds.
    Time,
    /// How the end feels.
    EndFeel,
    /// Only that it came.
    Occurrence,
}

impl ProcedureStep {
    /// Of a resisted step, into which motion the examiner pushes: as written, or against the patient's effort.
    #[must_use]
    pub fn push(&self) -> Option<Motion> {
        self.resisted()?;
        self.motion.or_else(|| self.effort.map(Motion::opposite))
    }

    /// Of a resisted step, which motion the patient tries to make: as written, or against the examiner's push.
    #[must_use]
    pub fn patient_effort(&self) -> Option<Motion> {
        self.resisted()?;
        self.effort.or_else(|| self.motion.map(Motion::opposite))
    }

    /// The direction in which it loads: its motion; of a resisted step the push.
    pub(super) fn direction(&self) -> Option<Motion> {
        self.push().or(self.motion)
    }

    fn resisted(&self) -> Option<()> {
        (self.mode == Some(Mode::Resisted)).then_some(())
    }
}

impl Part for ProcedureStep {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let field = |name: &str| format!("{at}.{name}");
        if self.until.is_some() && self.reads.is_empty() {
            let message = "This step ends at an event, but does not say what is read there.";
            let remedy = "Choose the angle, the time, the end-feel, or only that it came.";
            c.push(FieldError::new(field("reads"), FieldErrorCode::Missing, "", message, remedy));
        }
        if self.until.is_none() && !self.reads.is_empty() {
            let message = "Nothing ends this step at which something could be read.";
            c.invalid(&field("until"), "", message, "Choose what ends it, or leave out what is read there.");
        }
        Self {
            text: c.required(&field("text"), &self.text, MAX_TEXT, "Say in words what is done."),
            until_detail: c.text(&field("until_detail"), &self.until_detail, MAX_TEXT),
            reads: distinct(&self.reads),
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
