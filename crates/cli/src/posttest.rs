//! `pruvex posttest`: what a result is worth at a pre-test probability, and whether it changes what is done.

use pruvex_core::likelihood::{
    Crossing, NaturalFrequencies, Thresholds, Zone, natural_frequencies, post_test_interval, post_test_uncertain,
    treatment_threshold,
};
use pruvex_core::{Estimate, Level, Probability, Ratio};
use serde::Serialize;
use utoipa::ToSchema;

use crate::error::CliError;
use crate::output::{Format, level, percent, print, probability, ratio, share_line};

#[derive(Debug, clap::Args)]
#[command(
    allow_negative_numbers = true,
    after_help = "Examples:\n  pruvex posttest --pre-test 0.35 --lr 3.2 --lower 2.5 --upper 4.1\n  \
    pruvex posttest --pre-test 0.35 --pre-test-lower 0.25 --pre-test-upper 0.45 --lr 3.2 --lower 2.5 --upper 4.1 \\\n    \
    --reassure-below 0.1 --treat-above 0.6"
)]
pub struct Arguments {
    /// Pre-test probability, between 0 and 1.
    #[arg(long, value_parser = probability)]
    pre_test: Probability,
    /// Lower bound of the pre-test probability, when it is itself uncertain.
    #[arg(long, value_parser = probability, requires = "pre_test_upper")]
    pre_test_lower: Option<Probability>,
    /// Upper bound of the pre-test probability.
    #[arg(long, value_parser = probability, requires = "pre_test_lower")]
    pre_test_upper: Option<Probability>,
    /// Likelihood ratio of the result seen.
    #[arg(long, value_parser = ratio)]
    lr: Ratio,
    /// Lower bound of its interval; the ratio itself unless given.
    #[arg(long, value_parser = ratio)]
    lower: Option<Ratio>,
    /// Upper bound of its interval; the ratio itself unless given.
    #[arg(long, value_parser = ratio)]
    upper: Option<Ratio>,
    /// Level of both intervals, which an uncertain pre-test probability needs.
    #[arg(long, default_value = "0.95", value_parser = level)]
    level: Level,
    /// Below this probability the patient is reassured.
    #[arg(long, value_parser = probability)]
    reassure_below: Option<Probability>,
    /// Above this probability the patient is treated.
    #[arg(long, value_parser = probability, conflicts_with_all = ["benefit", "harm"])]
    treat_above: Option<Probability>,
    /// Benefit of treating somebody who has the condition; with --harm it gives the threshold for treating.
    #[arg(long, requires = "harm")]
    benefit: Option<f64>,
    /// Harm of treating somebody who has not, in the same unit.
    #[arg(long, requires = "benefit")]
    harm: Option<f64>,
    /// Sensitivity, to show what the test does to 1 000 people.
    #[arg(long, value_parser = probability, requires = "specificity")]
    sensitivity: Option<Probability>,
    /// Specificity, likewise.
    #[arg(long, value_parser = probability, requires = "sensitivity")]
    specificity: Option<Probability>,
    /// How to print the answer.
    #[arg(long, value_enum, default_value_t = Format::Text)]
    format: Format,
}

/// The post-test probability, and what was asked for besides.
#[derive(Debug, Serialize, ToSchema)]
pub struct PosttestOutput {
    #[serde(flatten)]
    post_test: Estimate<Probability>,
    #[serde(skip_serializing_if = "Option::is_none")]
    thresholds: Option<Thresholds>,
    #[serde(skip_serializing_if = "Option::is_none")]
    crossing: Option<Crossing>,
    #[serde(skip_serializing_if = "Option::is_none")]
    per_thousand: Option<NaturalFrequencies>,
}

pub fn run(arguments: &Arguments) -> Result<(), CliError> {
    let Arguments { pre_test, lr, level, .. } = *arguments;
    let (lower, upper) = (arguments.lower.unwrap_or(lr), arguments.upper.unwrap_or(lr));
    if lower > lr || upper < lr {
        return Err(CliError::refused("the ratio must lie within its interval: --lower <= --lr <= --upper"));
    }
    let lr = Estimate { estimate: lr, lower, upper };
    let post_test = match arguments.pre_test_lower.zip(arguments.pre_test_upper) {
        None => post_test_interval(pre_test, lr),
        Some((lower, upper)) if lower <= pre_test && pre_test <= upper => {
            post_test_uncertain(Estimate { estimate: pre_test, lower, upper }, lr, level)
        }
        Some(_) => {
            let order = "--pre-test-lower <= --pre-test <= --pre-test-upper";
            return Err(CliError::Refused(format!("the pre-test probability must lie within its interval: {order}")));
        }
    };
    let contradiction = "a certain pre-test probability contradicts this ratio: there is no answer";
    let post_test = post_test.ok_or_else(|| CliError::refused(contradiction))?;
    let thresholds = thresholds(arguments)?;
    let output = PosttestOutput {
        post_test,
        thresholds,
        crossing: thresholds.map(|thresholds| thresholds.crossing(pre_test, post_test)),
        per_thousand: arguments
            .sensitivity
            .zip(arguments.specificity)
            .map(|(se, sp)| natural_frequencies(1000, pre_test, se, sp)),
    };
    print(arguments.format, &output, || text(&output))
}

fn thresholds(arguments: &Arguments) -> Result<Option<Thresholds>, CliError> {
    let by_utility = arguments.benefit.zip(arguments.harm).map(|(benefit, harm)| {
        treatment_threshold(benefit, harm)
            .ok_or_else(|| CliError::refused("--benefit and --harm must both be positive numbers"))
    });
    let treat = by_utility.transpose()?.or(arguments.treat_above);
    if treat.is_none() && arguments.reassure_below.is_none() {
        return Ok(None);
    }
    // With one threshold given the other is out of reach.
    let reassure = arguments.reassure_below.map_or_else(|| Probability::new(0.0), Ok).map_err(CliError::refused)?;
    let treat = treat.map_or_else(|| Probability::new(1.0), Ok).map_err(CliError::refused)?;
    Thresholds::new(reassure, treat).map(Some).map_err(CliError::refused)
}

fn text(output: &PosttestOutput) -> String {
    let mut lines = vec![share_line("post-test probability", Some(output.post_test))];
    if let (Some(crossing), Some(thresholds)) = (output.crossing, output.thresholds) {
        let zone = |zone: Zone| match zone {
            Zone::Reassure => format!("below {}, reassure", percent(thresholds.reassure_below())),
            Zone::Between => "between the thresholds".to_owned(),
            Zone::Treat => format!("above {}, treat", percent(thresholds.treat_above())),
        };
        let whole = if crossing.whole_interval { "the whole interval" } else { "not the whole interval" };
        lines.push(format!("  before: {}; after: {} ({whole})", zone(crossing.from), zone(crossing.to)));
    }
    if let Some(crowd) = output.per_thousand {
        lines.push(format!(
            "  of {} people {} have the condition: {} positive, {} missed; of {} without it {} are false alarms",
            crowd.population,
            crowd.with_condition,
            crowd.true_positive,
            crowd.false_negative,
            crowd.without_condition,
            crowd.false_positive
        ));
    }
    lines.join("\n")
}
