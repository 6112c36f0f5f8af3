//! What results mean at a pre-test probability, and what is done about it.

use std::collections::{BTreeMap, HashSet};
use std::sync::Arc;

use pruvex_core::catalogue::{Region, name_key};
use pruvex_core::combine::{MAX_TESTS, TestAccuracy, expected_information};
use pruvex_core::evidence::{PooledAgreement, SpectrumPart, other_spectrum, spectrum};
use pruvex_core::likelihood::{
    AccuracyStudySize, BenefitPoint, Chain, Crossing, Finding, NaturalFrequencies, Thresholds, Zone, after_result,
    chain, natural_frequencies, net_benefit_curve, people_for_accuracy, post_test_interval, subjects_for_kappa,
    supported_accuracy, supported_ratio, treatment_threshold,
};
use pruvex_core::pooling::{Limit, ModelChoice, Warning, read};
use pruvex_core::{Estimate, FieldError, FieldErrorCode, Level, Probability, Ratio};
use pruvex_formats::{LadderFigure, LadderTest, ladder_figure, region_name};
use pruvex_store::condition::list_conditions;
use pruvex_store::evidence as store;
use rocket::serde::json::Json;
use rocket::serde::{Deserialize, Serialize};
use rocket::{State, get, post};
use utoipa::ToSchema;
use uuid::Uuid;

use super::catalogue::{ListQuery, TestRow};
use super::pooling::Evidence;
use super::pools::{PoolInput, gather, pooled_agreements, provenance};
use crate::body::JsonBody;
use crate::download::{Download, figure_format};
use crate::off::off;
use crate::params::choice;
use crate::people::Reader;
use crate::problem::{ApiError, Problem};
use crate::shelf::Shelf;
use crate::state::{AppState, Db};

/// The question: how probable is the condition before testing, and which tests are asked about.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(crate = "rocket::serde", deny_unknown_fields)]
pub(crate) struct Question {
    /// Pre-test probability.
    pre_test: Probability,
    /// At most 5 000 tests.
    tests: Vec<QuestionTest>,
}

/// A test's summary point, as the pool gave it.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(crate = "rocket::serde", deny_unknown_fields)]
pub(crate) struct QuestionTest {
    /// Comes back with the answer.
    key: String,
    sensitivity: Option<Estimate<Probability>>,
    specificity: Option<Estimate<Probability>>,
    lr_positive: Option<Estimate<Ratio>>,
    lr_negative: Option<Estimate<Ratio>>,
}

/// What a result of one test means.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct Answer {
    key: String,
    /// Probability after a positive result; `null` when not estimable.
    after_positive: Option<Estimate<Probability>>,
    /// Probability after a negative result.
    after_negative: Option<Estimate<Probability>>,
    /// The same in whole people out of 1 000.
    frequencies: Option<NaturalFrequencies>,
}

/// Bayes' rule for many tests at once.
#[utoipa::path(context_path = "/api/v1", tag = "likelihood", request_body = Question,
    responses((status = 200, body = Vec<Answer>), (status = 400, body = Problem)))]
#[post("/likelihood/answers", data = "<question>")]
pub(crate) fn answer(_by: Reader, question: JsonBody<Question>) -> Result<Json<Vec<Answer>>, ApiError> {
    let Question { pre_test, tests } = question.0;
    if tests.len() > 5_000 {
        let message = "at most 5000 tests are answered at once".to_owned();
        return Err(ApiError::Malformed { path: "tests".to_owned(), message });
    }
    let answer = |test: QuestionTest| Answer {
        key: test.key,
        after_positive: test.lr_positive.and_then(|lr| post_test_interval(pre_test, lr)),
        after_negative: test.lr_negative.and_then(|lr| post_test_interval(pre_test, lr)),
        frequencies: test
            .sensitivity
            .zip(test.specificity)
            .map(|(se, sp)| natural_frequencies(1_000, pre_test, se.estimate, sp.estimate)),
    };
    Ok(Json(tests.into_iter().map(answer).collect()))
}

/// A patient: how probable the condition is, what was found so far, and from where on something is done.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(crate = "rocket::serde", deny_unknown_fields)]
pub(crate) struct PatientInput {
    region: Region,
    /// Name of the target condition.
    condition: String,
    pre_test: Probability,
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
    focus: Option<Uuid>,
}

