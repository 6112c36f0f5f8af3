//! `pruvex plan`: the order of an examination, and when enough is known.

use pruvex_core::Probability;
use pruvex_core::combine::{Sequence, TestAccuracy, decision_changes, expected_information, pattern_results, sequence};
use pruvex_core::likelihood::Thresholds;
use pruvex_core::plan::{
    MAX_EXACT, OrderCost, OrderError, OrderWeights, PlaceReason, PlannedTest, best_order, order_cost,
};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::error::CliError;
use crate::output::{Format, percent, print, read};

#[derive(Debug, clap::Args)]
#[command(after_help = "The file names the tests with what decides their places:\n  \
    {\"pre_test\": 0.3,\n   \
    \"tests\": [{\"name\": \"A\", \"position\": \"sitting\", \"one_attempt\": true, \"irritation\": 0, \"sensitivity\": 0.8, \"specificity\": 0.7},\n             \
    {\"name\": \"B\", \"position\": \"lying\", \"irritation\": 3, \"sensitivity\": 0.7, \"specificity\": 0.9, \"keep_last\": true}],\n   \
    \"before\": [[\"A\", \"B\"]], \"weights\": {\"turning\": 1, \"one_attempt\": 1, \"irritating_late\": 0.5, \"informative_early\": 1},\n   \
    \"thresholds\": {\"reassure_below\": 0.1, \"treat_above\": 0.7}, \"order\": [\"B\", \"A\"]}\n\
    before, weights, thresholds and order (one of your own, to see what it costs) may be left out.")]
pub struct Arguments {
    /// JSON file with the tests, or - for standard input.
    file: String,
    /// How to print the answer.
    #[arg(long, value_enum, default_value_t = Format::Text)]
    format: Format,
}

/// An examination whose order is asked for.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PlanInput {
    /// Probability before the first test.
    pre_test: Probability,
    tests: Vec<PlanTest>,
    /// Pairs of a test and one that comes after it.
    #[serde(default)]
    before: Vec<[String; 2]>,
    #[serde(default)]
    weights: OrderWeights,
    #[serde(default)]
    thresholds: Option<Thresholds>,
    /// An order of one's own.
    #[serde(default)]
    order: Option<Vec<String>>,
}

/// A test of it.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
struct PlanTest {
    name: String,
    /// The patient's position, in any words.
    position: String,
    #[serde(default)]
    one_attempt: bool,
    #[serde(default)]
    irritation: f64,
    sensitivity: Probability,
    specificity: Probability,
    #[serde(default)]
    keep_last: bool,
    /// Of the basic examination: before every special test, as far as `before` lets it.
    #[serde(default)]
    frame: bool,
}

/// The order that costs least.
#[derive(Debug, Serialize, ToSchema)]
pub struct PlanOutput {
    /// Tests in their order.
    order: Vec<Placed>,
    cost: OrderCost,
    /// No order is better.
    exact: bool,
    /// No order costs less than this.
    bound: f64,
    /// What the order of one's own costs, where one is given.
    #[serde(skip_serializing_if = "Option::is_none")]
    own: Option<OrderCost>,
    /// What becomes of patients who are examined in this order until a threshold is crossed, where thresholds are given and the tests are at
    /// most 12; as if they were independent.
    #[serde(skip_serializing_if = "Option::is_none")]
    sequence: Option<Sequence>,
}

/// A test at its place.
#[derive(Debug, Serialize, ToSchema)]
struct Placed {
    name: String,
    position: String,
    /// What it tells as the first test, in bits.
    bits: f64,
    /// In how many patients its result changes what is done, after those before it; where thresholds are given and the tests are at most 12.
    #[serde(skip_serializing_if = "Option::is_none")]
    changes: Option<Probability>,
    /// Why it stands there; tests by their place in the file.
    reasons: Vec<PlaceReason>,
    /// The same in words.
    because: Vec<String>,
}

