//! A patient: from the pre-test probability over the results found to what is done.

use std::collections::HashSet;

use pruvex_core::catalogue::{Region, name_key};
use pruvex_core::combine::{MAX_TESTS, TestAccuracy, expected_information};
use pruvex_core::likelihood::{
    BenefitPoint, Chain, Crossing, Finding, FoundLevel, FoundResult, NaturalFrequencies, Thresholds, Zone,
    after_result, chain, natural_frequencies, net_benefit_curve, supported_accuracy, supported_ratio,
};
use pruvex_core::people::Role;
use pruvex_core::pooling::{PooledLevelRatio, Warning};
use pruvex_core::{Estimate, FieldErrorCode, Level, Probability, Ratio, TestId};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::catalogue::{Catalogue, SharedStructures, TestRow, shared_structures};
use crate::people::Reader;
use crate::pooling::Evidence;
use crate::{App, AppError};

/// A patient: how probable the condition is, what was found so far, and from where on something is done.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PatientInput {
    pub(super) region: Region,
    /// Name of the target condition.
    pub(super) condition: String,
    pub(super) pre_test: Probability,
    /// From where to where the pre-test probability may lie, with 95 % confidence; without it, it is taken as known.
    #[serde(default)]
    range: Option<[Probability; 2]>,
    #[serde(default)]
    thresholds: Option<Thresholds>,
    /// Results in the order in which they were found.
    #[serde(default)]
    findings: Vec<FindingInput>,
    /// How far the tests know of each other's results, from 0 to 0.99.
    #[serde(default)]
    correlation: f64,
    /// The test that is looked at.
    #[serde(default)]
    pub(super) focus: Option<TestId>,
}

/// A result that was found: positive, negative, or one of the levels of the test's finding. A test that could not be done is none.
#[derive(Debug, Clone, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct FindingInput {
    pub(crate) test: TestId,
    /// Positive, or else negative; `null` where a level is given.
    #[serde(default)]
    positive: Option<bool>,
    /// Name of a level for which studies tell what it is worth.
    #[serde(default)]
    level: Option<String>,
}

/// What a level of a test's finding would tell of this patient now.
#[derive(Debug, Serialize, ToSchema)]
pub struct PatientLevel {
    name: String,
    ratio: Option<Estimate<Ratio>>,
    /// Probability if it is found, starting from where the results so far end.
    after: Option<Estimate<Probability>>,
    crossing: Option<Crossing>,
}

/// What a test would tell of this patient now.
#[derive(Debug, Serialize, ToSchema)]
pub struct PatientTest {
    test: TestId,
    name: String,
    evidence: Evidence,
    /// At least one study behind the figures is made up.
    sample: bool,
    lr_positive: Option<Estimate<Ratio>>,
    lr_negative: Option<Estimate<Ratio>>,
    /// Probability if it is positive, starting from where the results so far end.
    after_positive: Option<Estimate<Probability>>,
    after_negative: Option<Estimate<Probability>>,
    /// Whether that leads across a threshold.
    crossing_positive: Option<Crossing>,
    crossing_negative: Option<Crossing>,
    /// Its levels, the most normal first; empty where no studies tell what they are worth.
    levels: Vec<PatientLevel>,
    /// Studies that do.
    level_studies: usize,
    /// What must be said beside the figures.
    warnings: Vec<Warning>,
    /// Information expected of it, in bits.
    information: Option<f64>,
    /// Probabilities before it at which it can change what is done.
    useful: Vec<[Probability; 2]>,
    /// The same by the bounds of both ratios that are least favourable.
    useful_surely: Vec<[Probability; 2]>,
}

/// What is known of this patient.
#[derive(Debug, Serialize, ToSchema)]
pub struct PatientAnswer {
    /// The probability before testing that it starts from.
    pre_test: Estimate<Probability>,
    /// The results that it follows.
    findings: Vec<FindingInput>,
    chain: Chain,
    /// What the pre-test probability asks for; `null` without thresholds.
    before: Option<Zone>,
    /// For each result, whether it and those before it lead across a threshold.
    crossings: Vec<Option<Crossing>>,
    /// What makes results depend on each other; tests by the position of their result.
    shared: Vec<SharedStructures>,
    /// All tests for the condition.
    tests: Vec<PatientTest>,
    /// Where the dependent results would lead; `null` without thresholds.
    dependent_zone: Option<Zone>,
    /// The probability at which the test that is looked at is weighed: now, or before its own result if that was found.
    focus_at: Probability,
    /// Out of 1 000 people at that probability, tested with it.
    frequencies: Option<NaturalFrequencies>,
    /// What acting on it is worth at every threshold, at the same probability.
    benefit: Vec<BenefitPoint>,
}

