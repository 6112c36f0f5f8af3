//! Whether the tests of an examination fit the patient: what is asked before the first hand is laid on, and what is not done now.

use std::collections::{BTreeMap, HashSet};

use serde::{Deserialize, Serialize};

use crate::catalogue::{Caution, CautionKind, CautionScope, Joint, Position, Region, ScreeningAnswer};
use crate::name::name_key;

/// What of a test decides whether it fits.
#[derive(Debug, Clone, PartialEq)]
pub struct ScreenedTest {
    /// Its region.
    pub region: Region,
    /// Joints that its variant moves or loads.
    pub joints: Vec<Joint>,
    /// Name of its variant.
    pub variant: String,
    /// How the patient is placed.
    pub position: Option<Position>,
    /// What is needed.
    pub equipment: Vec<String>,
    /// How irritating it is, 0 to 3.
    pub irritation: Option<f64>,
    /// How long it takes.
    pub minutes: Option<f64>,
    /// Cautions of its sheet.
    pub cautions: Vec<Caution>,
}

/// What is known of the patient, and what is at hand.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct PatientFit {
    /// Answers to questions, under the compared forms of their words.
    pub answers: BTreeMap<String, ScreeningAnswer>,
    /// How irritable the complaint is, 0 to 3; none when it is not known.
    pub irritable: Option<u8>,
    /// Positions that the patient cannot take.
    pub cannot_take: Vec<Position>,
    /// Equipment that is not at hand.
    pub lacking: Vec<String>,
    /// Minutes at hand.
    pub minutes: Option<f64>,
}

/// Whether a test is done.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum FitState {
    /// Nothing speaks against it.
    Ready,
    /// It is done with care.
    WithCare,
    /// A question is open that must be answered first.
    Locked,
    /// It is not done now.
    NotNow,
}

/// Why a test is not simply done.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(tag = "code", rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum FitReason {
    /// A caution holds.
    Caution {
        /// What it is about.
        caution: String,
        /// What to do instead; may be empty.
        instead: String,
        /// Within how many hours that is to happen; 0 is at once.
        within_hours: Option<f64>,
        /// The test whose sheet says so.
        of: usize,
    },
    /// A question is not answered, or not known.
    Open {
        /// Its words.
        question: String,
    },
    /// The patient cannot take the position.
    Position {
        /// Which.
        position: Position,
    },
    /// Something is not at hand.
    Equipment {
        /// What.
        name: String,
    },
    /// It irritates more than this complaint bears.
    Irritation,
    /// The minutes at hand are used up by the tests before it.
    Minutes,
}

/// Whether a test is done, and why not.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct TestFit {
    /// Whether it is done.
    pub state: FitState,
    /// Why not simply; empty when it is ready.
    pub reasons: Vec<FitReason>,
}

/// A question that is asked once for all tests.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ScreeningQuestion {
    /// The question, the sign to look for, or, where a sheet says neither, the caution itself: does it hold?
    pub question: String,
    /// What its cautions are about.
    pub about: Vec<String>,
    /// The question of the sheet that helps to find out; empty where it is the question itself.
    pub help: String,
    /// Answers that take a test out or ask for care.
    pub unsafe_answers: Vec<ScreeningAnswer>,
    /// Tests that the answer decides about.
    pub tests: Vec<usize>,
    /// How far it reaches, at most.
    pub scope: CautionScope,
    /// What was answered.
    pub answer: Option<ScreeningAnswer>,
}

/// Everything stops, whatever else is known.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ExaminationStop {
    /// What holds.
    pub caution: String,
    /// What to do; may be empty.
    pub instead: String,
    /// Within how many hours; 0 is at once.
    pub within_hours: Option<f64>,
    /// The test whose sheet says so.
    pub of: usize,
}

/// How an examination fits a patient.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ExaminationFit {
    /// The questions, those of the widest reach first.
    pub questions: Vec<ScreeningQuestion>,
    /// For each test, whether it is done.
    pub tests: Vec<TestFit>,
    /// A caution of the whole examination that holds; the most urgent one.
    pub stop: Option<ExaminationStop>,
}

/// What is asked of a caution.
struct Asked<'a> {
    question: &'a str,
    help: &'a str,
    unsafe_answers: Vec<ScreeningAnswer>,
}

