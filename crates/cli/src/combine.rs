//! `pruvex combine`: rules over several tests, and tests one after the other.

use pruvex_core::Probability;
use pruvex_core::accuracy::Counts;
use pruvex_core::combine::{
    ClusterAnswer, ClusterSource, CountResult, LatentCorrelation, PatternResult, RuleAccuracy, Sequence, TestAccuracy,
    at_least, cluster_answer, count_results, count_results_latent, expected_information, pattern_results,
    pattern_results_latent, sequence,
};
use pruvex_core::likelihood::Thresholds;
use pruvex_core::pooling::PoolOptions;
use pruvex_formats::{CsvError, CsvTable};
use serde::Serialize;
use utoipa::ToSchema;

use crate::error::CliError;
use crate::output::{Format, percent, print, probability, ratio_line, read, share_line, two_digits};
use crate::pool::counts;

#[derive(Debug, clap::Args)]
#[command(
    allow_negative_numbers = true,
    after_help = "Examples:\n  printf 'test,sensitivity,specificity\\nA,0.8,0.9\\nB,0.7,0.85\\n' | pruvex combine -\n  \
    pruvex combine tests.csv --correlation 0.4 --at-least 2 --published cluster.csv\n  \
    pruvex combine tests.csv --pre-test 0.3 --reassure-below 0.05 --treat-above 0.7\n\n\
    Conditional independence is assumed unless a correlation is given. Tests of the same tissue break it: then a published \
    cluster outranks this calculation."
)]
pub struct Arguments {
    /// CSV file with test,sensitivity,specificity (between 0 and 1), or - for standard input.
    file: String,
    /// Correlation of the variables behind any two tests, with and without the condition, from 0 to 0.99.
    #[arg(long, value_name = "R")]
    correlation: Option<f64>,
    /// The correlation without the condition, when it is another one.
    #[arg(long, value_name = "R", requires = "correlation")]
    correlation_without: Option<f64>,
    /// The rule that a cluster uses, from how many positive tests on it is positive.
    #[arg(long, value_name = "K", requires = "published")]
    at_least: Option<usize>,
    /// CSV file of 2x2 counts of studies of that very rule; they outrank the calculation.
    #[arg(long, value_name = "FILE", requires = "at_least")]
    published: Option<String>,
    /// Also list every pattern of results (JSON only).
    #[arg(long)]
    patterns: bool,
    /// Also follow the tests one after the other from this probability, in the order of the file.
    #[arg(long, value_parser = probability, requires_all = ["reassure_below", "treat_above"])]
    pre_test: Option<Probability>,
    /// Below this probability testing stops and the patient is reassured.
    #[arg(long, value_parser = probability, requires = "pre_test")]
    reassure_below: Option<Probability>,
    /// Above this probability testing stops and the patient is treated.
    #[arg(long, value_parser = probability, requires = "pre_test")]
    treat_above: Option<Probability>,
    /// How to print the answer.
    #[arg(long, value_enum, default_value_t = Format::Text)]
    format: Format,
}

/// Rules over several tests; independence is always shown, also beside dependence.
#[derive(Debug, Serialize, ToSchema)]
pub struct CombineOutput {
    /// How many tests.
    tests: usize,
    /// "conditional_independence", for `rules` and `counts`: nobody should take them for measured.
    assumption: &'static str,
    /// "At least k positive", for each k.
    rules: Vec<RuleAccuracy>,
    /// Each number of positive tests.
    counts: Vec<CountResult>,
    /// Each pattern of results, with dependence when it is assumed.
    #[serde(skip_serializing_if = "Option::is_none")]
    patterns: Option<Vec<PatternResult>>,
    #[serde(skip_serializing_if = "Option::is_none")]
    dependent: Option<Dependent>,
    #[serde(skip_serializing_if = "Option::is_none")]
    cluster: Option<ClusterAnswer>,
    #[serde(skip_serializing_if = "Option::is_none")]
    sequence: Option<NamedSequence>,
}

/// The same with an assumed dependence.
#[derive(Debug, Serialize, ToSchema)]
struct Dependent {
    correlation: LatentCorrelation,
    rules: Vec<RuleAccuracy>,
    counts: Vec<CountResult>,
}

/// Tests one after the other.
#[derive(Debug, Serialize, ToSchema)]
struct NamedSequence {
    /// Names of the tests in their order.
    names: Vec<String>,
    /// Information expected of each as the first test, in bits.
    information_first: Vec<f64>,
    #[serde(flatten)]
    sequence: Sequence,
}

