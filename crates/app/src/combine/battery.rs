//! What a battery is worth: calculated from its tests, within the bounds of any dependence, and as studies of the very rule found it.

use std::collections::HashSet;
use std::sync::Arc;

use pruvex_core::catalogue::{Region, name_key};
use pruvex_core::combine::{
    Battery, BatteryDependence, BatteryRule, BatteryTest, CombineError, CovarianceBounds, LatentCorrelation,
    RuleBounds, RulesAt, WithoutTest, battery, covariance_bounds, each_test_left_out, rule_bounds,
    rules_by_correlation,
};
use pruvex_core::evidence::{Facet, Selection, facets};
use pruvex_core::likelihood::post_test_interval;
use pruvex_core::pooling::{ModelChoice, Summary, Warning};
use pruvex_core::{Estimate, FieldErrorCode, Probability, Ratio, TestId};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::published::{PublishedRule, SimilarResult, published};
use crate::blocking::blocking;
use crate::catalogue::{Catalogue, SharedStructures, TestRow, shared_structures};
use crate::people::Reader;
use crate::pooling::{Evidence, FacetView, PoolInput, gather};
use crate::{App, AppError};

/// More tests than these are not read together.
const MOST_TESTS: usize = 8;

/// A battery: several tests for one condition that are read together.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct BatteryInput {
    region: Region,
    /// Name of the target condition.
    condition: String,
    pre_test: Probability,
    /// Two to eight, each with what of its results counts.
    tests: Vec<BatteryTestInput>,
    /// From how many positive tests on the battery is positive: 1 is any, as many as there are is all.
    at_least: usize,
    /// How the results depend on each other.
    dependence: DependenceInput,
}

/// A test of a battery.
#[derive(Debug, Clone, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct BatteryTestInput {
    test: TestId,
    /// Which of its results, such as those of one variant by one criterion.
    #[serde(default)]
    selection: Selection,
}

/// A dependence that is assumed.
#[derive(Debug, Clone, Copy, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum DependenceInput {
    /// One factor stands behind all tests; correlations of the latent variables from 0 to 0.99.
    Correlation {
        /// In people with the condition.
        with: f64,
        /// In people without it.
        without: f64,
    },
    /// Two tests with these conditional covariances.
    Covariance {
        /// In people with the condition.
        with: f64,
        /// In people without it.
        without: f64,
    },
}

/// A test of a battery with the figures that are used.
#[derive(Debug, Serialize, ToSchema)]
pub struct BatteryTestView {
    test: TestId,
    name: String,
    evidence: Evidence,
    /// At least one study behind the figures is made up.
    sample: bool,
    studies: usize,
    sensitivity: Estimate<Probability>,
    specificity: Estimate<Probability>,
    lr_positive: Option<Estimate<Ratio>>,
    lr_negative: Option<Estimate<Ratio>>,
    /// What must be said beside the figures.
    warnings: Vec<Warning>,
    /// Variants and criteria that its results name.
    facets: Vec<FacetView>,
}

/// A number of positive tests, and what it makes of the pre-test probability.
#[derive(Debug, Serialize, ToSchema)]
pub struct CountView {
    positive: usize,
    /// How often, with the condition.
    diseased: Probability,
    /// How often, without it.
    non_diseased: Probability,
    lr: Option<Estimate<Ratio>>,
    after: Option<Estimate<Probability>>,
}

/// What the battery is worth, under one assumption.
#[derive(Debug, Serialize, ToSchema)]
pub struct BatteryView {
    counts: Vec<CountView>,
    /// Rules, "any positive" first.
    rules: Vec<BatteryRule>,
}

/// What a battery is worth.
#[derive(Debug, Serialize, ToSchema)]
pub struct BatteryAnswer {
    tests: Vec<BatteryTestView>,
    /// The rule that is asked about.
    at_least: usize,
    /// Studies of that very rule, which outrank what is calculated.
    published: PublishedRule,
    /// Studies of other rules or of other sets of tests, for comparison only.
    similar: Vec<SimilarResult>,
    /// As if the tests were independent given the condition.
    independent: BatteryView,
    /// With the dependence that is assumed.
    dependent: BatteryView,
    /// What each rule can be at all, whatever the dependence.
    bounds: Vec<RuleBounds>,
    /// Each rule along the correlation.
    along: Vec<RulesAt>,
    /// Which covariances two tests allow; `null` for more.
    covariances: Option<CovarianceBounds>,
    /// The rule without each test, with the dependence that is assumed.
    without: Vec<WithoutTest>,
    /// Pairs of tests with structures in common.
    shared: Vec<SharedStructures>,
    /// At least one study behind the figures is made up.
    sample: bool,
}

