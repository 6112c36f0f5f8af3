//! A test's sheet: what it stresses, how it is done, what counts as positive, what spoils it, whom not to do it on.

use std::collections::HashSet;

use serde::{Deserialize, Serialize};

use super::Region;
use super::advice::{Alternative, Burden, Norm, Repeat, Retest};
use super::caution::{Caution, UrgentReading};
use super::indication::{EvidenceSearch, Indication};
use super::interpretation::Interpretation;
use super::limits::{MAX_CONDITIONS, MAX_ITEMS, MAX_NAME, MAX_TEXT, code};
use super::pitfall::Pitfall;
use super::procedure::Variant;
use crate::field::{Checker, Part, parts};
use crate::name::name_key;
use crate::{FieldError, FieldErrorCode};

/// What a test is for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Purpose {
    /// Provoke the familiar pain or symptom.
    PainProvocation,
    /// Show laxity or instability.
    Laxity,
    /// Strength, or a lag.
    Strength,
    /// Length of a muscle.
    MuscleLength,
    /// Tension of a nerve.
    NerveTension,
    /// Palpation.
    Palpation,
    /// Observation.
    Observation,
    /// Measurement of alignment.
    Alignment,
    /// A functional task.
    FunctionalTask,
}

impl Purpose {
    const CODES: [(&'static str, Self); 9] = [
        ("pain_provocation", Self::PainProvocation),
        ("laxity", Self::Laxity),
        ("strength", Self::Strength),
        ("muscle_length", Self::MuscleLength),
        ("nerve_tension", Self::NerveTension),
        ("palpation", Self::Palpation),
        ("observation", Self::Observation),
        ("alignment", Self::Alignment),
        ("functional_task", Self::FunctionalTask),
    ];

    /// All.
    pub const ALL: [Self; 9] = [
        Self::PainProvocation,
        Self::Laxity,
        Self::Strength,
        Self::MuscleLength,
        Self::NerveTension,
        Self::Palpation,
        Self::Observation,
        Self::Alignment,
        Self::FunctionalTask,
    ];

    /// The stable code.
    #[must_use]
    pub fn code(self) -> &'static str {
        Self::CODES.iter().find(|(_, purpose)| *purpose == self).map_or("", |(code, _)| code)
    }

    /// The purpose with that code.
    #[must_use]
    pub fn from_code(code: &str) -> Option<Self> {
        Self::CODES.iter().find(|(known, _)| *known == code).map(|(_, purpose)| *purpose)
    }
}

/// A part of the basic examination that comes before special tests.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[allow(missing_docs, reason = "the words say it")]
pub enum Basis {
    Inspection,
    ActiveRange,
    PassiveRange,
    Strength,
    Reflexes,
    Sensation,
}

/// A sheet as a person or a file wrote it. Every field may be absent, so that all faults are told at once.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct SheetInput {
    /// Name of the test.
    pub name: String,
    /// Other names for the very same test.
    pub aliases: Vec<String>,
    /// Region code.
    pub region: String,
    /// Purpose code.
    pub purpose: String,
    /// The part of the basic examination that it is; none for a special test.
    pub basis: Option<Basis>,
    /// Name of the target condition; one that is not known yet is added to the region.
    pub condition: String,
    /// Names of further conditions that it shows; targets, readings and results say which they are about.
    pub other_conditions: Vec<String>,
    /// What counts as positive, in one sentence; the criteria of each variant say it in full.
    pub positive_finding: String,
    /// For whom it is.
    pub indications: Vec<Indication>,
    /// Ways of doing it; the first is the taught baseline.
    pub variants: Vec<Variant>,
    /// How several measurements or phases are read together.
    pub interpretation: Interpretation,
    /// Whom not to do it on, and when to stop.
    pub cautions: Vec<Caution>,
    /// Findings that need prompt referral.
    pub urgent: Vec<UrgentReading>,
    /// What goes wrong, and what it does to the result.
    pub pitfalls: Vec<Pitfall>,
    /// What the test asks of patient and examiner.
    pub burden: Burden,
    /// What to do when it cannot be done as it is taught.
    pub alternatives: Vec<Alternative>,
    /// Usual values of what it measures.
    pub norms: Vec<Norm>,
    /// What it takes to call a second measurement changed.
    pub retest: Retest,
    /// When a negative test, or one that could not be done, is done again.
    pub repeats: Vec<Repeat>,
    /// Searches for evidence that found nothing usable.
    pub searches: Vec<EvidenceSearch>,
    /// Where the sheet's words come from.
    pub sources: Vec<String>,
}