pub fn run(arguments: &Arguments) -> Result<(), CliError> {
    let (names, tests) = tests(&arguments.file)?;
    let core = |error: pruvex_core::combine::CombineError| CliError::refused(error);
    let correlation = arguments.correlation.map(|diseased| LatentCorrelation {
        diseased,
        non_diseased: arguments.correlation_without.unwrap_or(diseased),
    });
    let independent = count_results(&tests).map_err(core)?;
    let rules = (1..=tests.len()).map(|k| at_least(&tests, k)).collect::<Result<Vec<_>, _>>().map_err(core)?;
    let dependent = correlation.map(|correlation| dependent(&tests, correlation)).transpose()?;
    let cluster = match (&arguments.published, arguments.at_least) {
        (Some(file), Some(k)) => {
            let studies: Vec<Counts> = counts(file)?.counts;
            Some(cluster_answer(&tests, k, correlation, &studies, PoolOptions::default()).map_err(core)?)
        }
        _ => None,
    };
    let patterns = match correlation {
        Some(correlation) => pattern_results_latent(&tests, correlation),
        None => pattern_results(&tests),
    };
    let patterns = patterns.map_err(core)?;
    let ends = arguments.reassure_below.zip(arguments.treat_above);
    let sequence = match arguments.pre_test.zip(ends) {
        None => None,
        Some((pre_test, (reassure, treat))) => {
            let thresholds = Thresholds::new(reassure, treat).map_err(CliError::refused)?;
            sequence(&patterns, pre_test, &thresholds).map(|sequence| NamedSequence {
                names: names.clone(),
                information_first: tests.iter().map(|test| expected_information(pre_test, *test)).collect(),
                sequence,
            })
        }
    };
    let output = CombineOutput {
        tests: tests.len(),
        assumption: "conditional_independence",
        rules,
        counts: independent,
        patterns: arguments.patterns.then_some(patterns),
        dependent,
        cluster,
        sequence,
    };
    print(arguments.format, &output, || text(&output))
}

fn dependent(tests: &[TestAccuracy], correlation: LatentCorrelation) -> Result<Dependent, CliError> {
    let counts = count_results_latent(tests, correlation).map_err(CliError::refused)?;
    let rules = (1..=tests.len())
        .map(|k| {
            cluster_answer(tests, k, Some(correlation), &[], PoolOptions::default()).map(|answer| answer.dependent)
        })
        .collect::<Result<Vec<_>, _>>()
        .map_err(CliError::refused)?;
    Ok(Dependent { correlation, rules: rules.into_iter().flatten().collect(), counts })
}

fn tests(file: &str) -> Result<(Vec<String>, Vec<TestAccuracy>), CliError> {
    let columns = ["test", "sensitivity", "specificity"];
    let table = CsvTable::read(&read(file)?, &columns).map_err(CliError::table(file))?;
    let (mut names, mut tests, mut errors) = (Vec::new(), Vec::new(), Vec::new());
    for row in &table.rows {
        let share = |column: &str| -> Result<Probability, CsvError> {
            let missing = || row.fault(column, "no value is given; enter a number between 0 and 1".to_owned());
            let value = table.number(row, column)?.ok_or_else(missing)?;
            Probability::new(value).map_err(|error| row.fault(column, error.to_string()))
        };
        match (share("sensitivity"), share("specificity")) {
            (Ok(sensitivity), Ok(specificity)) => {
                names.push(table.text(row, "test").to_owned());
                tests.push(TestAccuracy { sensitivity, specificity });
            }
            (one, other) => errors.extend([one.err(), other.err()].into_iter().flatten()),
        }
    }
    if errors.is_empty() { Ok((names, tests)) } else { Err(CliError::table(file)(errors)) }
}

fn text(output: &CombineOutput) -> String {
    let lr = |lr: Option<pruvex_core::Ratio>| lr.map_or("not estimable".to_owned(), |lr| two_digits(lr.get()));
    let rule = |rule: &RuleAccuracy| {
        format!(
            "  at least {} of {}: sensitivity {}, specificity {}, LR+ {}, LR- {}",
            rule.k,
            output.tests,
            percent(rule.sensitivity),
            percent(rule.specificity),
            lr(rule.lr_positive),
            lr(rule.lr_negative)
        )
    };
    let mut lines = vec!["If the tests were independent given the condition:".to_owned()];
    lines.extend(output.rules.iter().map(rule));
    match &output.dependent {
        None => lines.push("Tests of the same tissue are not independent: the true gain is smaller.".to_owned()),
        Some(dependent) => {
            let LatentCorrelation { diseased, non_diseased } = dependent.correlation;
            lines.push(format!("With a correlation of {diseased} (without the condition {non_diseased}):"));
            lines.extend(dependent.rules.iter().map(rule));
        }
    }
    if let Some(cluster) = &output.cluster {
        match (&cluster.published, cluster.source) {
            (Some(pooled), ClusterSource::Published) => {
                lines.push(format!(
                    "Use the {} studies of the rule \"at least {}\", not the calculation:",
                    pooled.k, cluster.independent.k
                ));
                lines.push(share_line("sensitivity", pooled.summary.sensitivity));
                lines.push(share_line("specificity", pooled.summary.specificity));
                lines.push(ratio_line("LR+", pooled.summary.lr_positive));
                lines.push(ratio_line("LR-", pooled.summary.lr_negative));
            }
            _ => lines.push("No study of the rule itself: only calculated figures.".to_owned()),
        }
    }
    if let Some(NamedSequence { names, information_first, sequence }) = &output.sequence {
        lines.push("One after the other, until a threshold is crossed:".to_owned());
        for ((name, step), first) in names.iter().zip(&sequence.steps).zip(information_first) {
            lines.push(format!(
                "  {name}: needed in {}, then tells {:.2} bits (as the first test {first:.2})",
                percent(step.needed),
                step.information
            ));
        }
        lines.push(format!(
            "  on average {:.2} tests; reassured {}, treated {}, undecided {}",
            sequence.expected_tests,
            percent(sequence.reassured),
            percent(sequence.treated),
            percent(sequence.undecided)
        ));
        let chance = |p: Option<Probability>| p.map_or("nobody".to_owned(), percent);
        lines.push(format!(
            "  condition among the reassured {}, among the treated {}",
            chance(sequence.condition_if_reassured),
            chance(sequence.condition_if_treated)
        ));
    }
    lines.join("\n")
}
