//! One result of a study: a test, done in one way and read by one criterion, against a reference standard, and its four cells.

use serde::{Deserialize, Serialize};

use super::field_kind::FieldKind;
use super::study::Study;
use crate::accuracy::{Counts, Flow, LevelCounts, LevelInput, RawCounts, check_levels};
use crate::field::Checker;
use crate::{FieldError, FieldErrorCode, TestId};

/// What was counted.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Unit {
    /// Each person once.
    Person,
    /// Each side of a person, so that some people count twice.
    Side,
}

/// When several tests together count as positive.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Rule {
    /// One of them is enough.
    Any,
    /// All of them must be.
    All,
    /// At least this many of them.
    AtLeast(u8),
}

/// The tests that were read together with the one that the result stands at.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Together {
    /// The other tests.
    pub tests: Vec<TestId>,
    /// When all of them together count as positive.
    pub rule: Rule,
}

/// A result as a person or a file wrote it.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct AccuracyInput {
    /// Which variant of the test was done; empty for the one that is taught.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub variant: String,
    /// What counted as positive, when it is not what the sheet teaches.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub criterion: String,
    /// Target condition, when it is not that of the sheet.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub condition: String,
    /// Which stage of it: any, partial, complete, severe.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub stage: String,
    /// Which of the study's people, when not all of them.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub group: String,
    /// What decided who has the condition.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub reference_standard: String,
    /// What was counted.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub unit: Option<Unit>,
    /// Other tests that were read together with this one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub together: Option<Together>,
    /// Of several results of the same people this one enters a pool.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub preferred: bool,
    /// Where the report prints it: page, table.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub page: String,
    /// Notes of who extracted it: how the counts came about.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub note: String,
    /// True positives; absent, like false negatives, when people with the condition are not reported.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub tp: Option<f64>,
    /// False positives; absent, like true negatives, when people without the condition are not reported.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub fp: Option<f64>,
    /// False negatives.
    #[serde(rename = "fn", skip_serializing_if = "Option::is_none")]
    pub fn_: Option<f64>,
    /// True negatives.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub tn: Option<f64>,
    /// Test positive, reference standard not done.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub positive_unverified: Option<f64>,
    /// Test negative, reference standard not done.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub negative_unverified: Option<f64>,
    /// Test not interpretable, with the condition; not in the cells.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub uninterpretable_with: Option<f64>,
    /// Test not interpretable, without the condition.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub uninterpretable_without: Option<f64>,
    /// Test not interpretable, and not known who has the condition.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub uninterpretable_unverified: Option<f64>,
    /// Counts per level of the finding, the most normal first; the four cells are a cut between them.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub levels: Vec<LevelInput>,
}

/// A checked result.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct AccuracyResult {
    /// Which variant of the test was done; empty for the one that is taught.
    pub variant: String,
    /// What counted as positive, when it is not what the sheet teaches.
    pub criterion: String,
    /// Target condition, when it is not that of the sheet.
    pub condition: String,
    /// Which stage of it.
    pub stage: String,
    /// Which of the study's people, when not all of them.
    pub group: String,
    /// What decided who has the condition.
    pub reference_standard: String,
    /// What was counted.
    pub unit: Option<Unit>,
    /// Other tests that were read together with this one.
    pub together: Option<Together>,
    /// Of several results of the same people this one enters a pool.
    pub preferred: bool,
    /// Where the report prints it.
    pub page: String,
    /// Notes of who extracted it.
    pub note: String,
    /// The four cells.
    pub counts: Counts,
    /// Who is in none of them.
    #[serde(flatten)]
    pub flow: Flow,
    /// Counts per level of the finding, the most normal first; none where the report gives no levels.
    pub levels: Vec<LevelCounts>,
}

/// What two readers of a report are compared by, in the order of the form. A note is each reader's own, and which result is pooled is no
/// matter of the report.
pub(super) const COMPARED: [(&str, FieldKind); 19] = [
    ("result.tp", FieldKind::Number),
    ("result.fp", FieldKind::Number),
    ("result.fn", FieldKind::Number),
    ("result.tn", FieldKind::Number),
    ("result.positive_unverified", FieldKind::Number),
    ("result.negative_unverified", FieldKind::Number),
    ("result.uninterpretable_with", FieldKind::Number),
    ("result.uninterpretable_without", FieldKind::Number),
    ("result.uninterpretable_unverified", FieldKind::Number),
    ("result.levels", FieldKind::Choice),
    ("result.reference_standard", FieldKind::Words),
    ("result.variant", FieldKind::Choice),
    ("result.criterion", FieldKind::Words),
    ("result.condition", FieldKind::Words),
    ("result.stage", FieldKind::Words),
    ("result.group", FieldKind::Words),
    ("result.unit", FieldKind::Choice),
    ("result.together", FieldKind::Choice),
    ("result.page", FieldKind::Words),
];

const MOST_TOGETHER: usize = 20;

