//! Where teaching disagrees: claims that contradict each other, each with its source and the evidence for it, and what we hold of them.

use serde::{Deserialize, Serialize};

use super::Region;
use super::limits::{MAX_NAME, MAX_TEXT, code};
use crate::field::{Checker, Part, parts};
use crate::{FieldError, FieldErrorCode, TestId};

/// What is taught differently.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum ConflictTopic {
    /// At which angle the test is done.
    Angle,
    /// From which value on it is positive.
    CutOff,
    /// Which structure a motion or a rotation loads.
    StructureLoaded,
    /// Which side is examined first.
    SideFirst,
    /// What a positive result means.
    MeaningOfPositive,
    /// Something else.
    Other,
}

/// What we hold of it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Verdict {
    /// Nothing yet.
    #[default]
    Open,
    /// One of the claims is taught here.
    Favours,
    /// None of them is.
    Neither,
}

/// One of the claims.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct TeachingClaim {
    /// What is taught.
    pub claim: String,
    /// By whom: a book, a school, a sheet.
    pub source: String,
    /// What speaks for it.
    pub evidence: String,
}

/// An entry of the register as a person or a file wrote it.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct TeachingConflictInput {
    /// Region code.
    pub region: String,
    /// The tests whose sheets show it.
    pub tests: Vec<TestId>,
    /// What it is about.
    pub topic: Option<ConflictTopic>,
    /// The question that is answered differently.
    pub question: String,
    /// The answers, two at least.
    pub claims: Vec<TeachingClaim>,
    /// What we hold of it.
    pub verdict: Verdict,
    /// Place of the claim that is taught here, from 0; only with the verdict `favours`.
    pub favours: Option<u8>,
    /// Why; needed unless it is open.
    pub reason: String,
}

/// A checked entry of the register.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct TeachingConflict {
    /// Region.
    pub region: Region,
    /// The tests whose sheets show it.
    pub tests: Vec<TestId>,
    /// What it is about.
    pub topic: ConflictTopic,
    /// The question that is answered differently.
    pub question: String,
    /// The answers, two at least.
    pub claims: Vec<TeachingClaim>,
    /// What we hold of it.
    pub verdict: Verdict,
    /// Place of the claim that is taught here, from 0.
    pub favours: Option<u8>,
    /// Why.
    pub reason: String,
}

/// More than these nobody can weigh.
const MOST_CLAIMS: usize = 12;
const MOST_TESTS: usize = 50;

impl TeachingConflict {
    /// Checks an entry by itself; whether its tests are there is the store's to say.
    ///
    /// # Errors
    /// Every fault found.
    pub fn check(input: &TeachingConflictInput) -> Result<Self, Vec<FieldError>> {
        let mut checker = Checker::default();
        let c = &mut checker;
        let region = code(c, "region", &input.region, Region::from_code, "Choose a body region.");
        let topic = c.present("topic", input.topic, "Choose what is taught differently.");
        let question =
            c.required("question", &input.question, MAX_TEXT, "Write the question that is answered differently.");
        let claims = parts(c, "claims", &input.claims, MOST_CLAIMS);
        if claims.len() < 2 {
            let message = "A conflict needs two claims at least.";
            c.invalid("claims", claims.len(), message, "Write what else is taught, and by whom.");
        }
        let reason = c.text("reason", &input.reason, MAX_TEXT);
        if input.verdict != Verdict::Open && reason.is_empty() {
            let remedy = "Say what decides it, or leave it open.";
            c.push(FieldError::new("reason", FieldErrorCode::Missing, "", "A verdict needs its reason.", remedy));
        }
        let shown = || input.favours.map_or_else(String::new, |place| (u16::from(place) + 1).to_string());
        match (input.verdict, input.favours) {
            (Verdict::Favours, Some(place)) if usize::from(place) < claims.len() => {}
            (Verdict::Favours, _) => {
                c.invalid("favours", shown(), "No claim has this place.", "Choose the claim that is taught here.");
            }
            (_, Some(_)) => {
                let remedy = "Choose that verdict, or take the claim away.";
                c.invalid("favours", shown(), "Only a verdict for one of the claims names it.", remedy);
            }
            (_, None) => {}
        }
        let mut tests: Vec<TestId> = Vec::new();
        for test in &input.tests {
            if !tests.contains(test) {
                tests.push(*test);
            }
        }
        if tests.len() > MOST_TESTS {
            let message = format!("{} tests are named; at most {MOST_TESTS} fit.", tests.len());
            c.push(FieldError::new("tests", FieldErrorCode::TooLong, tests.len(), message, "Name fewer."));
        }
        let (verdict, favours) = (input.verdict, input.favours);
        let whole = region.zip(topic);
        checker.finish(whole.map(|(region, topic)| Self {
            region,
            tests,
            topic,
            question,
            claims,
            verdict,
            favours,
            reason,
        }))
    }
}

impl Part for TeachingClaim {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let field = |name: &str| format!("{at}.{name}");
        Self {
            claim: c.required(&field("claim"), &self.claim, MAX_TEXT, "Say what is taught."),
            source: c.required(&field("source"), &self.source, MAX_NAME, "Say by whom: a book, a school, a sheet."),
            evidence: c.text(&field("evidence"), &self.evidence, MAX_TEXT),
        }
    }

    fn is_blank(&self) -> bool {
        [&self.claim, &self.source, &self.evidence].iter().all(|text| text.trim().is_empty())
    }
}