/// A result that was found. A test that could not be done is none.
#[derive(Debug, Clone, Copy, Deserialize, Serialize, ToSchema)]
#[serde(crate = "rocket::serde", deny_unknown_fields)]
pub(crate) struct FindingInput {
    test: Uuid,
    positive: bool,
}

/// Structures that two tests load: their results depend on each other.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct SharedStructures {
    /// The two results, by position.
    findings: [usize; 2],
    structures: Vec<String>,
}

/// What a test would tell of this patient now.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct PatientTest {
    test: Uuid,
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
#[serde(crate = "rocket::serde")]
pub(crate) struct PatientAnswer {
    /// The probability before testing that it starts from.
    pre_test: Estimate<Probability>,
    /// The results that it follows.
    findings: Vec<FindingInput>,
    chain: Chain,
    /// What the pre-test probability asks for; `null` without thresholds.
    before: Option<Zone>,
    /// For each result, whether it and those before it lead across a threshold.
    crossings: Vec<Option<Crossing>>,
    /// What makes results depend on each other.
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
    fn pre_test(&self) -> Result<Estimate<Probability>, ApiError> {
        let [lower, upper] = self.range.unwrap_or([self.pre_test; 2]);
        if lower <= self.pre_test && self.pre_test <= upper {
            return Ok(Estimate { estimate: self.pre_test, lower, upper });
        }
        let value = format!("{} to {}", lower.get(), upper.get());
        let message = format!("The pre-test probability {} does not lie in its range.", self.pre_test.get());
        let remedy = "Give a range from a lower to a higher probability that includes it.";
        Err(ApiError::Fields(vec![FieldError::new("range", FieldErrorCode::Invalid, value, message, remedy)]))
    }

    /// The rows of the tests for the condition, and of the results found.
    fn rows<'a>(&self, shelf: &'a Shelf, by: &Reader) -> Result<(Vec<&'a TestRow>, Vec<&'a TestRow>), ApiError> {
        let condition = name_key(&self.condition);
        let rows: Vec<&TestRow> = shelf
            .rows(by.0.role)
            .iter()
            .map(AsRef::as_ref)
            .filter(|row: &&TestRow| row.region == self.region && name_key(&row.condition) == condition)
            .collect();
        let refused = |field: String, value: String, message: &str, remedy: &str| {
            ApiError::Fields(vec![FieldError::new(field, FieldErrorCode::Invalid, value, message, remedy)])
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
                let message = "This test is given twice; its second result tells nothing that the first did not.";
                return Err(refused(at, id, message, "Give each test once."));
            }
            let row = rows.iter().find(|row| row.id == finding.test).copied();
            row.ok_or_else(|| {
                let message = "No test for this condition has this id.";
                refused(at, id, message, "Take a test for the condition that is asked about.")
            })
        };
        let found = self.findings.iter().enumerate().map(found).collect::<Result<Vec<_>, _>>()?;
        Ok((rows, found))
    }

    fn chain(&self, pre_test: Estimate<Probability>, found: &[&TestRow]) -> Result<Chain, ApiError> {
        self.chain_of(found.len(), pre_test, found)
    }

    /// Of the first results only.
    fn chain_of(&self, first: usize, pre_test: Estimate<Probability>, found: &[&TestRow]) -> Result<Chain, ApiError> {
        let findings: Vec<Finding> = found
            .iter()
            .zip(&self.findings)
            .take(first)
            .map(|(row, it)| Finding { summary: row.summary.unwrap_or_default(), positive: it.positive })
            .collect();
        chain(pre_test, &findings, self.correlation, Level::default()).map_err(|error| {
            let (value, remedy) = (self.correlation, "Use a number from 0 to 0.99.");
            let error = FieldError::new("correlation", FieldErrorCode::Invalid, value, format!("{error}."), remedy);
            ApiError::Fields(vec![error])
        })
    }
}