impl PatientInput {
    pub(super) fn pre_test(&self) -> Result<Estimate<Probability>, AppError> {
        let [lower, upper] = self.range.unwrap_or([self.pre_test; 2]);
        if lower <= self.pre_test && self.pre_test <= upper {
            return Ok(Estimate { estimate: self.pre_test, lower, upper });
        }
        let value = format!("{} to {}", lower.get(), upper.get());
        let message = format!("The pre-test probability {} does not lie in its range.", self.pre_test.get());
        let remedy = "Give a range from a lower to a higher probability that includes it.";
        Err(AppError::field("range", FieldErrorCode::Invalid, value, message, remedy))
    }

    /// The rows of the tests for the condition, and of the results found.
    pub(super) fn rows<'a>(
        &self,
        catalogue: &'a Catalogue,
        role: Role,
    ) -> Result<(Vec<&'a TestRow>, Vec<&'a TestRow>), AppError> {
        let condition = name_key(&self.condition);
        let rows: Vec<&TestRow> = catalogue
            .all_rows(role)
            .iter()
            .map(AsRef::as_ref)
            .filter(|row: &&TestRow| row.region == self.region && row.condition_key == condition)
            .collect();
        let refused = |field: String, value: String, message: &str, remedy: &str| {
            AppError::field(field, FieldErrorCode::Invalid, value, message, remedy)
        };
        let count = self.findings.len();
        if count > MAX_TESTS {
            let message = "More results than can be put together.";
            return Err(refused("findings".to_owned(), count.to_string(), message, "Give at most 12."));
        }
        let mut seen = HashSet::new();
        let found = |(nth, finding): (usize, &FindingInput)| {
            let (at, id) = (format!("findings.{nth}.test"), finding.test.to_string());
            if !seen.insert(finding.test) {
                let message = "This test is given twice; the second result adds no information.";
                return Err(refused(at, id, message, "Give each test once."));
            }
            let row = rows.iter().find(|row| row.id == finding.test).copied();
            row.ok_or_else(|| {
                let message = "No test for this condition has this id.";
                refused(at, id, message, "Choose a test for the condition that is asked about.")
            })
        };
        let found = self.findings.iter().enumerate().map(found).collect::<Result<Vec<_>, _>>()?;
        for (nth, (row, finding)) in found.iter().zip(&self.findings).enumerate() {
            let at = |field: &str| format!("findings.{nth}.{field}");
            match (&finding.level, finding.positive) {
                (None, Some(_)) => {}
                (Some(level), None) if level_place(row, level).is_some() => {}
                (Some(level), None) => {
                    let message = "No study tells what this level is worth.";
                    let known = row.levels.iter().map(|it| it.name.as_str()).collect::<Vec<_>>().join(", ");
                    let remedy = if known.is_empty() {
                        "Give a positive or negative result.".to_owned()
                    } else {
                        format!("Give one of: {known}.")
                    };
                    return Err(refused(at("level"), level.clone(), message, &remedy));
                }
                (level, _) => {
                    let value = level.clone().unwrap_or_default();
                    let message = "A result is either positive or negative, or it is a level.";
                    return Err(refused(at("positive"), value, message, "Give one of the two."));
                }
            }
        }
        Ok((rows, found))
    }

    pub(super) fn chain(&self, pre_test: Estimate<Probability>, found: &[&TestRow]) -> Result<Chain, AppError> {
        self.chain_of(found.len(), pre_test, found)
    }

    /// Of the first results only.
    fn chain_of(&self, first: usize, pre_test: Estimate<Probability>, found: &[&TestRow]) -> Result<Chain, AppError> {
        let findings: Vec<Finding> = found
            .iter()
            .zip(&self.findings)
            .take(first)
            .map(|(row, it)| Finding { summary: row.summary.unwrap_or_default(), result: it.result(row) })
            .collect();
        chain(pre_test, &findings, self.correlation, Level::default()).map_err(|error| {
            let (value, remedy) = (self.correlation, "Use a number from 0 to 0.99.");
            AppError::field("correlation", FieldErrorCode::Invalid, value, format!("{error}."), remedy)
        })
    }
}

impl FindingInput {
    /// A positive or a negative result.
    pub(crate) fn of(test: TestId, positive: bool) -> Self {
        Self { test, positive: Some(positive), level: None }
    }

    /// A level of the test's finding.
    pub(crate) fn at_level(test: TestId, level: String) -> Self {
        Self { test, positive: None, level: Some(level) }
    }

    /// What it says of the test of this row.
    pub(crate) fn result(&self, row: &TestRow) -> FoundResult {
        let level = self.level.as_ref().and_then(|level| FoundLevel::of(&row.levels, level_place(row, level)?));
        match level {
            Some(level) => FoundResult::Level(level),
            None if self.positive == Some(true) => FoundResult::Positive,
            None => FoundResult::Negative,
        }
    }

