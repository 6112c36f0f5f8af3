//! How far a study can be trusted: risk of bias and applicability, domain by domain, with the reason in words.
//!
//! Accuracy: the four domains and signalling questions published by Whiting et al., Ann Intern Med 2011;155:529-536, in our own words.
//! Agreement: the same shape, with the questions that published reliability checklists share (Lucas et al., J Clin Epidemiol
//! 2010;63:854-861; Mokkink et al., BMC Med Res Methodol 2020;20:293).

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

use crate::field::Checker;
use crate::{FieldError, FieldErrorCode};

/// What is appraised.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Aspect {
    /// How accurate a test is.
    Accuracy,
    /// How far examiners, or occasions, agree.
    Agreement,
}

/// Where bias may come from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Domain {
    /// Who was examined, and how they were chosen.
    PatientSelection,
    /// How the test was done and read.
    IndexTest,
    /// What decided who has the condition.
    ReferenceStandard,
    /// Who got what, when, and who was left out.
    FlowTiming,
    /// Who examined (agreement only).
    Examiners,
    /// How the examinations were repeated (agreement only).
    Repetition,
}

/// One question that points to a risk.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum SignallingQuestion {
    /// Everybody in turn, or drawn by lot?
    ConsecutiveOrRandom,
    /// One group in whom it was suspected, instead of people known to have it and known not to?
    NoTwoGroups,
    /// Nobody left out for a reason that makes the test look better or worse?
    NoUnduePatientExclusion,
    /// Test read without knowing the reference standard?
    TestReadBlind,
    /// What counts as positive fixed beforehand?
    CriterionFixed,
    /// Reference standard likely to be right?
    StandardLikelyRight,
    /// Reference standard read without knowing the test?
    StandardReadBlind,
    /// Test itself no part of the reference standard?
    StandardWithoutTest,
    /// Short enough between test and reference standard?
    IntervalShort,
    /// Everybody got a reference standard?
    EverybodyVerified,
    /// Everybody got the same one?
    SameStandard,
    /// Everybody in the analysis?
    EverybodyAnalysed,
    /// People like those in whom the test is used?
    RepresentativePeople,
    /// Examiners like those who will use the test?
    RepresentativeExaminers,
    /// Trained in the same way of doing and reading it?
    SameTraining,
    /// Each examined without knowing what the other found?
    BlindToOthers,
    /// Each examined without knowing who has the condition?
    BlindToCondition,
    /// Order of the examiners varied?
    OrderVaried,
    /// Time between the examinations such that people neither changed nor remembered?
    PeopleUnchanged,
    /// The same way of doing it each time?
    SameProcedure,
    /// A measure of agreement that fits the data?
    FittingMeasure,
}

impl Domain {
    /// As it stands in files.
    #[must_use]
    pub fn code(self) -> &'static str {
        match self {
            Self::PatientSelection => "patient_selection",
            Self::IndexTest => "index_test",
            Self::ReferenceStandard => "reference_standard",
            Self::FlowTiming => "flow_timing",
            Self::Examiners => "examiners",
            Self::Repetition => "repetition",
        }
    }
}

impl SignallingQuestion {
    /// As it stands in files.
    #[must_use]
    pub fn code(self) -> &'static str {
        match self {
            Self::ConsecutiveOrRandom => "consecutive_or_random",
            Self::NoTwoGroups => "no_two_groups",
            Self::NoUnduePatientExclusion => "no_undue_patient_exclusion",
            Self::TestReadBlind => "test_read_blind",
            Self::CriterionFixed => "criterion_fixed",
            Self::StandardLikelyRight => "standard_likely_right",
            Self::StandardReadBlind => "standard_read_blind",
            Self::StandardWithoutTest => "standard_without_test",
            Self::IntervalShort => "interval_short",
            Self::EverybodyVerified => "everybody_verified",
            Self::SameStandard => "same_standard",
            Self::EverybodyAnalysed => "everybody_analysed",
            Self::RepresentativePeople => "representative_people",
            Self::RepresentativeExaminers => "representative_examiners",
            Self::SameTraining => "same_training",
            Self::BlindToOthers => "blind_to_others",
            Self::BlindToCondition => "blind_to_condition",
            Self::OrderVaried => "order_varied",
            Self::PeopleUnchanged => "people_unchanged",
            Self::SameProcedure => "same_procedure",
            Self::FittingMeasure => "fitting_measure",
        }
    }
}