fn shared(found: &[&TestRow], shelf: &Shelf) -> Vec<SharedStructures> {
    let keys = |row: &TestRow| row.targets.iter().map(|target| target.key.clone()).collect::<HashSet<String>>();
    let name = |key: &String| {
        let known = shelf.structures.iter().map(|record| &record.structure.name);
        known.into_iter().find(|name| name_key(name) == *key).unwrap_or(key).clone()
    };
    let mut shared = Vec::new();
    for second in 1..found.len() {
        for first in 0..second {
            let mut structures: Vec<String> = keys(found[first]).intersection(&keys(found[second])).map(name).collect();
            structures.sort();
            if !structures.is_empty() {
                shared.push(SharedStructures { findings: [first, second], structures });
            }
        }
    }
    shared
}

fn patient_test(row: &TestRow, now: Estimate<Probability>, thresholds: Option<Thresholds>) -> PatientTest {
    let summary = row.summary.unwrap_or_default();
    let after = |lr: Option<Estimate<Ratio>>| after_result(now, lr?, Level::default());
    let (after_positive, after_negative) = (after(summary.lr_positive), after(summary.lr_negative));
    let crossing = |after: Option<Estimate<Probability>>| Some(thresholds?.crossing(now.estimate, after?));
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
#[utoipa::path(context_path = "/api/v1", tag = "likelihood", request_body = PatientInput,
    responses((status = 200, body = PatientAnswer), (status = 400, body = Problem), (status = 422, body = Problem)))]
#[post("/likelihood/patient", data = "<input>")]
pub(crate) async fn answer_patient(
    by: Reader,
    input: JsonBody<PatientInput>,
    state: &State<AppState>,
    _db: Db<'_>,
) -> Result<Json<PatientAnswer>, ApiError> {
    let input = input.0;
    let pre_test = input.pre_test()?;
    let shelf = state.shelf().await?;
    let (rows, found) = input.rows(&shelf, &by)?;
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
    Ok(Json(PatientAnswer {
        pre_test,
        before: input.thresholds.map(|it| it.zone(pre_test.estimate)),
        crossings: chain
            .steps
            .iter()
            .map(|step| Some(input.thresholds?.crossing(pre_test.estimate, step.after?)))
            .collect(),
        shared: shared(&found, &shelf),
        tests: rows.iter().map(|row| patient_test(row, now, input.thresholds)).collect(),
        dependent_zone: input.thresholds.zip(dependent).map(|(of, p)| of.zone(p)),
        focus_at,
        frequencies: focus
            .and_then(|row| row.summary.as_ref())
            .and_then(|it| it.sensitivity.zip(it.specificity))
            .map(|(se, sp)| natural_frequencies(1_000, focus_at, se.estimate, sp.estimate)),
        benefit: focus
            .and_then(accuracy)
            .map(|of| net_benefit_curve(focus_at, of.sensitivity, of.specificity))
            .unwrap_or_default(),
        chain,
        findings: input.findings,
    }))
}

/// What limits the figures of one test.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct TestLimits {
    test: Uuid,
    limits: Vec<Limit>,
}

/// The results at the prevalence of some kind of patients.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct SpectrumRow {
    /// The people it was seen in; `null` for the usual pre-test probability of the condition.
    studied: Option<SpectrumPart>,
    /// The prevalence.
    share: Probability,
    /// Probability after the results found; without any, after a positive and after a negative result of the test that is looked at.
    after: Vec<Option<Estimate<Probability>>>,
}

/// What stands behind the figures of a patient's tests.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct PatientBackground {
    limits: Vec<TestLimits>,
    /// The least and the most common prevalence among the people studied, if the condition is much rarer or much more common here.
    other_spectrum: Option<[Probability; 2]>,
    spectrum: Vec<SpectrumRow>,
}

/// What limits the figures that a patient's results rest on, and what the same results would mean where the condition is as common as it
/// was among the people studied.
#[utoipa::path(context_path = "/api/v1", tag = "likelihood", request_body = PatientInput,
    responses((status = 200, body = PatientBackground), (status = 400, body = Problem), (status = 422, body = Problem)))]