impl From<DependenceInput> for BatteryDependence {
    fn from(input: DependenceInput) -> Self {
        match input {
            DependenceInput::Correlation { with, without } => {
                Self::Latent(LatentCorrelation { diseased: with, non_diseased: without })
            }
            DependenceInput::Covariance { with, without } => Self::Covariance { diseased: with, non_diseased: without },
        }
    }
}

impl BatteryInput {
    /// The rows of its tests.
    fn rows<'a>(&self, catalogue: &'a Catalogue, by: &Reader) -> Result<Vec<&'a TestRow>, AppError> {
        let refused = |field: String, code, value: String, message: String, remedy: &str| {
            Err(AppError::field(field, code, value, message, remedy))
        };
        let n = self.tests.len();
        if !(2..=MOST_TESTS).contains(&n) {
            let code = if n < 2 { FieldErrorCode::Missing } else { FieldErrorCode::TooLong };
            let are = if n == 1 { "test is" } else { "tests are" };
            let message = format!("{n} {are} chosen; a battery has 2 to {MOST_TESTS}.");
            return refused("tests".to_owned(), code, n.to_string(), message, "Add or leave out tests.");
        }
        if !(1..=n).contains(&self.at_least) {
            let message = format!("A rule over {n} tests asks for 1 to {n} positive ones.");
            let value = self.at_least.to_string();
            let remedy = "Use 1 for any, the number of tests for all, or a number between.";
            return refused("at_least".to_owned(), FieldErrorCode::Invalid, value, message, remedy);
        }
        let (condition, mut seen) = (name_key(&self.condition), HashSet::new());
        let mut rows = Vec::with_capacity(n);
        for (nth, it) in self.tests.iter().enumerate() {
            let (at, id) = (format!("tests.{nth}.test"), it.test.to_string());
            if !seen.insert(it.test) {
                let message = "This test is given twice; the second time it adds no information.".to_owned();
                return refused(at, FieldErrorCode::Invalid, id, message, "Give each test once.");
            }
            let asked =
                |row: &&Arc<TestRow>| row.id == it.test && row.region == self.region && row.condition_key == condition;
            let Some(row) = catalogue.all_rows(by.role()).iter().find(asked) else {
                let message = "No test for this condition has this id.".to_owned();
                let remedy = "Choose a test for the condition that is asked about.";
                return refused(at, FieldErrorCode::Unknown, id, message, remedy);
            };
            rows.push(row.as_ref());
        }
        Ok(rows)
    }

    fn refused(&self, error: &CombineError) -> AppError {
        let (with, without) = match self.dependence {
            DependenceInput::Correlation { with, without } | DependenceInput::Covariance { with, without } => {
                (with, without)
            }
        };
        let remedy = match self.dependence {
            DependenceInput::Correlation { .. } => "Use correlations from 0 to 0.99.",
            DependenceInput::Covariance { .. } => "Use covariances within what the two tests allow, or a correlation.",
        };
        let value = format!("{with} and {without}");
        AppError::field("dependence", FieldErrorCode::Invalid, value, format!("{error}."), remedy)
    }
}

fn view(battery: Battery, pre_test: Probability) -> BatteryView {
    let count = |it: pruvex_core::combine::BatteryCount| CountView {
        positive: it.positive,
        diseased: it.diseased,
        non_diseased: it.non_diseased,
        lr: it.lr,
        after: it.lr.and_then(|lr| post_test_interval(pre_test, lr)),
    };
    BatteryView { counts: battery.counts.into_iter().map(count).collect(), rules: battery.rules }
}

