//! What a sheet forgot or contradicts: within itself, against the vocabulary, against the other sheets.

mod guard;
mod neighbours;
mod procedure;
mod readings;

use std::collections::HashMap;
use std::fmt::Debug;

use serde::Serialize;

use super::anatomy::Structure;
use super::procedure::LoadRole;
use super::{Region, Sheet, name_key};

pub use neighbours::{Digest, Neighbours};

/// Something to look at again. A finding never keeps a sheet from being saved.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Finding {
    /// Stable kind.
    pub code: FindingCode,
    /// Path of the field it is about, such as `variants[0].targets[1]`.
    pub field: String,
    /// What was found, one or two sentences.
    pub message: String,
    /// What to do about it.
    pub remedy: String,
}

/// Kinds of findings.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum FindingCode {
    /// No step is written.
    NoSteps,
    /// No caution at all.
    NoCaution,
    /// A provoking test without a rule when to stop.
    NoStopRule,
    /// A variant says what is positive but not what is negative.
    NoNegative,
    /// A measured criterion without unit, value or comparison.
    NoComparison,
    /// A muscle is said to contract against a push that none of its actions opposes.
    ResistedDirection,
    /// The patient's effort and the examiner's push do not oppose each other, or nothing resists the effort.
    EffortAgainstPush,
    /// A joint is locked by a contact, and a step moves it.
    LockedJointMoved,
    /// A joint is locked, and nothing says how that is made sure.
    LockNotVerified,
    /// A patient stands on one leg, and nothing keeps them from falling.
    NoFallSupport,
    /// A step works at an angle outside the range of its variant.
    AngleOutsideRange,
    /// A target that the vocabulary does not know.
    UnknownStructure,
    /// A target of another region.
    StructureOutsideRegion,
    /// A phase that the variant does not declare.
    UnknownPhase,
    /// Two opposite turns are said to load the same structure in the same way.
    ContradictoryDirection,
    /// Another sheet says the opposite about the same turn and structure.
    ContradictsOtherTest,
    /// A red flag without what to do.
    NoRedFlagAction,
    /// Something urgent without how soon.
    NoDeadline,
    /// A target or a reading about a condition that the sheet does not show.
    UnknownCondition,
    /// A caution or an indication of a variant that is not there.
    UnknownVariant,
    /// The same disease is an indication and a contraindication of one variant.
    IndicationContradicted,
    /// A pitfall is said to push the other way than what it does to the finding.
    BiasAgainstEffect,
    /// A condition of the interpretation table that cannot be read.
    UnreadableCondition,
    /// Findings that no row of the interpretation table answers.
    InterpretationGap,
    /// Findings that several rows answer.
    InterpretationOverlap,
    /// The table has more combinations than can be looked at.
    InterpretationTooLarge,
    /// A name or alias that another test has.
    NameOfOtherTest,
    /// A test with nearly the same name or procedure.
    NearDuplicate,
}

impl FindingCode {
    /// Whether something contradicts something else, so that one of the two is wrong; not what is only missing, or alike.
    #[must_use]
    pub fn is_contradiction(self) -> bool {
        match self {
            Self::ResistedDirection
            | Self::EffortAgainstPush
            | Self::LockedJointMoved
            | Self::AngleOutsideRange
            | Self::UnknownPhase
            | Self::ContradictoryDirection
            | Self::ContradictsOtherTest
            | Self::UnknownCondition
            | Self::UnknownVariant
            | Self::IndicationContradicted
            | Self::BiasAgainstEffect
            | Self::UnreadableCondition
            | Self::InterpretationGap
            | Self::InterpretationOverlap => true,
            Self::NoSteps
            | Self::NoCaution
            | Self::NoStopRule
            | Self::NoNegative
            | Self::NoComparison
            | Self::LockNotVerified
            | Self::NoFallSupport
            | Self::UnknownStructure
            | Self::StructureOutsideRegion
            | Self::NoRedFlagAction
            | Self::NoDeadline
            | Self::InterpretationTooLarge
            | Self::NameOfOtherTest
            | Self::NearDuplicate => false,
        }
    }
}

/// The structures that sheets may name.
#[derive(Debug, Default)]
pub struct Vocabulary {
    by_name: HashMap<String, Vec<Structure>>,
}

impl Vocabulary {
    /// Indexes the structures of all regions by each of their names.
    #[must_use]
    pub fn new(structures: impl IntoIterator<Item = Structure>) -> Self {
        let mut by_name: HashMap<String, Vec<Structure>> = HashMap::new();
        for structure in structures {
            for name in structure.names() {
                by_name.entry(name_key(name)).or_default().push(structure.clone());
            }
        }
        Self { by_name }
    }

    /// The structure of that name, that of the sheet's own region first.
    fn find(&self, region: Region, name: &str) -> Option<&Structure> {
        let found = self.by_name.get(&name_key(name))?;
        found.iter().find(|structure| structure.region == region).or_else(|| found.first())
    }
}

/// Findings of a sheet by itself and against the vocabulary, in the order of its page.
#[must_use]
pub fn audit(sheet: &Sheet, vocabulary: &Vocabulary) -> Vec<Finding> {
    let mut findings = Findings(Vec::new());
    guard::indications(sheet, &mut findings);
    guard::cautions(sheet, &mut findings);
    if sheet.baseline().is_none_or(|baseline| baseline.steps.is_empty()) {
        let remedy = "Write what is done, one step a line.";
        findings.tell(FindingCode::NoSteps, "variants", "The baseline variant has no steps.".to_owned(), remedy);
    }
    for (index, variant) in sheet.variants.iter().enumerate() {
        let at = format!("variants[{index}]");
        procedure::stance(variant, &at, &mut findings);
        procedure::contacts(variant, &at, &mut findings);
        procedure::phases(variant, &at, &mut findings);
        procedure::forces(variant, &at, &mut findings);
        procedure::targets(sheet, variant, &at, vocabulary, &mut findings);
        procedure::angles(variant, &at, &mut findings);
        readings::criteria(variant, &at, &mut findings);
    }
    procedure::directions(sheet, &mut findings);
    readings::conditions(sheet, &mut findings);
    readings::table(sheet, &mut findings);
    guard::pitfalls(sheet, &mut findings);
    findings.0
}

struct Findings(Vec<Finding>);

impl Findings {
    fn tell(&mut self, code: FindingCode, field: impl Into<String>, message: String, remedy: &str) {
        self.0.push(Finding { code, field: field.into(), message, remedy: remedy.to_owned() });
    }
}

/// The name of an anatomical term as it is spoken: `ExternalRotation` becomes `external rotation`.
fn spoken(term: impl Debug) -> String {
    let mut words = String::new();
    for letter in format!("{term:?}").chars() {
        if letter.is_uppercase() && !words.is_empty() {
            words.push(' ');
        }
        words.extend(letter.to_lowercase());
    }
    words
}

fn loaded(role: LoadRole) -> &'static str {
    match role {
        LoadRole::Tension => "under tension",
        LoadRole::Compressed => "compressed",
        LoadRole::Contracted => "contracted",
        LoadRole::Lengthened => "lengthened",
        LoadRole::Palpated => "under the finger",
        LoadRole::NeuralTension => "under neural tension",
    }
}