#[post("/likelihood/background", data = "<input>")]
pub(crate) async fn explain_patient(
    by: Reader,
    input: JsonBody<PatientInput>,
    state: &State<AppState>,
    db: Db<'_>,
) -> Result<Json<PatientBackground>, ApiError> {
    let input = input.0;
    let pre_test = input.pre_test()?;
    let shelf = state.shelf().await?;
    let (rows, found) = input.rows(&shelf, &by)?;
    let focus = input.focus.and_then(|id| rows.iter().find(|row| row.id == id).copied());
    let looked_at: Vec<Uuid> = if found.is_empty() {
        focus.into_iter().filter(|row| row.summary.is_some()).map(|row| row.id).collect()
    } else {
        found.iter().map(|row| row.id).collect()
    };
    let (mut limits, mut members, mut counts) = (Vec::new(), Vec::new(), Vec::new());
    if !looked_at.is_empty() {
        let mut pool = PoolInput {
            tests: looked_at.clone(),
            condition: Some(input.condition.clone()),
            selection: Default::default(),
            by: None,
            model: ModelChoice::default(),
        };
        let all = gather(&pool, &by, db.0).await?;
        let agreement = pooled_agreements(&store::list_agreements(db.0, &pool.tests).await?);
        let pools = Arc::clone(&state.pools);
        let read_each = move || {
            for test in looked_at {
                pool.tests = vec![test];
                let gathered = all.of_test(test);
                let chosen = gathered.choose(&pool, &pools);
                if let Ok(pooled) = &chosen.pooled {
                    let own: Vec<PooledAgreement> = agreement.iter().filter(|it| it.test == test).cloned().collect();
                    let known = provenance(&gathered, &chosen.out, &own);
                    limits.push(TestLimits { test, limits: read(&chosen.counts, pooled, &chosen.ahead, known).limits });
                }
                members.extend(gathered.kept(&chosen.out).map(|index| gathered.members[index].clone()));
                counts.extend(chosen.counts);
            }
            (limits, members, counts)
        };
        (limits, members, counts) = off(read_each).await?;
    }
    let parts = spectrum(&members, &counts);
    let key = name_key(&input.condition);
    let known = list_conditions(db.0).await?.into_iter().map(|record| record.condition);
    let usual = known
        .into_iter()
        .find(|it| it.region == input.region && name_key(&it.name) == key)
        .and_then(|it| it.pre_test)
        .filter(|usual| *usual != input.pre_test);
    let after = |share: Probability| -> Result<Vec<Option<Estimate<Probability>>>, ApiError> {
        let from = Estimate { estimate: share, lower: share, upper: share };
        if !found.is_empty() {
            return Ok(vec![Some(input.chain(from, &found)?.end)]);
        }
        let summary = focus.and_then(|row| row.summary).unwrap_or_default();
        let ends = [summary.lr_positive, summary.lr_negative];
        Ok(ends.into_iter().map(|lr| after_result(from, lr?, Level::default())).collect())
    };
    let row = |studied: Option<SpectrumPart>, share| Ok(SpectrumRow { studied, share, after: after(share)? });
    let mut rows = usual.map(|usual| row(None, usual)).into_iter().collect::<Result<Vec<_>, ApiError>>()?;
    let other_spectrum = other_spectrum(pre_test.estimate, &parts);
    for part in parts {
        let share = part.share;
        rows.push(row(Some(part), share)?);
    }
    Ok(Json(PatientBackground { limits, other_spectrum, spectrum: rows }))
}

/// What acting is worth. Both in the same unit, whatever it is.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(crate = "rocket::serde", deny_unknown_fields)]
pub(crate) struct Stakes {
    /// What acting gains somebody who has the condition.
    benefit: f64,
    /// What it costs somebody who has not.
    harm: f64,
}

/// A threshold of action.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct ActionThreshold {
    threshold: Probability,
}

/// The probability from which on acting gains more than it costs.
#[utoipa::path(context_path = "/api/v1", tag = "likelihood", request_body = Stakes,
    responses((status = 200, body = ActionThreshold), (status = 422, body = Problem)))]
#[post("/likelihood/threshold", data = "<stakes>")]
pub(crate) fn weigh_stakes(_by: Reader, stakes: JsonBody<Stakes>) -> Result<Json<ActionThreshold>, ApiError> {
    let Stakes { benefit, harm } = stakes.0;
    let threshold = treatment_threshold(benefit, harm).ok_or_else(|| {
        let field = |(name, value): (&str, f64)| {
            let message = "It must be a number above 0.";
            FieldError::new(name, FieldErrorCode::Invalid, value, message, "Say how much is gained or lost.")
        };
        let sound = |value: f64| value > 0.0 && value.is_finite();
        ApiError::Fields(
            [("benefit", benefit), ("harm", harm)].into_iter().filter(|it| !sound(it.1)).map(field).collect(),
        )
    })?;
    Ok(Json(ActionThreshold { threshold }))
}

