//! Two people read the same result off a report without seeing each other's work; what they read is compared field by field, and
//! settled with a reason. How well they agree is measured as for any two raters.

use std::collections::{BTreeMap, BTreeSet};

use serde::{Deserialize, Serialize};
use serde_json::Value;

use super::field_kind::FieldKind;
use super::result::COMPARED;
use super::{AccuracyInput, AccuracyResult, Study, StudyInput};
use crate::accuracy::{ProportionMethod, proportion_interval};
use crate::agreement::{RatingTable, TwoRaterAgreement, two_rater_agreement};
use crate::{Estimate, FieldError, FieldErrorCode, Level, Probability};

/// What one person read off a report, as it was typed.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ExtractionInput {
    /// Who was examined, and how.
    pub study: StudyInput,
    /// What was found.
    pub result: AccuracyInput,
}

/// What one person read off a report, checked.
#[derive(Debug, Clone, PartialEq)]
pub struct Extraction {
    /// Who was examined, and how.
    pub study: Study,
    /// What was found.
    pub result: AccuracyResult,
}

impl Extraction {
    /// Checks what was read, by the rules of any study and result.
    ///
    /// # Errors
    /// Every fault found, under `study` and `result`.
    pub fn check(input: &ExtractionInput) -> Result<Self, Vec<FieldError>> {
        let within = |prefix: &'static str| {
            move |errors: Vec<FieldError>| -> Vec<FieldError> {
                errors.into_iter().map(|error| error.within(prefix)).collect()
            }
        };
        let study = Study::check(&input.study).map_err(within("study."));
        let result = AccuracyResult::check(&input.result).map_err(within("result."));
        match (study, result) {
            (Ok(study), Ok(result)) => match result.fits(&study) {
                Ok(()) => Ok(Self { study, result }),
                Err(error) => Err(vec![error.within("study.")]),
            },
            (study, result) => {
                Err(study.err().into_iter().flatten().chain(result.err().into_iter().flatten()).collect())
            }
        }
    }

    /// As it would be written.
    #[must_use]
    pub fn written(&self) -> ExtractionInput {
        let Study { reference, reference_id, population, setup, note } = self.study.clone();
        let study = StudyInput { reference, reference_id, population, setup, note };
        ExtractionInput { study, result: self.result.written() }
    }

    /// What it says in each of [`fields`]; `null` where it says nothing.
    fn said(&self) -> Vec<Value> {
        let mut whole = serde_json::json!(self.written());
        if let Some(Value::Array(tests)) = whole.pointer_mut("/result/together/tests") {
            tests.sort_by_key(ToString::to_string);
        }
        let one = |(field, _): (&str, FieldKind)| match whole.pointer(&format!("/{}", field.replace('.', "/"))) {
            None => Value::Null,
            Some(Value::String(text)) if text.is_empty() => Value::Null,
            Some(value) => value.clone(),
        };
        fields().map(one).collect()
    }
}

/// What is compared, in the order of the form. Left out are the reference, which is given, notes, which are each reader's own, and which
/// result is pooled, which is no matter of the report.
const OF_STUDY: [(&str, FieldKind); 16] = [
    ("study.population", FieldKind::Words),
    ("study.setup.design", FieldKind::Choice),
    ("study.setup.recruitment", FieldKind::Choice),
    ("study.setup.setting", FieldKind::Choice),
    ("study.setup.country", FieldKind::Words),
    ("study.setup.first_year", FieldKind::Number),
    ("study.setup.last_year", FieldKind::Number),
    ("study.setup.people", FieldKind::Number),
    ("study.setup.age", FieldKind::Number),
    ("study.setup.youngest", FieldKind::Number),
    ("study.setup.oldest", FieldKind::Number),
    ("study.setup.women", FieldKind::Number),
    ("study.setup.activity", FieldKind::Choice),
    ("study.setup.course", FieldKind::Choice),
    ("study.setup.state", FieldKind::Choice),
    ("study.setup.examiners", FieldKind::Words),
];

fn fields() -> impl Iterator<Item = (&'static str, FieldKind)> {
    OF_STUDY.into_iter().chain(COMPARED)
}

/// One field of two extractions.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct FieldPair {
    /// Path of the field.
    pub field: &'static str,
    /// How the two are compared.
    pub kind: FieldKind,
    /// What the first reader says; `null` when nothing.
    pub first: Value,
    /// What the second reader says.
    pub second: Value,
    /// Whether that is the same.
    pub same: bool,
}

fn alike(kind: FieldKind, one: &Value, other: &Value) -> bool {
    match (kind, one, other) {
        (FieldKind::Words, Value::String(one), Value::String(other)) => {
            let plain = |text: &str| {
                let words: Vec<String> = text.split_whitespace().map(str::to_lowercase).collect();
                words.join(" ").trim_end_matches('.').to_owned()
            };
            plain(one) == plain(other)
        }
        // 12 and 12.0 are one number.
        (FieldKind::Number, one, other) => one.as_f64() == other.as_f64(),
        _ => one == other,
    }
}

/// Two extractions of one result beside each other, in the order of the form.
#[must_use]
pub fn compare(first: &Extraction, second: &Extraction) -> Vec<FieldPair> {
    let pairs = fields().zip(first.said()).zip(second.said());
    pairs
        .map(|(((field, kind), first), second)| {
            let same = alike(kind, &first, &second);
            FieldPair { field, kind, first, second, same }
        })
        .collect()
}