/// The question of a caution before the examination: its own with its unsafe answers; without such answers the caution itself, which must not hold. None for what
/// is watched for during the test, and for a care that is taken without asking.
fn asked(caution: &Caution) -> Option<Asked<'_>> {
    let own = (!caution.screening.is_empty() && !caution.unsafe_answers.is_empty()).then(|| Asked {
        question: &caution.screening,
        help: "",
        unsafe_answers: caution.unsafe_answers.clone(),
    });
    match caution.kind {
        Some(CautionKind::StopRule) => None,
        Some(CautionKind::Precaution) => own,
        Some(CautionKind::Contraindication) | None => own.or(Some(Asked {
            question: &caution.text,
            help: &caution.screening,
            unsafe_answers: vec![ScreeningAnswer::Yes],
        })),
    }
}

impl ScreenedTest {
    /// Cautions of its variant that are of this kind.
    pub fn cautions_of(&self, kind: CautionKind) -> impl Iterator<Item = &Caution> {
        self.cautions.iter().filter(move |it| it.kind == Some(kind) && applies(it, self))
    }
}

/// Whether the tests of an examination fit a patient, in the order in which they are done; all answers count for all tests.
///
/// A contraindication that holds takes out the tests that it reaches: its own, those that move or load its joint, those of its region, or all. One whose question is
/// open, or answered with "unknown", keeps them locked. A precaution that holds, or that is taken without asking, asks for care. A test is not done either that
/// needs a position which the patient cannot take or equipment that is not at hand, that irritates more than 3 less the complaint's own irritability, or for
/// which the minutes do not suffice, taken in order.
#[must_use]
pub fn examination_fit(tests: &[ScreenedTest], patient: &PatientFit) -> ExaminationFit {
    let mut fits = vec![TestFit { state: FitState::Ready, reasons: Vec::new() }; tests.len()];
    let mut questions: Vec<ScreeningQuestion> = Vec::new();
    let mut stop: Option<ExaminationStop> = None;
    for (of, test) in tests.iter().enumerate() {
        for caution in test.cautions.iter().filter(|it| applies(it, test)) {
            let scope = caution.scope.unwrap_or(CautionScope::Test);
            let reached = reached(tests, of, caution, scope);
            let careful = caution.kind == Some(CautionKind::Precaution);
            let Some(asked) = asked(caution) else {
                if careful {
                    add(&mut fits[of], FitState::WithCare, reason(caution, of));
                }
                continue;
            };
            let answer = patient.answers.get(&name_key(asked.question)).copied();
            note(&mut questions, &asked, caution, scope, &reached, answer);
            let holds = answer.is_some_and(|answer| asked.unsafe_answers.contains(&answer));
            let known = matches!(answer, Some(ScreeningAnswer::Yes | ScreeningAnswer::No));
            if holds && scope == CautionScope::Examination && !careful {
                let Caution { text, instead, within_hours, .. } = caution.clone();
                let hours = |it: Option<f64>| it.unwrap_or(f64::INFINITY);
                if stop.as_ref().is_none_or(|known| hours(within_hours) < hours(known.within_hours)) {
                    stop = Some(ExaminationStop { caution: text, instead, within_hours, of });
                }
            }
            let (state, reason) = match (holds, careful) {
                (true, true) => (FitState::WithCare, reason(caution, of)),
                (true, false) => (FitState::NotNow, reason(caution, of)),
                (false, _) if known => continue,
                // Care costs nothing: it is taken until the answer is known.
                (false, true) => (FitState::WithCare, reason(caution, of)),
                (false, false) => (FitState::Locked, FitReason::Open { question: asked.question.to_owned() }),
            };
            for test in reached {
                add(&mut fits[test], state, reason.clone());
            }
        }
    }
    for (test, fit) in tests.iter().zip(&mut fits) {
        surroundings(test, patient, fit);
    }
    if let Some(minutes) = patient.minutes {
        let mut left = minutes;
        for (test, fit) in tests.iter().zip(&mut fits).filter(|(_, fit)| fit.state != FitState::NotNow) {
            match test.minutes {
                Some(needed) if needed > left => add(fit, FitState::NotNow, FitReason::Minutes),
                needed => left -= needed.unwrap_or(0.0),
            }
        }
    }
    // Stable: of one reach in the order of the tests.
    questions.sort_by_key(|it| std::cmp::Reverse(reach(it.scope)));
    ExaminationFit { questions, tests: fits, stop }
}

