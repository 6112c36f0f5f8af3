//! What an examination is held against later, and what many of them say of one's own hands.

use std::collections::HashSet;
use std::hash::Hash;

use chrono::NaiveDate;
use serde::{Deserialize, Serialize};

use crate::accuracy::{
    Counts, Methods, ProportionMethod, VerificationCounts, VerifiedAccuracy, correct_for_verification, corrected_table,
    proportion_interval, study_accuracy,
};
use crate::catalogue::Outcome;
use crate::catalogue::limits::{MAX_NAME, MAX_TEXT};
use crate::field::{Checker, Part, parts};
use crate::likelihood::{Calibration, Judged, calibration};
use crate::name::name_key;
use crate::plan::{ExaminationPlan, MAX_QUESTIONS};
use crate::{Count, Estimate, FieldError, FieldErrorCode, Level, Probability, Ratio, TestId};

/// What told whether a condition was there.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum StandardKind {
    /// Imaging.
    Imaging,
    /// An operation.
    Operation,
    /// An examination under anaesthesia.
    Anaesthesia,
    /// What became of the patient.
    Course,
    /// Something else, as the note says.
    Other,
}

/// Whether a condition was there.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum ReferenceFound {
    /// It was.
    Present,
    /// It was not.
    Absent,
    /// It did not tell.
    Unclear,
}

/// The reference result of one condition.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ReferenceResult {
    /// Name of the condition.
    pub condition: String,
    /// Whether it was there.
    pub found: Option<ReferenceFound>,
    /// What told.
    pub by: Option<StandardKind>,
    /// When.
    pub on: Option<NaiveDate>,
    /// In words.
    pub note: String,
}

/// Checks reference results against the plan that was carried out.
///
/// # Errors
/// Every fault found: none at all, a condition that the plan does not ask about or that stands there twice, nothing that says what was found or what told.
pub fn check_reference(
    given: &[ReferenceResult],
    plan: &ExaminationPlan,
) -> Result<Vec<ReferenceResult>, Vec<FieldError>> {
    let mut checker = Checker::default();
    let c = &mut checker;
    if given.is_empty() {
        let (message, remedy) = ("There is no reference result.", "Say whether the condition was there.");
        c.push(FieldError::new("results", FieldErrorCode::Missing, "", message, remedy));
    }
    for (nth, it) in given.iter().enumerate() {
        let field = format!("results[{nth}].condition");
        let key = name_key(&it.condition);
        if !plan.questions.iter().any(|question| name_key(&question.condition) == key) {
            let (message, remedy) = ("The plan does not ask about this condition.", "Give one of its conditions.");
            c.push(FieldError::new(field, FieldErrorCode::Unknown, &it.condition, message, remedy));
        } else if given[..nth].iter().any(|earlier| name_key(&earlier.condition) == key) {
            let message = "This condition stands here twice.";
            c.push(FieldError::new(field, FieldErrorCode::Duplicate, &it.condition, message, "Give each once."));
        }
    }
    let checked = parts(c, "results", given, MAX_QUESTIONS);
    checker.finish(Some(checked))
}

impl Part for ReferenceResult {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let field = |name: &str| format!("{at}.{name}");
        c.present(&field("found"), self.found, "Say whether it was there, or that it did not tell.");
        let by = c.present(&field("by"), self.by, "Say what told.");
        let note = c.text(&field("note"), &self.note, MAX_TEXT);
        if by == Some(StandardKind::Other) && note.is_empty() {
            c.required(&field("note"), "", MAX_TEXT, "Say in the note what told.");
        }
        Self { condition: c.text(&field("condition"), &self.condition, MAX_NAME), note, ..self.clone() }
    }

    fn is_blank(&self) -> bool {
        *self == Self::default()
    }
}

/// A finished examination as far as it counts, and what was found out later.
#[derive(Debug, Clone, PartialEq)]
pub struct ClosedExamination {
    /// Each condition that it asked about, with its probability at the end.
    pub questions: Vec<(String, Probability)>,
    /// Each test, as it was read; none where it was not done.
    pub tests: Vec<(TestId, Option<Outcome>)>,
    /// Its reference results; empty while there is none.
    pub reference: Vec<ReferenceResult>,
}

impl ClosedExamination {
    /// The probability of a condition at its end, by the compared form of that one's name; none where it did not ask about it.
    #[must_use]
    pub fn asked_about(&self, key: &str) -> Option<Probability> {
        self.questions.iter().find(|(condition, _)| name_key(condition) == key).map(|(_, after)| *after)
    }

    /// Whether a condition was there; none while nobody knows.
    #[must_use]
    pub fn present(&self, condition: &str) -> Option<bool> {
        present(&self.reference, &name_key(condition))
    }
}

/// What one's own examinations say of a condition.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct OwnRecords {
    /// Finished examinations that asked about it.
    pub finished: usize,
    /// Those of which it is known whether it was there.
    pub closed: usize,
    /// Share of these in which it was, with Wilson's interval.
    pub prevalence: Option<Estimate<Probability>>,
    /// How well the probabilities at their ends agree with what was found.
    pub calibration: Option<Calibration>,
    /// Each test that was positive or negative in one of them, in the order in which they were met.
    pub tests: Vec<OwnTest>,
}