/// An answer to a question.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum SignallingAnswer {
    /// Yes: no reason for doubt.
    Yes,
    /// No: a reason for doubt.
    No,
    /// The report does not say.
    Unclear,
    /// The question does not arise.
    NotApplicable,
}

/// How large a risk, or a concern, is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Judgement {
    /// Low.
    Low,
    /// Not to be told from the report.
    Unclear,
    /// High.
    High,
}

/// What is said of one domain.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct DomainAppraisal {
    /// Answers to its questions, as far as they were given.
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    pub answers: BTreeMap<SignallingQuestion, SignallingAnswer>,
    /// Risk of bias.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub risk: Option<Judgement>,
    /// Concern that it does not apply to the question at hand.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub concern: Option<Judgement>,
    /// Why.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub reason: String,
}

/// An appraisal of a study: what is said domain by domain. What was checked is written in the same form.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct AppraisalInput {
    /// By domain; a domain that is not there was not appraised.
    pub domains: BTreeMap<Domain, DomainAppraisal>,
}

/// A checked appraisal.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[serde(transparent)]
pub struct Appraisal(AppraisalInput);

impl Aspect {
    /// Both of them.
    pub const ALL: [Self; 2] = [Self::Accuracy, Self::Agreement];

    /// As it stands in files.
    #[must_use]
    pub fn code(self) -> &'static str {
        match self {
            Self::Accuracy => "accuracy",
            Self::Agreement => "agreement",
        }
    }

    /// Its domains, in the order in which they are appraised.
    #[must_use]
    pub fn domains(self) -> &'static [Domain] {
        match self {
            Self::Accuracy => {
                &[Domain::PatientSelection, Domain::IndexTest, Domain::ReferenceStandard, Domain::FlowTiming]
            }
            Self::Agreement => &[Domain::PatientSelection, Domain::Examiners, Domain::Repetition, Domain::FlowTiming],
        }
    }

    /// The questions of one of its domains.
    #[must_use]
    pub fn questions(self, domain: Domain) -> &'static [SignallingQuestion] {
        use SignallingQuestion as Q;
        match (self, domain) {
            (Self::Accuracy, Domain::PatientSelection) => {
                &[Q::ConsecutiveOrRandom, Q::NoTwoGroups, Q::NoUnduePatientExclusion]
            }
            (Self::Accuracy, Domain::IndexTest) => &[Q::TestReadBlind, Q::CriterionFixed],
            (Self::Accuracy, Domain::ReferenceStandard) => {
                &[Q::StandardLikelyRight, Q::StandardReadBlind, Q::StandardWithoutTest]
            }
            (Self::Accuracy, Domain::FlowTiming) => {
                &[Q::IntervalShort, Q::EverybodyVerified, Q::SameStandard, Q::EverybodyAnalysed]
            }
            (Self::Agreement, Domain::PatientSelection) => &[Q::RepresentativePeople, Q::NoUnduePatientExclusion],
            (Self::Agreement, Domain::Examiners) => &[Q::RepresentativeExaminers, Q::SameTraining],
            (Self::Agreement, Domain::Repetition) => {
                &[Q::BlindToOthers, Q::BlindToCondition, Q::OrderVaried, Q::PeopleUnchanged, Q::SameProcedure]
            }
            (Self::Agreement, Domain::FlowTiming) => &[Q::EverybodyAnalysed, Q::FittingMeasure],
            _ => &[],
        }
    }

    /// Whether a domain can apply to the question at hand more or less; flow and timing cannot.
    #[must_use]
    pub fn has_concern(domain: Domain) -> bool {
        domain != Domain::FlowTiming
    }
}

impl DomainAppraisal {
    /// What the answers suggest: low when every question is answered by yes or does not arise (whether the test is part of the reference
    /// standard may be left open), high when one is answered by no, otherwise unclear. None until something is answered. The judgement is the appraiser's.
    #[must_use]
    pub fn suggested(&self, questions: &[SignallingQuestion]) -> Option<Judgement> {
        if self.answers.is_empty() {
            None
        } else if self.answers.values().any(|answer| *answer == SignallingAnswer::No) {
            Some(Judgement::High)
        } else {
            let settled = |question: &SignallingQuestion| match self.answers.get(question) {
                Some(answer) => matches!(answer, SignallingAnswer::Yes | SignallingAnswer::NotApplicable),
                // It came later than the others: what was judged without it stays as it was judged.
                None => *question == SignallingQuestion::StandardWithoutTest,
            };
            Some(if questions.iter().all(settled) { Judgement::Low } else { Judgement::Unclear })
        }
    }
}

