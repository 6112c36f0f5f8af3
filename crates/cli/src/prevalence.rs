//! `pruvex prevalence`: how common a condition is with and without symptoms, and what that makes of a true positive.

use pruvex_core::Level;
use pruvex_core::catalogue::{Condition, ConditionInput, PrevalenceReport, Symptoms};
use pruvex_core::evidence::{Incidental, PooledPrevalence, PrevalenceOf, pool_prevalence};
use pruvex_core::pooling::{PoolOptions, pool};
use pruvex_formats::CsvTable;

use crate::error::CliError;
use crate::output::{Format, level, print, ratio_line, read, share_line};

#[derive(Debug, clap::Args)]
#[command(
    after_help = "Example:\n  printf 'source,symptoms,people,with_condition\\nA,with,150,96\\nA,without,120,18\\n' | pruvex prevalence -\n\n\
    Rows of one source are one study; people with and without symptoms are its two groups."
)]
pub struct Arguments {
    /// CSV file with source,symptoms,people,with_condition (symptoms: with or without), or - for standard input.
    file: String,
    /// Confidence level.
    #[arg(long, default_value = "0.95", value_parser = level)]
    level: Level,
    /// How to print the answer.
    #[arg(long, value_enum, default_value_t = Format::Text)]
    format: Format,
}

pub fn run(arguments: &Arguments) -> Result<(), CliError> {
    let refused = |faults| CliError::Table { file: arguments.file.clone(), faults };
    let bytes = read(&arguments.file)?;
    let table = CsvTable::read(&bytes, &["source", "symptoms", "people", "with_condition"]).map_err(refused)?;
    let mut faults = Vec::new();
    let mut reports = Vec::new();
    for row in &table.rows {
        let [people, with_condition] = ["people", "with_condition"].map(|column| {
            table.number(row, column).unwrap_or_else(|fault| {
                faults.push(fault);
                None
            })
        });
        let symptoms = match table.text(row, "symptoms") {
            "with" => Some(Symptoms::With),
            "without" => Some(Symptoms::Without),
            _ => None,
        };
        let source = table.text(row, "source").to_owned();
        reports.push(PrevalenceReport { symptoms, people, with_condition, source, ..PrevalenceReport::default() });
    }
    if !faults.is_empty() {
        return Err(refused(faults));
    }
    let (region, name) = ("neck".to_owned(), "condition".to_owned());
    let checked = Condition::check(&ConditionInput { region, name, prevalence: reports, ..ConditionInput::default() });
    let checked = checked.map_err(|errors| {
        let lines: Vec<String> = errors.iter().map(|error| format!("  {error}")).collect();
        CliError::Refused(format!("{} was not read:\n{}", arguments.file, lines.join("\n")))
    })?;
    let options = PoolOptions { level: arguments.level, ..PoolOptions::default() };
    let pooled = pool_prevalence(&checked.prevalence, PrevalenceOf::default(), |tables| pool(tables, options));
    let pooled = pooled.map_err(|error| CliError::Refused(error.to_string()))?;
    print(arguments.format, &pooled, || words(&pooled))
}

fn words(of: &PooledPrevalence) -> String {
    let lines = [
        format!("{} people with symptoms, {} without", of.people_with, of.people_without),
        share_line("with symptoms", of.with_symptoms),
        share_line("without symptoms", of.without_symptoms),
        ratio_line("ratio", of.ratio),
        share_line("incidental by chance", of.by_chance),
        match of.incidental {
            Incidental::NotKnown => {
                "No data on people without symptoms: whether a true positive may be incidental is not known."
            }
            Incidental::Possible => "A true positive may be an incidental finding.",
            Incidental::Uncommon => "An incidental finding is unlikely.",
        }
        .to_owned(),
    ];
    lines.join("\n")
}
