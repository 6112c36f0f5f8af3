//! A drill: a question made of a published sheet, with one right answer.

use std::collections::HashSet;

use rand::SeedableRng;
use rand::seq::{IndexedRandom, SliceRandom};
use rand_chacha::ChaCha8Rng;
use serde::{Deserialize, Serialize};

use crate::TestId;
use crate::catalogue::{Bias, ExampleValue, Finding, Motion, ScreeningAnswer, Sheet};
use crate::name::name_key;

/// Wrong options beside the right one, at most.
const WRONG: usize = 3;

/// What a drill exercises.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Skill {
    /// What goes wrong, which way that pushes the result, what to do.
    Faults,
    /// Which way to push, and what a turn loads.
    Direction,
    /// What measurements and phases mean together.
    Interpretation,
    /// Whether a patient who answers so is examined.
    Screening,
    /// The steps of a test.
    Procedure,
}

impl Skill {
    /// All of them.
    pub const ALL: [Self; 5] = [Self::Faults, Self::Direction, Self::Interpretation, Self::Screening, Self::Procedure];
}

/// A published sheet of which drills are made, with what its checks found.
#[derive(Debug, Clone, Copy)]
pub struct DrillSheet<'a> {
    /// Its test.
    pub test: TestId,
    /// Its version.
    pub version: i32,
    /// What it says.
    pub sheet: &'a Sheet,
    /// What the checks found in it, and against other sheets.
    pub findings: &'a [Finding],
}

impl DrillSheet<'_> {
    /// Whether it may be taught: nothing in it contradicts itself or another sheet. What is only missing is no reason.
    #[must_use]
    pub fn is_sound(&self) -> bool {
        !self.findings.iter().any(|it| it.code.is_contradiction())
    }

    /// A drill of this sheet: `place` says where the answer stands, `options` what there is to choose and which of it is right.
    pub(super) fn drill(
        &self,
        skill: Skill,
        place: String,
        question: DrillQuestion,
        (options, right): (Vec<DrillOption>, Vec<usize>),
        explanation: Vec<String>,
    ) -> Drill {
        let name = self.sheet.name.clone();
        Drill { skill, test: self.test, name, version: self.version, place, question, options, right, explanation }
    }
}

/// A question made of the catalogue.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Drill {
    /// What it exercises.
    pub skill: Skill,
    /// The test of whose sheet it is made.
    pub test: TestId,
    /// Name of that test.
    pub name: String,
    /// Version of the sheet.
    pub version: i32,
    /// Where on the sheet the answer stands, such as `pitfalls[2]`.
    pub place: String,
    /// What is asked.
    pub question: DrillQuestion,
    /// What there is to choose from; of the steps to be put in order, these steps.
    pub options: Vec<DrillOption>,
    /// The right one. Of steps to be put in order, all of them in that order.
    pub right: Vec<usize>,
    /// What the sheet says beside the answer; may be empty.
    pub explanation: Vec<String>,
}

/// What is asked.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum DrillQuestion {
    /// Which mistake somebody who watches sees.
    WhichMistake {
        /// What is seen.
        cue: String,
    },
    /// Which way a mistake pushes the result.
    WhichWay {
        /// The mistake.
        mistake: String,
    },
    /// What to do about a mistake.
    WhatToDo {
        /// The mistake.
        mistake: String,
    },
    /// Into which motion the examiner pushes while the patient tries to make another.
    WhichPush {
        /// The step.
        step: String,
        /// The patient's effort.
        effort: Motion,
    },
    /// What findings mean together.
    WhichReading {
        /// A value of each measure; none where any would do.
        found: Vec<ExampleValue>,
    },
    /// What to do with a patient who answers so.
    WhetherToExamine {
        /// What was asked.
        asked: String,
        /// The answer.
        answer: ScreeningAnswer,
    },
    /// In which order the steps are done.
    WhichOrder,
    /// Which step is missing.
    WhichStep {
        /// The steps; an empty one is missing.
        steps: Vec<String>,
    },
}