/// How a field was adjudicated on which the extractors differed, or which was changed although they did not.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Decision {
    /// Path of the field.
    pub field: String,
    /// What the first reader said.
    pub first: Value,
    /// What the second reader said.
    pub second: Value,
    /// What stands now.
    pub settled: Value,
    /// Why; may be empty where only words of one's own differ.
    pub reason: String,
}

/// What was decided when `settled` came out of two extractions. A number or a choice on which the readers differed, or which is now
/// another than both said, needs its reason; of words that say the same in two ways one is simply taken.
///
/// # Errors
/// Every reason that is missing, too long, or given for a field that is not among those compared, at `reasons.` and the field.
pub fn settle(
    first: &Extraction,
    second: &Extraction,
    settled: &Extraction,
    reasons: &BTreeMap<String, String>,
) -> Result<Vec<Decision>, Vec<FieldError>> {
    let mut checker = crate::field::Checker::default();
    for (field, reason) in reasons {
        if !fields().any(|(known, _)| known == field) {
            let (place, message) = (format!("reasons.{field}"), "There is no such field to adjudicate.");
            checker.push(FieldError::new(place, FieldErrorCode::Unknown, reason, message, "Leave it out."));
        }
    }
    let mut decisions = Vec::new();
    for (FieldPair { field, kind, first, second, same }, settled) in
        compare(first, second).into_iter().zip(settled.said())
    {
        if same && alike(kind, &first, &settled) {
            continue;
        }
        let place = format!("reasons.{field}");
        let given = reasons.get(field).map_or("", String::as_str);
        let reason = match kind {
            FieldKind::Words => checker.text(&place, given, 1_000),
            FieldKind::Choice | FieldKind::Number => {
                checker.required(&place, given, 1_000, "Say in a few words why this stands.")
            }
        };
        decisions.push(Decision { field: field.to_owned(), first, second, settled, reason });
    }
    checker.finish(Some(decisions))
}

/// How often two readers said the same in one field.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct FieldAgreement {
    /// Path of the field.
    pub field: &'static str,
    /// How it is compared.
    pub kind: FieldKind,
    /// Double extractions; saying nothing counts as an answer.
    pub n: u64,
    /// In how many of them both said the same.
    pub same: u64,
    /// Their share, Wilson interval.
    pub share: Option<Estimate<Probability>>,
    /// For choices: Cohen's kappa and what stands beside it. `null` when everybody always said the same one thing.
    pub choices: Option<TwoRaterAgreement>,
}

/// How well readers agree over all double extractions.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ReaderAgreement {
    /// Double extractions.
    pub n: u64,
    /// Numbers and choices about which at least one of the two said something.
    pub compared: u64,
    /// How many of them both said alike.
    pub same: u64,
    /// Their share, Wilson interval. Fields of one extraction are not independent of each other: the interval is too narrow rather than
    /// too wide.
    pub share: Option<Estimate<Probability>>,
    /// Field by field, numbers and choices only.
    pub fields: Vec<FieldAgreement>,
}

/// Agreement of readers over double extractions, each compared by [`compare`]. For choices it is Cohen's kappa with the first reader's
/// answers in the rows and the second's in the columns, saying nothing being an answer of its own (Cohen 1960; see
/// [`two_rater_agreement`]); for numbers the share that is exactly the same.
#[must_use]
pub fn reader_agreement(extractions: &[Vec<FieldPair>], level: Level) -> ReaderAgreement {
    let share = |same, n| proportion_interval(same, n, level, ProportionMethod::Wilson);
    let counted = extractions.iter().flatten().filter(|it| it.kind != FieldKind::Words);
    let said = counted.clone().filter(|it| !(it.first.is_null() && it.second.is_null()));
    let (compared, same) = (said.clone().count() as u64, said.filter(|it| it.same).count() as u64);
    let field = |(field, kind): (&'static str, FieldKind)| {
        let pairs: Vec<&FieldPair> = counted.clone().filter(|it| it.field == field).collect();
        let (n, same) = (pairs.len() as u64, pairs.iter().filter(|it| it.same).count() as u64);
        let choices = (kind == FieldKind::Choice).then(|| ratings(&pairs)).flatten();
        let choices = choices.map(|table| two_rater_agreement(&table, level));
        FieldAgreement { field, kind, n, same, share: share(same, n), choices }
    };
    let kinds = fields().filter(|(_, kind)| *kind != FieldKind::Words);
    let fields = kinds.map(field).collect();
    ReaderAgreement { n: extractions.len() as u64, compared, same, share: share(same, compared), fields }
}

/// The answers that occur as categories; none while there is but one.
fn ratings(pairs: &[&FieldPair]) -> Option<RatingTable> {
    let said: Vec<[String; 2]> = pairs.iter().map(|it| [it.first.to_string(), it.second.to_string()]).collect();
    let answers: BTreeSet<&String> = said.iter().flatten().collect();
    let place = |answer: &String| answers.iter().position(|it| *it == answer);
    let mut cells = vec![vec![0_u32; answers.len()]; answers.len()];
    for [first, second] in &said {
        if let (Some(row), Some(column)) = (place(first), place(second)) {
            cells[row][column] += 1;
        }
    }
    RatingTable::new(cells).ok()
}