impl AccuracyResult {
    /// Checks a result by itself.
    ///
    /// # Errors
    /// Every fault found, those of the cells included.
    pub fn check(input: &AccuracyInput) -> Result<Self, Vec<FieldError>> {
        let mut c = Checker::default();
        let [variant, criterion, condition, stage, group, page] = [
            ("variant", &input.variant, 160),
            ("criterion", &input.criterion, 1_000),
            ("condition", &input.condition, 160),
            ("stage", &input.stage, 200),
            ("group", &input.group, 500),
            ("page", &input.page, 200),
        ]
        .map(|(field, value, most)| c.text(field, value, most));
        let reference_standard = c.text("reference_standard", &input.reference_standard, 2_000);
        let note = c.text("note", &input.note, 10_000);
        let together = input.together.as_ref().and_then(|it| together(&mut c, it));
        let raw = RawCounts { tp: input.tp, fp: input.fp, fn_: input.fn_, tn: input.tn };
        let counts = Counts::check(raw).map_err(|errors| errors.into_iter().for_each(|e| c.push(e))).ok();
        let flow = [
            input.positive_unverified,
            input.negative_unverified,
            input.uninterpretable_with,
            input.uninterpretable_without,
            input.uninterpretable_unverified,
        ];
        let flow = Flow::check(flow).map_err(|errors| errors.into_iter().for_each(|e| c.push(e))).ok();
        let levels = check_levels(&input.levels, counts.as_ref());
        let levels = levels.map_err(|errors| errors.into_iter().for_each(|e| c.push(e))).unwrap_or_default();
        let (unit, preferred) = (input.unit, input.preferred);
        c.finish(counts.zip(flow).map(|(counts, flow)| Self {
            variant,
            criterion,
            condition,
            stage,
            group,
            reference_standard,
            unit,
            together,
            preferred,
            page,
            note,
            counts,
            flow,
            levels,
        }))
    }

    /// As it would be written.
    #[must_use]
    pub fn written(&self) -> AccuracyInput {
        let [tp, fp, fn_, tn] = self.counts.cells().map(|cell| cell.map(f64::from));
        let [
            positive_unverified,
            negative_unverified,
            uninterpretable_with,
            uninterpretable_without,
            uninterpretable_unverified,
        ] = self.flow.counts().map(|count| count.map(|it| f64::from(it.get())));
        let Self { variant, criterion, condition, stage, group, reference_standard, page, note, .. } = self.clone();
        let (unit, together, preferred) = (self.unit, self.together.clone(), self.preferred);
        let level = |it: &LevelCounts| LevelInput {
            name: it.name.clone(),
            with: Some(f64::from(it.with.get())),
            without: Some(f64::from(it.without.get())),
        };
        let levels = self.levels.iter().map(level).collect();
        AccuracyInput {
            variant,
            criterion,
            condition,
            stage,
            group,
            reference_standard,
            unit,
            together,
            preferred,
            page,
            note,
            tp,
            fp,
            fn_,
            tn,
            positive_unverified,
            negative_unverified,
            uninterpretable_with,
            uninterpretable_without,
            uninterpretable_unverified,
            levels,
        }
    }

    /// No more people in the cells, and beside them, than the study examined.
    ///
    /// # Errors
    /// One, about `people` in the study's setup.
    pub fn fits(&self, study: &Study) -> Result<(), FieldError> {
        fits(study, self.unit, self.counts, &self.flow)
    }
}

/// [`AccuracyResult::fits`] of what is needed for it.
///
/// # Errors
/// One, about `people` in the study's setup.
pub fn fits(study: &Study, unit: Option<Unit>, counts: Counts, flow: &Flow) -> Result<(), FieldError> {
    let cells: u64 = counts.cells().into_iter().flatten().map(u64::from).sum();
    let counted = cells + flow.people();
    let sides = if unit == Some(Unit::Side) { 2.0 } else { 1.0 };
    match study.setup.people {
        Some(people) if counted as f64 > sides * people => Err(FieldError::new(
            "setup.people",
            FieldErrorCode::Invalid,
            people,
            match flow.people() {
                0 => format!("The cells hold {counted}, more than were examined."),
                beside => {
                    format!("The cells hold {cells} and {beside} are outside them: more than were examined.")
                }
            },
            "Compare the counts and this number with the report, or say that sides were counted.",
        )),
        _ => Ok(()),
    }
}

impl Rule {
    /// Whether it can be met by a test together with so many `others`.
    ///
    /// # Errors
    /// One, about `together.rule` or, with more than 20 others, about `together.tests`.
    pub fn check(self, others: usize) -> Result<(), FieldError> {
        if others > MOST_TOGETHER {
            let message = format!("{others} tests were named; at most {MOST_TOGETHER} fit.");
            let remedy = "Leave some of them out.";
            return Err(FieldError::new("together.tests", FieldErrorCode::TooLong, others, message, remedy));
        }
        match self {
            Self::AtLeast(least) if least < 1 || usize::from(least) > others + 1 => {
                let message = format!("{} tests were read together; {least} of them cannot be asked for.", others + 1);
                let remedy = "Compare it with the report.";
                Err(FieldError::new("together.rule", FieldErrorCode::Invalid, least, message, remedy))
            }
            _ => Ok(()),
        }
    }
}

fn together(c: &mut Checker, given: &Together) -> Option<Together> {
    let mut seen = std::collections::HashSet::new();
    for (index, test) in given.tests.iter().enumerate() {
        if !seen.insert(test) {
            let field = format!("together.tests[{index}]");
            let message = "This test is named twice.";
            c.push(FieldError::new(field, FieldErrorCode::Duplicate, test, message, "Name each test once."));
        }
    }
    if let Err(error) = given.rule.check(given.tests.len()) {
        c.push(error);
    }
    // Nothing but this test is this test by itself.
    (!given.tests.is_empty()).then(|| given.clone())
}