/// What the answers of each domain suggest; see [`DomainAppraisal::suggested`].
#[must_use]
pub fn suggestions(aspect: Aspect, input: &AppraisalInput) -> BTreeMap<Domain, Judgement> {
    let of = |(domain, said): (&Domain, &DomainAppraisal)| Some((*domain, said.suggested(aspect.questions(*domain))?));
    input.domains.iter().filter_map(of).collect()
}

impl Appraisal {
    /// Checks an appraisal.
    ///
    /// # Errors
    /// Every fault, with its path such as `domains.index_test.reason`: a domain or question of the other aspect, a high risk or concern
    /// without its reason, a risk judged other than the answers suggest without a reason.
    pub fn check(aspect: Aspect, input: &AppraisalInput) -> Result<Self, Vec<FieldError>> {
        let mut c = Checker::default();
        let mut domains = BTreeMap::new();
        for (domain, given) in &input.domains {
            let at = format!("domains.{}", domain.code());
            if !aspect.domains().contains(domain) {
                let message = "This domain is not part of the appraisal.";
                c.push(FieldError::new(&at, FieldErrorCode::Unknown, domain.code(), message, "Leave it out."));
                continue;
            }
            let questions = aspect.questions(*domain);
            for question in given.answers.keys().filter(|question| !questions.contains(question)) {
                let (message, remedy) = ("This question is not asked in this domain.", "Leave it out.");
                let field = format!("{at}.answers.{}", question.code());
                c.push(FieldError::new(field, FieldErrorCode::Unknown, question.code(), message, remedy));
            }
            let reason = c.text(&format!("{at}.reason"), &given.reason, 4_000);
            if given.concern.is_some() && !Aspect::has_concern(*domain) {
                let message = "Flow and timing has no judgement of applicability.";
                let error =
                    FieldError::new(format!("{at}.concern"), FieldErrorCode::Invalid, "", message, "Leave it out.");
                c.push(error);
            }
            let departs = given.risk.is_some() && given.suggested(questions).is_some_and(|it| Some(it) != given.risk);
            let high = given.risk == Some(Judgement::High) || given.concern == Some(Judgement::High);
            if reason.is_empty() && (departs || high) {
                let message = if high {
                    "No reason is given for a high risk or concern."
                } else {
                    "The judgement differs from what the answers suggest, and no reason is given."
                };
                let remedy = "Say why, in a sentence that a reader of the report can follow.";
                c.push(FieldError::new(format!("{at}.reason"), FieldErrorCode::Missing, "", message, remedy));
            }
            let tidy = DomainAppraisal { reason, ..given.clone() };
            if tidy != DomainAppraisal::default() {
                domains.insert(*domain, tidy);
            }
        }
        c.finish(Some(Self(AppraisalInput { domains })))
    }

    /// What was written, tidied.
    #[must_use]
    pub fn written(&self) -> &AppraisalInput {
        &self.0
    }

    /// The test was part of the reference standard that it is compared with, so that the two agree more than they should.
    #[must_use]
    pub fn includes_test(&self) -> bool {
        let said = self.0.domains.get(&Domain::ReferenceStandard);
        said.and_then(|it| it.answers.get(&SignallingQuestion::StandardWithoutTest)) == Some(&SignallingAnswer::No)
    }

    /// Every domain has its judgement of the risk of bias.
    #[must_use]
    pub fn is_complete(&self, aspect: Aspect) -> bool {
        aspect.domains().iter().all(|domain| self.0.domains.get(domain).is_some_and(|it| it.risk.is_some()))
    }

    /// Risk of bias over all domains: high when one is, low when all are, none while one is not judged and none is high.
    #[must_use]
    pub fn overall(&self, aspect: Aspect) -> Option<Judgement> {
        let risks: Vec<Option<Judgement>> =
            aspect.domains().iter().map(|domain| self.0.domains.get(domain).and_then(|it| it.risk)).collect();
        if risks.contains(&Some(Judgement::High)) {
            Some(Judgement::High)
        } else if risks.contains(&None) {
            None
        } else if risks.contains(&Some(Judgement::Unclear)) {
            Some(Judgement::Unclear)
        } else {
            Some(Judgement::Low)
        }
    }
}