/// A study of accuracy that somebody plans.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(crate = "rocket::serde", deny_unknown_fields)]
pub(crate) struct AccuracyPlan {
    /// Expected sensitivity.
    sensitivity: Probability,
    /// Expected specificity.
    specificity: Probability,
    /// Share with the condition among the people to be examined.
    prevalence: Probability,
    /// Share in whom test or reference standard will be missing.
    #[serde(default = "nobody")]
    unusable: Probability,
    /// Wanted width of both intervals, from end to end.
    width: f64,
}

fn nobody() -> Probability {
    Probability::ZERO
}

/// A study of agreement between two examiners that somebody plans.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(crate = "rocket::serde", deny_unknown_fields)]
pub(crate) struct AgreementPlan {
    /// Expected kappa.
    kappa: f64,
    /// Share of positive ratings.
    positive: Probability,
    /// Wanted width of kappa's interval, from end to end.
    width: f64,
}

/// Studies that somebody plans.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(crate = "rocket::serde", deny_unknown_fields)]
pub(crate) struct StudyPlan {
    #[serde(default)]
    accuracy: Option<AccuracyPlan>,
    #[serde(default)]
    agreement: Option<AgreementPlan>,
}

/// What a width costs.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct SizeForWidth<T> {
    width: f64,
    /// `null` when nobody could examine as many.
    size: Option<T>,
}

/// How many people the planned studies need, for the width asked for first and for others to compare with.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct StudySizes {
    accuracy: Vec<SizeForWidth<AccuracyStudySize>>,
    agreement: Vec<SizeForWidth<u64>>,
}

/// How many people a study needs so that its intervals are as narrow as is wanted.
#[utoipa::path(context_path = "/api/v1", tag = "likelihood", request_body = StudyPlan,
    responses((status = 200, body = StudySizes), (status = 422, body = Problem)))]
#[post("/likelihood/study-size", data = "<plan>")]
pub(crate) fn plan_study(_by: Reader, plan: JsonBody<StudyPlan>) -> Result<Json<StudySizes>, ApiError> {
    let StudyPlan { accuracy, agreement } = plan.0;
    let mut faults = Vec::new();
    let mut need = |field: &str, value: f64, sound: bool, remedy: &str| {
        if !sound {
            let message = "No study can be planned with this value.";
            faults.push(FieldError::new(field, FieldErrorCode::Invalid, value, message, remedy));
        }
    };
    let inside = |value: f64| value > 0.0 && value < 1.0;
    if let Some(of) = &accuracy {
        need("accuracy.width", of.width, inside(of.width), "Use a width above 0 and below 1, such as 0.1.");
        let prevalence = of.prevalence.get();
        need(
            "accuracy.prevalence",
            prevalence,
            inside(prevalence),
            "Both groups are needed: use a share between 0 and 1.",
        );
        let unusable = of.unusable.get();
        need("accuracy.unusable", unusable, unusable < 1.0, "Somebody must be left: use a share below 1.");
    }
    if let Some(of) = &agreement {
        need("agreement.kappa", of.kappa, (0.0..1.0).contains(&of.kappa), "Use a kappa from 0 to below 1.");
        let positive = of.positive.get();
        need("agreement.positive", positive, inside(positive), "Both ratings are needed: use a share between 0 and 1.");
        need("agreement.width", of.width, of.width > 0.0 && of.width < 2.0, "Use a width above 0 and below 2.");
    }
    if !faults.is_empty() {
        return Err(ApiError::Fields(faults));
    }
    let level = Level::default();
    Ok(Json(StudySizes {
        accuracy: accuracy.map_or_else(Vec::new, |of| {
            let size =
                |width| people_for_accuracy(of.sensitivity, of.specificity, width, of.prevalence, of.unusable, level);
            widths(of.width, [0.05, 0.1, 0.15, 0.2, 0.3], size)
        }),
        agreement: agreement.map_or_else(Vec::new, |of| {
            widths(of.width, [0.1, 0.2, 0.3, 0.4, 0.5], |width| subjects_for_kappa(of.kappa, of.positive, width, level))
        }),
    }))
}