/// Accuracy of every rule over the battery, what every number of positive tests means, what dependence can do to it, and what studies of the rule found.
///
/// # Errors
/// Too few or too many tests, one without figures, a rule or a dependence that cannot be.
pub async fn answer_battery(app: &App, by: &Reader, input: BatteryInput) -> Result<BatteryAnswer, AppError> {
    let catalogue = app.catalogue().await?;
    let rows = input.rows(&catalogue, by)?;
    let asked = PoolInput {
        tests: input.tests.iter().map(|it| it.test).collect(),
        condition: Some(input.condition.clone()),
        selection: Selection::default(),
        by: None,
        model: ModelChoice::default(),
        interval: None,
    };
    let gathered = gather(&asked, by.account(), &app.db).await?;
    let (ids, interval) = (asked.tests.clone(), gathered.interval);
    let pools = Arc::clone(&app.pools);
    let selections: Vec<Selection> = input.tests.iter().map(|it| it.selection.clone()).collect();
    let chosen = blocking(move || {
        let of = |(test, selection): (&TestId, Selection)| {
            let own = gathered.of_test(*test);
            let asked = PoolInput { tests: vec![*test], selection, ..asked.clone() };
            let facets = facets(&own.members);
            let chosen = own.choose(&asked, &pools);
            let sample = own.sample(&chosen.out);
            (chosen, sample, facets)
        };
        asked.tests.iter().zip(selections).map(of).collect::<Vec<_>>()
    });
    let (mut tests, mut members) = (Vec::with_capacity(rows.len()), Vec::with_capacity(rows.len()));
    for (nth, (row, (chosen, sample, facets))) in rows.iter().zip(chosen.await?).enumerate() {
        let pooled = chosen.pooled.ok();
        let summary = pooled.as_ref().map_or_else(Summary::default, |it| it.summary);
        let Some((sensitivity, specificity)) = summary.sensitivity.zip(summary.specificity) else {
            let message = format!("{} has no sensitivity and specificity to calculate with.", row.name);
            let remedy = "Leave it out, choose other results of it, or enter a study that counted both.";
            return Err(AppError::field(format!("tests.{nth}"), FieldErrorCode::Missing, &row.name, message, remedy));
        };
        let joint = pooled.as_ref().and_then(|it| it.joint_shape());
        members.push(BatteryTest { sensitivity, specificity, correlation: joint.map_or(0.0, |it| it.correlation) });
        let named = |facet: &Facet| matches!(facet, Facet::Variant | Facet::Criterion);
        tests.push(BatteryTestView {
            test: row.id,
            name: row.name.clone(),
            evidence: Evidence::of(chosen.counts.len()),
            sample,
            studies: chosen.counts.len(),
            sensitivity,
            specificity,
            lr_positive: summary.lr_positive,
            lr_negative: summary.lr_negative,
            warnings: pooled.map(|it| it.warnings).unwrap_or_default(),
            facets: facets.into_iter().filter(|(facet, _)| named(facet)).map(FacetView::from).collect(),
        });
    }
    let shared = shared_structures(&rows, &catalogue);
    let (published, similar) = published(app, by, &ids, input.at_least, &input.condition, interval).await?;
    let sample = tests.iter().any(|it| it.sample) || published.sample;
    let calculated = blocking(move || calculate(&input, &members)).await??;
    let Calculated { independent, dependent, bounds, along, covariances, without, at_least } = calculated;
    Ok(BatteryAnswer {
        tests,
        at_least,
        published,
        similar,
        independent,
        dependent,
        bounds,
        along,
        covariances,
        without,
        shared,
        sample,
    })
}

/// What the core makes of the tests.
struct Calculated {
    independent: BatteryView,
    dependent: BatteryView,
    bounds: Vec<RuleBounds>,
    along: Vec<RulesAt>,
    covariances: Option<CovarianceBounds>,
    without: Vec<WithoutTest>,
    at_least: usize,
}

fn calculate(input: &BatteryInput, members: &[BatteryTest]) -> Result<Calculated, AppError> {
    let refused = |error: CombineError| input.refused(&error);
    let singles: Vec<_> = members.iter().map(BatteryTest::accuracy).collect();
    let dependence = BatteryDependence::from(input.dependence);
    let bounds = (1..=members.len()).map(|k| rule_bounds(&singles, k)).collect::<Result<Vec<_>, _>>();
    Ok(Calculated {
        independent: view(battery(members, BatteryDependence::Independent).map_err(refused)?, input.pre_test),
        dependent: view(battery(members, dependence).map_err(refused)?, input.pre_test),
        bounds: bounds.map_err(refused)?,
        along: rules_by_correlation(&singles).map_err(refused)?,
        covariances: match singles.as_slice() {
            [first, second] => Some(covariance_bounds(*first, *second)),
            _ => None,
        },
        without: each_test_left_out(members, input.at_least, dependence).map_err(refused)?,
        at_least: input.at_least,
    })
}