/// One that is only for another variant says nothing of this one.
fn applies(caution: &Caution, test: &ScreenedTest) -> bool {
    caution.variant.is_empty() || name_key(&caution.variant) == name_key(&test.variant)
}

fn reached(tests: &[ScreenedTest], of: usize, caution: &Caution, scope: CautionScope) -> Vec<usize> {
    let reaches = |(index, test): (usize, &ScreenedTest)| {
        let far = match scope {
            CautionScope::Test => false,
            CautionScope::Joint => caution.joint.is_some_and(|joint| test.joints.contains(&joint)),
            CautionScope::Region => test.region == tests[of].region,
            CautionScope::Examination => true,
        };
        (index == of || far).then_some(index)
    };
    tests.iter().enumerate().filter_map(reaches).collect()
}

fn reason(caution: &Caution, of: usize) -> FitReason {
    let Caution { text, instead, within_hours, .. } = caution.clone();
    FitReason::Caution { caution: text, instead, within_hours, of }
}

fn reach(scope: CautionScope) -> u8 {
    match scope {
        CautionScope::Test => 0,
        CautionScope::Joint => 1,
        CautionScope::Region => 2,
        CautionScope::Examination => 3,
    }
}

fn add(fit: &mut TestFit, state: FitState, reason: FitReason) {
    fit.state = fit.state.max(state);
    let same = |it: &FitReason| match (it, &reason) {
        // The same caution on several sheets is said once.
        (FitReason::Caution { caution, instead, .. }, FitReason::Caution { caution: other, instead: others, .. }) => {
            name_key(caution) == name_key(other) && name_key(instead) == name_key(others)
        }
        _ => *it == reason,
    };
    if !fit.reasons.iter().any(same) {
        fit.reasons.push(reason);
    }
}

fn note(
    questions: &mut Vec<ScreeningQuestion>,
    asked: &Asked<'_>,
    caution: &Caution,
    scope: CautionScope,
    reached: &[usize],
    answer: Option<ScreeningAnswer>,
) {
    let key = name_key(asked.question);
    let place = questions.iter().position(|it| name_key(&it.question) == key).unwrap_or_else(|| {
        questions.push(ScreeningQuestion {
            question: asked.question.to_owned(),
            about: Vec::new(),
            help: String::new(),
            unsafe_answers: Vec::new(),
            tests: Vec::new(),
            scope,
            answer,
        });
        questions.len() - 1
    });
    let question = &mut questions[place];
    if asked.question != caution.text && !question.about.iter().any(|it| name_key(it) == name_key(&caution.text)) {
        question.about.push(caution.text.clone());
    }
    if question.help.is_empty() {
        asked.help.clone_into(&mut question.help);
    }
    for answer in &asked.unsafe_answers {
        if !question.unsafe_answers.contains(answer) {
            question.unsafe_answers.push(*answer);
        }
    }
    let tests: HashSet<usize> = question.tests.iter().chain(reached).copied().collect();
    question.tests = tests.into_iter().collect();
    question.tests.sort_unstable();
    if reach(scope) > reach(question.scope) {
        question.scope = scope;
    }
}

fn surroundings(test: &ScreenedTest, patient: &PatientFit, fit: &mut TestFit) {
    if let Some(position) = test.position.filter(|it| patient.cannot_take.contains(it)) {
        add(fit, FitState::NotNow, FitReason::Position { position });
    }
    let lacking: Vec<String> = patient.lacking.iter().map(|name| name_key(name)).collect();
    for name in test.equipment.iter().filter(|name| lacking.contains(&name_key(name))) {
        add(fit, FitState::NotNow, FitReason::Equipment { name: name.clone() });
    }
    let borne = patient.irritable.map(|irritable| 3.0 - f64::from(irritable.min(3)));
    if borne.zip(test.irritation).is_some_and(|(borne, irritation)| irritation > borne) {
        add(fit, FitState::NotNow, FitReason::Irritation);
    }
}