/// A checked sheet.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Sheet {
    /// Name of the test; unique in the catalogue among all names and aliases.
    pub name: String,
    /// Other names for the very same test.
    pub aliases: Vec<String>,
    /// Region.
    pub region: Region,
    /// Purpose.
    pub purpose: Purpose,
    /// The part of the basic examination that it is; none for a special test.
    pub basis: Option<Basis>,
    /// Name of the target condition: the leading one, if there are several.
    pub condition: String,
    /// Names of further conditions that it shows.
    pub other_conditions: Vec<String>,
    /// What counts as positive, in one sentence; the criteria of each variant say it in full.
    pub positive_finding: String,
    /// For whom it is.
    pub indications: Vec<Indication>,
    /// Ways of doing it; the first is the taught baseline.
    pub variants: Vec<Variant>,
    /// How several measurements or phases are read together.
    pub interpretation: Interpretation,
    /// Whom not to do it on, and when to stop.
    pub cautions: Vec<Caution>,
    /// Findings that need prompt referral.
    pub urgent: Vec<UrgentReading>,
    /// What goes wrong, and what it does to the result.
    pub pitfalls: Vec<Pitfall>,
    /// What the test asks of patient and examiner.
    pub burden: Burden,
    /// What to do when it cannot be done as it is taught.
    pub alternatives: Vec<Alternative>,
    /// Usual values of what it measures.
    pub norms: Vec<Norm>,
    /// What it takes to call a second measurement changed.
    pub retest: Retest,
    /// When a negative test, or one that could not be done, is done again.
    pub repeats: Vec<Repeat>,
    /// Searches for evidence that found nothing usable.
    pub searches: Vec<EvidenceSearch>,
    /// Where the sheet's words come from.
    pub sources: Vec<String>,
}

impl Sheet {
    /// Checks a sheet by itself; whether its names are free is the store's to say.
    ///
    /// # Errors
    /// Every fault found.
    pub fn check(input: &SheetInput) -> Result<Self, Vec<FieldError>> {
        let mut checker = Checker::default();
        let c = &mut checker;
        let name = c.required("name", &input.name, MAX_NAME, "Give the test a plain, descriptive name.");
        let aliases = c.texts("aliases", &input.aliases, 30, MAX_NAME);
        c.seen("name", &name);
        aliases.iter().enumerate().for_each(|(index, alias)| c.seen(&format!("aliases[{index}]"), alias));
        check_repeats(c, ("aliases", "name"), &name, &aliases);
        let region = code(c, "region", &input.region, Region::from_code, "Choose a body region.");
        let purpose = code(c, "purpose", &input.purpose, Purpose::from_code, "Choose what the test is for.");
        let condition =
            c.required("condition", &input.condition, MAX_NAME, "Name the condition that the test is meant to show.");
        let other_conditions = c.texts("other_conditions", &input.other_conditions, MAX_CONDITIONS, MAX_NAME);
        check_repeats(c, ("other_conditions", "condition"), &condition, &other_conditions);
        let positive_finding = c.required(
            "positive_finding",
            &input.positive_finding,
            MAX_TEXT,
            "Say what is seen, felt or reported when the test is positive.",
        );
        let indications = parts(c, "indications", &input.indications, MAX_ITEMS);
        let variants: Vec<Variant> = parts(c, "variants", &input.variants, 20);
        c.unique("variants", variants.iter().map(|variant| variant.name.as_str()));
        for (index, variant) in variants.iter().enumerate() {
            c.unique(&format!("variants[{index}].phases"), variant.phases.iter().map(|phase| phase.name.as_str()));
        }
        let interpretation = input.interpretation.checked(c, "interpretation");
        let cautions = parts(c, "cautions", &input.cautions, MAX_ITEMS);
        let urgent = parts(c, "urgent", &input.urgent, MAX_ITEMS);
        let pitfalls = parts(c, "pitfalls", &input.pitfalls, MAX_ITEMS);
        let burden = input.burden.checked(c, "burden");
        let alternatives = parts(c, "alternatives", &input.alternatives, MAX_ITEMS);
        let norms = parts(c, "norms", &input.norms, MAX_ITEMS);
        let retest = input.retest.checked(c, "retest");
        let repeats = parts(c, "repeats", &input.repeats, MAX_ITEMS);
        let searches = parts(c, "searches", &input.searches, MAX_ITEMS);
        let sources = c.texts("sources", &input.sources, MAX_ITEMS, MAX_TEXT);
        let sheet = region.zip(purpose).map(|(region, purpose)| Self {
            name,
            aliases,
            region,
            purpose,
            basis: input.basis,
            condition,
            other_conditions,
            positive_finding,
            indications,
            variants,
            interpretation,
            cautions,
            urgent,
            pitfalls,
            burden,
            alternatives,
            norms,
            retest,
            repeats,
            searches,
            sources,
        });
        checker.finish(sheet)
    }