    /// Whether it says something of the test of this row: it is positive or negative, or at a level of which something is known.
    pub(crate) fn speaks_of(&self, row: &TestRow) -> bool {
        self.positive.is_some() || self.level.as_ref().is_some_and(|level| level_place(row, level).is_some())
    }

    /// Neither positive nor negative, and no level either.
    pub(crate) fn says_nothing(&self) -> bool {
        self.positive.is_none() && self.level.is_none()
    }
}

fn level_place(row: &TestRow, level: &str) -> Option<usize> {
    row.levels.iter().position(|it| name_key(&it.name) == name_key(level))
}

fn patient_test(row: &TestRow, now: Estimate<Probability>, thresholds: Option<Thresholds>) -> PatientTest {
    let summary = row.summary.unwrap_or_default();
    let after = |lr: Option<Estimate<Ratio>>| after_result(now, lr?, Level::default());
    let (after_positive, after_negative) = (after(summary.lr_positive), after(summary.lr_negative));
    let crossing = |after: Option<Estimate<Probability>>| Some(thresholds?.crossing(now.estimate, after?));
    let level = |it: &PooledLevelRatio| {
        let after = after(it.ratio);
        PatientLevel { name: it.name.clone(), ratio: it.ratio, after, crossing: crossing(after) }
    };
    let useful = |positive: fn(Estimate<Ratio>) -> Ratio, negative: fn(Estimate<Ratio>) -> Ratio| {
        let both = thresholds.zip(summary.lr_positive.zip(summary.lr_negative));
        both.map(|(of, (plus, minus))| of.useful_ranges(positive(plus), negative(minus))).unwrap_or_default()
    };
    PatientTest {
        test: row.id,
        name: row.name.clone(),
        evidence: row.evidence,
        sample: row.sample,
        lr_positive: summary.lr_positive,
        lr_negative: summary.lr_negative,
        after_positive,
        after_negative,
        crossing_positive: crossing(after_positive),
        crossing_negative: crossing(after_negative),
        levels: row.levels.iter().map(level).collect(),
        level_studies: row.level_studies,
        warnings: row.warnings.clone(),
        information: accuracy(row).map(|of| expected_information(now.estimate, of)),
        useful: useful(supported_ratio, supported_ratio),
        useful_surely: useful(|plus| plus.lower, |minus| minus.upper),
    }
}

fn accuracy(row: &TestRow) -> Option<TestAccuracy> {
    supported_accuracy(row.summary.as_ref()?)
}

/// From the pre-test probability over the results found so far to what is done, and what each other test would still tell.
///
/// # Errors
/// A range, a result or a correlation that cannot be.
pub async fn answer_patient(app: &App, by: &Reader, input: PatientInput) -> Result<PatientAnswer, AppError> {
    let pre_test = input.pre_test()?;
    let catalogue = app.catalogue().await?;
    let (rows, found) = input.rows(&catalogue, by.role())?;
    let chain = input.chain(pre_test, &found)?;
    let now = chain.end;
    let focus = input.focus.and_then(|id| rows.iter().find(|row| row.id == id).copied());
    let own = input.findings.iter().position(|it| Some(it.test) == input.focus);
    let focus_at = match own {
        // A test is not weighed by what it said itself.
        Some(nth) => input.chain_of(nth, pre_test, &found)?.end.estimate,
        None => now.estimate,
    };
    let dependent = chain.dependence.and_then(|it| it.dependent);
    Ok(PatientAnswer {
        pre_test,
        before: input.thresholds.map(|it| it.zone(pre_test.estimate)),
        crossings: chain
            .steps
            .iter()
            .map(|step| Some(input.thresholds?.crossing(pre_test.estimate, step.after?)))
            .collect(),
        shared: shared_structures(&found, &catalogue),
        tests: rows.iter().map(|row| patient_test(row, now, input.thresholds)).collect(),
        dependent_zone: input.thresholds.zip(dependent).map(|(of, p)| of.zone(p)),
        focus_at,
        frequencies: focus
            .and_then(|row| row.summary.as_ref())
            .and_then(|it| it.sensitivity.zip(it.specificity))
            .map(|(se, sp)| natural_frequencies(1_000, focus_at, se.estimate, sp.estimate)),
        benefit: focus
            .and_then(|row| accuracy(row).zip(Some(row.joint)))
            .map(|(of, joint)| {
                net_benefit_curve(focus_at, of.sensitivity, of.specificity, joint.as_ref(), Level::default())
            })
            .unwrap_or_default(),
        chain,
        findings: input.findings,
    })
}