fn widths<T>(asked: f64, others: [f64; 5], size: impl Fn(f64) -> Option<T>) -> Vec<SizeForWidth<T>> {
    let all = std::iter::once(asked).chain(others.into_iter().filter(|width| (width - asked).abs() > 1e-9));
    all.map(|width| SizeForWidth { width, size: size(width) }).collect()
}

/// A figure of more tests than this is read by nobody.
const MOST_PRINTED: usize = 200;

/// How the rows of a ladder stand together.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Grouping {
    Condition,
    Region,
    None,
}

impl Grouping {
    const CODES: [&'static str; 3] = ["condition", "region", "none"];

    fn from_code(code: &str) -> Option<Self> {
        let all = [Self::Condition, Self::Region, Self::None];
        Self::CODES.iter().position(|known| *known == code).map(|index| all[index])
    }

    /// What groups are ordered by, head to foot, and the title of one.
    fn of(self, row: &TestRow) -> (Region, String) {
        match self {
            Self::Condition => (row.region, row.condition.clone()),
            Self::Region => (row.region, region_name(row.region)),
            Self::None => (Region::ALL[0], String::new()),
        }
    }
}

/// The ladder for print as `pdf`, `svg` or `png`, of the tests that the list would show with the same parameters.
#[utoipa::path(context_path = "/api/v1", tag = "likelihood",
    params(("format" = String, Path, description = "pdf, svg or png"),
        ("group" = Option<String>, Query, description = "condition (unless told otherwise), region or none"),
        ("ahead" = Option<bool>, Query, description = "with the range of the next study"),
        ("region" = Option<Region>, Query, description = "only this region"),
        ("condition" = Option<String>, Query, description = "only tests for the condition of this name")),
    responses((status = 200, description = "a file"), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[get("/likelihood/ladder/<format>?<group>&<ahead>&<query..>")]
pub(crate) async fn print_ladder(
    by: Reader,
    format: &str,
    group: Option<&str>,
    ahead: Option<&str>,
    query: ListQuery<'_>,
    state: &State<AppState>,
    db: Db<'_>,
) -> Result<Download, ApiError> {
    let (kind, content) = figure_format(format)?;
    let group = choice("group", group, &Grouping::CODES, Grouping::from_code)?.unwrap_or(Grouping::Condition);
    let ahead = choice("ahead", ahead, &["true", "false"], |text| text.parse().ok())?.unwrap_or(false);
    let shelf = state.shelf().await?;
    let rows = query.rows(&shelf, by.0.role, &db).await?;
    if rows.len() > MOST_PRINTED {
        let message = format!("{} tests are more than one figure holds; at most {MOST_PRINTED} do.", rows.len());
        let given = query.region.unwrap_or_default();
        let remedy = "Narrow them by region or condition.";
        let error = FieldError::new("region", FieldErrorCode::TooLong, given, message, remedy);
        return Err(ApiError::Query(vec![error]));
    }
    let mut groups: BTreeMap<(Region, String), Vec<LadderTest>> = BTreeMap::new();
    for row in &rows {
        groups.entry(group.of(row)).or_default().push(LadderTest {
            name: row.name.clone(),
            studies: row.studies,
            sample: row.sample,
            ratios: row.summary.map_or([None; 2], |summary| [summary.lr_positive, summary.lr_negative]),
            ahead: if ahead { [row.ahead_positive, row.ahead_negative] } else { [None; 2] },
        });
    }
    let regions: HashSet<Region> = rows.iter().map(|row| row.region).collect();
    let of = match regions.iter().next() {
        Some(only) if regions.len() == 1 => region_name(*only),
        _ => "several regions".to_owned(),
    };
    let figure = LadderFigure {
        title: format!("Likelihood ladder: {of}"),
        groups: groups.into_iter().map(|((_, title), tests)| (title, tests)).collect(),
        printed: chrono::Utc::now().format("%-d %B %Y").to_string(),
    };
    let bytes = off(move || ladder_figure(&figure, kind)).await?.map_err(|error| {
        tracing::error!(%error, "typesetting");
        ApiError::Internal
    })?;
    Ok(Download::new(bytes, content, &format!("ladder.{format}")))
}
