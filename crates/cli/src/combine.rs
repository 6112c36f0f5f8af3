//! `pruvex combine`: rules over several tests.

use csv::{ReaderBuilder, Trim};
use pruvex_core::Probability;
use pruvex_core::combine::{RuleAccuracy, TestAccuracy, at_least, count_results};
use serde::{Deserialize, Serialize};

use crate::output::{Format, percent, print, read, two_digits};

#[derive(Debug, clap::Args)]
#[command(
    after_help = "Example:\n  printf 'test,sensitivity,specificity\\nA,0.8,0.9\\nB,0.7,0.85\\n' | pruvex combine -\n\n\
    Conditional independence is assumed. Tests of the same tissue break it: then a published cluster outranks this \
    calculation."
)]
pub struct Arguments {
    /// CSV file with test,sensitivity,specificity (between 0 and 1), or - for standard input.
    file: String,
    /// How to print the answer.
    #[arg(long, value_enum, default_value_t = Format::Text)]
    format: Format,
}

#[derive(Deserialize)]
struct Row {
    sensitivity: Probability,
    specificity: Probability,
}

#[derive(Serialize)]
struct Combined {
    tests: usize,
    /// "conditional_independence", so that nobody takes the figures for measured ones.
    assumption: &'static str,
    rules: Vec<RuleAccuracy>,
    counts: Vec<pruvex_core::combine::CountResult>,
}

pub fn run(arguments: &Arguments) -> Result<(), String> {
    let bytes = read(&arguments.file)?;
    let mut reader = ReaderBuilder::new().trim(Trim::All).from_reader(bytes.as_slice());
    let tests = reader
        .deserialize::<Row>()
        .map(|row| row.map(|Row { sensitivity, specificity }| TestAccuracy { sensitivity, specificity }))
        .collect::<Result<Vec<_>, _>>()
        .map_err(|error| format!("{} was not read: {error}", arguments.file))?;
    let counts = count_results(&tests).map_err(|error| error.to_string())?;
    let rules = (1..=tests.len()).map(|k| at_least(&tests, k)).collect::<Result<_, _>>().map_err(|e| e.to_string())?;
    let combined = Combined { tests: tests.len(), assumption: "conditional_independence", rules, counts };
    print(arguments.format, &combined, || text(&combined))
}

fn text(combined: &Combined) -> String {
    let lr = |lr: Option<pruvex_core::Ratio>| lr.map_or("not estimable".to_owned(), |lr| two_digits(lr.get()));
    let rule = |rule: &RuleAccuracy| {
        format!(
            "  at least {} of {}: sensitivity {}, specificity {}, LR+ {}, LR- {}",
            rule.k,
            combined.tests,
            percent(rule.sensitivity),
            percent(rule.specificity),
            lr(rule.lr_positive),
            lr(rule.lr_negative)
        )
    };
    let mut lines = vec!["If the tests were independent given the condition:".to_owned()];
    lines.extend(combined.rules.iter().map(rule));
    lines.push("Tests of the same tissue are not independent: the true gain is smaller.".to_owned());
    lines.join("\n")
}