/// Something to choose.
#[derive(Debug, Clone, PartialEq, Eq, Hash, Serialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum DrillOption {
    /// In words of a sheet.
    Text {
        /// These.
        text: String,
    },
    /// A direction of the result.
    Bias {
        /// Which.
        bias: Bias,
    },
    /// A motion.
    Motion {
        /// Which.
        motion: Motion,
    },
    /// Whether a patient is examined.
    Decision {
        /// Which.
        decision: ScreeningDecision,
    },
}

/// What is done with a patient who answered screening questions.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum ScreeningDecision {
    /// The test is done.
    Examine,
    /// It is done with care.
    WithCare,
    /// It is not done; something else is.
    SomethingElse,
    /// No test at all: the patient is referred.
    Stop,
    /// It waits until the answer is known.
    FindOut,
}

impl ScreeningDecision {
    /// All of them.
    pub const ALL: [Self; 5] = [Self::Examine, Self::WithCare, Self::SomethingElse, Self::Stop, Self::FindOut];
}

/// Why there is no drill.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, thiserror::Error)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum NoDrill {
    /// No sheet is published and free of contradictions.
    #[error("no published sheet is free of contradictions")]
    NoSheet,
    /// Such sheets say too little for it.
    #[error("the sheets say too little for this: {}", .0.needs())]
    TooLittle(Skill),
}

impl Skill {
    /// What sheets must say for it.
    #[must_use]
    pub fn needs(self) -> &'static str {
        match self {
            Self::Faults => {
                "it takes pitfalls with a cue, a direction or a remedy, and two others with other words to choose from"
            }
            Self::Direction => "it takes resisted steps that say into which motion is pushed",
            Self::Interpretation => "it takes interpretation tables with two readings at least",
            Self::Screening => "it takes cautions with a screening question and its unsafe answers",
            Self::Procedure => "it takes tests with three steps at least",
        }
    }
}

/// What is drawn for one drill: the same for the same seed.
pub(super) struct Draw(ChaCha8Rng);

impl Draw {
    pub fn of(seed: u64) -> Self {
        Self(ChaCha8Rng::seed_from_u64(seed))
    }

    pub fn one<'a, T>(&mut self, of: &'a [T]) -> Option<&'a T> {
        of.choose(&mut self.0)
    }

    pub fn shuffle<T>(&mut self, of: &mut [T]) {
        of.shuffle(&mut self.0);
    }

    /// The right option among wrong ones, in a drawn order, with its place. None without a wrong one. What reads like the right one is no wrong one, and none stands there
    /// twice.
    pub fn options(
        &mut self,
        right: DrillOption,
        wrong: impl IntoIterator<Item = DrillOption>,
        most: usize,
    ) -> Option<(Vec<DrillOption>, Vec<usize>)> {
        let mut seen = HashSet::from([right.key()]);
        let mut options: Vec<DrillOption> = wrong.into_iter().filter(|it| seen.insert(it.key())).collect();
        if options.is_empty() {
            return None;
        }
        self.shuffle(&mut options);
        options.truncate(most);
        options.push(right.clone());
        self.shuffle(&mut options);
        let place = options.iter().position(|it| *it == right)?;
        Some((options, vec![place]))
    }

    /// The same with as many wrong options as a question usually has.
    pub fn usual_options(
        &mut self,
        right: DrillOption,
        wrong: impl IntoIterator<Item = DrillOption>,
    ) -> Option<(Vec<DrillOption>, Vec<usize>)> {
        self.options(right, wrong, WRONG)
    }
}

impl DrillOption {
    /// Words of a sheet.
    pub(super) fn text(text: &str) -> Self {
        Self::Text { text: text.to_owned() }
    }

    /// Two texts that read the same are one option.
    fn key(&self) -> Self {
        match self {
            Self::Text { text } => Self::Text { text: name_key(text) },
            other => other.clone(),
        }
    }
}