    /// The taught way of doing it, if one is written.
    #[must_use]
    pub fn baseline(&self) -> Option<&Variant> {
        self.variants.first()
    }

    /// The way of doing it of this name; the taught one where the name is empty or not known.
    #[must_use]
    pub fn variant(&self, name: &str) -> Option<&Variant> {
        let key = name_key(name);
        let named = self.variants.iter().find(|it| !key.is_empty() && name_key(&it.name) == key);
        named.or(self.baseline())
    }

    /// The conditions that it shows, the leading one first.
    pub fn conditions(&self) -> impl Iterator<Item = &str> {
        std::iter::once(self.condition.as_str()).chain(self.other_conditions.iter().map(String::as_str))
    }

    /// Its own name of a condition that it shows; none when it shows another.
    #[must_use]
    pub fn shows(&self, condition: &str) -> Option<&str> {
        let key = name_key(condition);
        self.conditions().find(|name| name_key(name) == key)
    }

    /// Follows a condition to its new name, wherever the sheet names it. Answers whether it does.
    pub fn rename_condition(&mut self, from: &str, to: &str) -> bool {
        let key = name_key(from);
        let targets = self.variants.iter_mut().flat_map(|variant| &mut variant.targets).map(|it| &mut it.condition);
        let readings = self.interpretation.rows.iter_mut().map(|row| &mut row.condition);
        let named =
            std::iter::once(&mut self.condition).chain(&mut self.other_conditions).chain(targets).chain(readings);
        let mut renamed = false;
        for name in named.filter(|name| name_key(name) == key) {
            to.clone_into(name);
            renamed = true;
        }
        renamed
    }

    /// Name first, then the aliases.
    pub fn names(&self) -> impl Iterator<Item = &str> {
        std::iter::once(self.name.as_str()).chain(self.aliases.iter().map(String::as_str))
    }
}

/// Further names must differ from the first and from each other; `fields` are where the further ones stand, and what the first is called.
fn check_repeats(checker: &mut Checker, (field, first): (&str, &str), name: &str, further: &[String]) {
    let mut seen = HashSet::from([name_key(name)]);
    for (index, other) in further.iter().enumerate() {
        if !seen.insert(name_key(other)) {
            let message = format!("This repeats the {first}, or another entry of this list.");
            let error = FieldErrorCode::Duplicate;
            checker.push(FieldError::new(format!("{field}[{index}]"), error, other, message, "Remove it."));
        }
    }
}