/// What one's own examinations say of a test.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct OwnTest {
    /// Which test.
    pub test: TestId,
    /// Its results, and what was found out later.
    pub counts: VerificationCounts,
    /// Results that were neither positive nor negative: with the condition, without it, and of whom nothing was found out.
    pub uninterpretable: [u32; 3],
    /// Its accuracy, corrected for those of whom nothing was found out: they are taken to be like those with the same result.
    pub accuracy: VerifiedAccuracy,
    /// Likelihood ratio of a positive result from the corrected table.
    pub lr_positive: Option<Estimate<Ratio>>,
    /// Of a negative one.
    pub lr_negative: Option<Estimate<Ratio>>,
}

/// What one's own examinations say of a condition. In the four cells a test counts where it was read as positive or negative.
#[must_use]
pub fn own_records(records: &[ClosedExamination], condition: &str) -> OwnRecords {
    let key = name_key(condition);
    let mut judged = Vec::new();
    let mut finished = 0;
    let mut tests: Vec<(TestId, [[u32; 3]; 3])> = Vec::new();
    for record in records {
        let Some(after) = record.asked_about(&key) else { continue };
        finished += 1;
        let present = record.present(condition);
        judged.extend(present.map(|came| Judged { probability: after, came }));
        for (test, outcome) in &record.tests {
            let row = match outcome {
                Some(Outcome::Positive) => 0,
                Some(Outcome::Negative) => 1,
                Some(Outcome::Equivocal | Outcome::NotInterpretable) => 2,
                None => continue,
            };
            let place = tests.iter().position(|it| it.0 == *test).unwrap_or_else(|| {
                tests.push((*test, [[0; 3]; 3]));
                tests.len() - 1
            });
            let column = present.map_or(2, |present| usize::from(!present));
            tests[place].1[row][column] += 1;
        }
    }
    let read = tests.into_iter().filter(|(_, cells)| cells[..2].iter().flatten().any(|it| *it > 0));
    let with = judged.iter().filter(|it| it.came).count() as u64;
    let (level, method) = (Level::default(), ProportionMethod::Wilson);
    OwnRecords {
        finished,
        closed: judged.len(),
        prevalence: proportion_interval(with, judged.len() as u64, level, method),
        calibration: calibration(&judged),
        tests: read.filter_map(|(test, cells)| own_test(test, cells)).collect(),
    }
}

/// So many examiners at least, so that a share of all records tells of none of them.
const FEWEST_EXAMINERS: usize = 3;

/// Share of a condition in the closed records of everybody.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ClinicPrevalence {
    /// With Wilson's interval.
    pub share: Estimate<Probability>,
    /// Records of which it is known whether the condition was there.
    pub records: usize,
}

/// Share of a condition in closed records, each with whose it is; none while fewer than three examiners have one.
#[must_use]
pub fn clinic_prevalence<T: Eq + Hash>(
    records: &[(T, Vec<ReferenceResult>)],
    condition: &str,
) -> Option<ClinicPrevalence> {
    let key = name_key(condition);
    let found: Vec<(&T, bool)> = records.iter().filter_map(|(of, it)| Some((of, present(it, &key)?))).collect();
    let examiners: HashSet<&T> = found.iter().map(|(of, _)| *of).collect();
    if examiners.len() < FEWEST_EXAMINERS {
        return None;
    }
    let with = found.iter().filter(|(_, present)| *present).count() as u64;
    let share = proportion_interval(with, found.len() as u64, Level::default(), ProportionMethod::Wilson)?;
    Some(ClinicPrevalence { share, records: found.len() })
}

/// Whether a condition was there, by the compared form of its name; none while nobody knows.
fn present(reference: &[ReferenceResult], key: &str) -> Option<bool> {
    match reference.iter().find(|it| name_key(&it.condition) == key)?.found? {
        ReferenceFound::Present => Some(true),
        ReferenceFound::Absent => Some(false),
        ReferenceFound::Unclear => None,
    }
}

fn own_test(test: TestId, cells: [[u32; 3]; 3]) -> Option<OwnTest> {
    // As many records as no count holds are no records.
    let count = |row: usize, column: usize| Count::new(f64::from(cells[row][column])).ok();
    let counts = VerificationCounts {
        positive_with: count(0, 0)?,
        positive_without: count(0, 1)?,
        positive_unverified: count(0, 2)?,
        negative_with: count(1, 0)?,
        negative_without: count(1, 1)?,
        negative_unverified: count(1, 2)?,
    };
    let of = |row: usize, column: usize| f64::from(cells[row][column]);
    // Where nobody with one of the results was followed up, only those who were can be counted.
    let table = corrected_table(&counts).or_else(|| Counts::full(of(0, 0), of(0, 1), of(1, 0), of(1, 1)).ok());
    let own = table.map(|table| study_accuracy(&table, Methods::default()));
    Some(OwnTest {
        test,
        counts,
        uninterpretable: cells[2],
        accuracy: correct_for_verification(&counts, Level::default()),
        lr_positive: own.as_ref().and_then(|it| it.lr_positive),
        lr_negative: own.as_ref().and_then(|it| it.lr_negative),
    })
}

/// Whether one's own ratio agrees with the published ones.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Holds {
    /// The own ratio lies where that of a further study is expected.
    AsPublished,
    /// It lies outside, but its interval does not: too few to tell.
    Unsure,
    /// Its whole interval lies outside.
    Otherwise,
}

/// Whether an own ratio agrees with where that of a further study is expected.
#[must_use]
pub fn holds(own: Estimate<Ratio>, expected: Estimate<Ratio>) -> Holds {
    let (low, high) = (expected.lower.get(), expected.upper.get());
    if (low..=high).contains(&own.estimate.get()) {
        Holds::AsPublished
    } else if own.upper.get() < low || own.lower.get() > high {
        Holds::Otherwise
    } else {
        Holds::Unsure
    }
}