pub fn run(arguments: &Arguments) -> Result<(), CliError> {
    let input: PlanInput = serde_json::from_slice(&read(&arguments.file)?)
        .map_err(|error| CliError::Refused(format!("{} is no plan: {error}", arguments.file)))?;
    let accuracy = |test: &PlanTest| TestAccuracy { sensitivity: test.sensitivity, specificity: test.specificity };
    let mut positions: Vec<&str> = Vec::new();
    let mut tests = Vec::with_capacity(input.tests.len());
    for test in &input.tests {
        if input.tests.iter().filter(|it| it.name == test.name).count() > 1 {
            return Err(CliError::Refused(format!(
                "tests: {:?} is given twice; give each test a name of its own",
                test.name
            )));
        }
        let position = positions.iter().position(|it| *it == test.position).unwrap_or_else(|| {
            positions.push(&test.position);
            positions.len() - 1
        });
        tests.push(PlannedTest {
            position: u32::try_from(position).map_err(|error| CliError::Refused(error.to_string()))?,
            one_attempt: test.one_attempt,
            irritation: test.irritation,
            bits: expected_information(input.pre_test, accuracy(test)),
            keep_last: test.keep_last,
            frame: test.frame,
        });
    }
    let place = |field: &str, name: &String| {
        let found = input.tests.iter().position(|it| it.name == *name);
        found.ok_or_else(|| {
            CliError::Refused(format!("{field}: there is no test {name:?}; use a name that stands in tests"))
        })
    };
    let pair = |[first, second]: &[String; 2]| Ok((place("before", first)?, place("before", second)?));
    let before = input.before.iter().map(pair).collect::<Result<Vec<_>, CliError>>()?;
    let best = best_order(&tests, &input.weights, &before).map_err(|error| match error {
        OrderError::Contradiction(circle) => {
            let names: Vec<&str> = circle.iter().map(|index| input.tests[*index].name.as_str()).collect();
            CliError::Refused(format!(
                "before: these tests would each have to come before another one of them: {}; take a pair or keep_last back",
                names.join(", ")
            ))
        }
        other => CliError::refused(other),
    })?;
    let own = match &input.order {
        None => None,
        Some(names) => {
            let order = names.iter().map(|name| place("order", name)).collect::<Result<Vec<_>, _>>()?;
            Some(order_cost(&tests, &input.weights, &order).map_err(CliError::refused)?)
        }
    };
    let ordered: Vec<TestAccuracy> = best.order.iter().map(|index| accuracy(&input.tests[*index])).collect();
    let patterns = input.thresholds.and_then(|thresholds| Some((pattern_results(&ordered).ok()?, thresholds)));
    let patterns = patterns.as_ref();
    let sequence = patterns.and_then(|(results, thresholds)| sequence(results, input.pre_test, thresholds));
    let changes =
        patterns.and_then(|(results, thresholds)| decision_changes(results, input.pre_test, |p| thresholds.zone(p)));
    let placed = best.order.iter().zip(best.reasons).enumerate().map(|(nth, (index, reasons))| Placed {
        changes: changes.as_ref().and_then(|changes| changes.get(nth).copied()),
        name: input.tests[*index].name.clone(),
        position: input.tests[*index].position.clone(),
        bits: tests[*index].bits,
        because: reasons.iter().map(|reason| because(*reason, &input.tests)).collect(),
        reasons,
    });
    let (cost, exact, bound) = (best.cost, best.exact, best.bound);
    let output = PlanOutput { order: placed.collect(), cost, exact, bound, own, sequence };
    print(arguments.format, &output, || text(&output))
}

fn because(reason: PlaceReason, tests: &[PlanTest]) -> String {
    let name = |test: usize| tests[test].name.as_str();
    match reason {
        PlaceReason::SamePosition => "same position as the one before".to_owned(),
        PlaceReason::OneAttempt => "it allows one valid attempt".to_owned(),
        PlaceReason::Irritating => "the most irritating".to_owned(),
        PlaceReason::MostInformative => "tells the most of those left".to_owned(),
        PlaceReason::Before { test } => format!("before {}", name(test)),
        PlaceReason::After { test } => format!("after {}", name(test)),
        PlaceReason::KeptLast => "kept for last".to_owned(),
        PlaceReason::Frame => "of the basic examination".to_owned(),
    }
}

fn text(output: &PlanOutput) -> String {
    let mut lines = vec![if output.exact {
        "The best order:".to_owned()
    } else {
        format!(
            "A good order of more than {MAX_EXACT} tests (cost {:.2}; no order costs less than {:.2}):",
            output.cost.total, output.bound
        )
    }];
    for (nth, it) in output.order.iter().enumerate() {
        let why = if it.because.is_empty() { String::new() } else { format!(": {}", it.because.join("; ")) };
        let changes =
            it.changes.map_or_else(String::new, |share| format!("; changes the decision in {}", percent(share)));
        lines.push(format!("  {}. {} ({}){why}{changes}", nth + 1, it.name, it.position));
    }
    let parts = |cost: &OrderCost| {
        format!(
            "{:.2} (turning over {:.2}, one attempt {:.2}, irritating tests late {:.2}, informative tests early {:.2}; {} changes of position)",
            cost.total, cost.turning, cost.one_attempt, cost.irritating_late, cost.informative_early, cost.changes
        )
    };
    lines.push(format!("It costs {}", parts(&output.cost)));
    if let Some(own) = &output.own {
        lines.push(format!("Your own order costs {}", parts(own)));
    }
    if let Some(sequence) = &output.sequence {
        lines.push(format!(
            "Until a threshold is crossed: on average {:.2} tests; reassured {}, treated {}, undecided {}",
            sequence.expected_tests,
            percent(sequence.reassured),
            percent(sequence.treated),
            percent(sequence.undecided)
        ));
    }
    lines.join("\n")
}
