//! `pruvex agreement`: reliability from a matrix of numbers.

use clap::ValueEnum;
use csv::{ReaderBuilder, Trim};
use pruvex_core::Level;
use pruvex_core::agreement::{
    AgreementNote, Coefficient, Measurements, RatingCounts, RatingTable, TwoRaterAgreement, bland_altman,
    intraclass_correlations, repeatability, several_rater_agreement, two_rater_agreement,
};
use serde_json::json;

use crate::output::{Format, level, number_line, print, read, share_line};

#[derive(Debug, Clone, Copy, ValueEnum)]
enum Kind {
    /// Square table of two raters: rows are the first one's categories, columns the second's.
    Table,
    /// A row per subject: how many raters chose each category.
    Counts,
    /// A row per subject, a column per rater: measured values.
    Measurements,
}

#[derive(Debug, clap::Args)]
#[command(after_help = "Example:\n  printf '40,9\\n6,45\\n' | pruvex agreement - --kind table")]
pub struct Arguments {
    /// CSV file of numbers without a header, or - for standard input.
    file: String,
    /// What the numbers are.
    #[arg(long, value_enum)]
    kind: Kind,
    /// How to print the answer.
    #[arg(long, value_enum, default_value_t = Format::Text)]
    format: Format,
    /// Confidence level.
    #[arg(long, default_value = "0.95", value_parser = level)]
    level: Level,
}

pub fn run(arguments: &Arguments) -> Result<(), String> {
    let Arguments { kind, format, level, .. } = *arguments;
    let file = &arguments.file;
    let wrong = |error: pruvex_core::agreement::RatingError| format!("{file}: {error}");
    match kind {
        Kind::Table => {
            let result = two_rater_agreement(&RatingTable::new(matrix(file)?).map_err(wrong)?, level);
            print(format, &result, || two_raters(&result))
        }
        Kind::Counts => {
            let result = several_rater_agreement(&RatingCounts::new(matrix(file)?).map_err(wrong)?, level);
            let title = format!("{} subjects, {} raters each", result.subjects, result.raters);
            print(format, &result, || {
                [title, coefficient("Fleiss' kappa", result.kappa), coefficient("AC1", Some(result.ac1))].join("\n")
            })
        }
        Kind::Measurements => {
            let measurements = Measurements::new(matrix(file)?).map_err(wrong)?;
            let (icc, error) = (intraclass_correlations(&measurements, level), repeatability(&measurements, level));
            let limits = bland_altman(&measurements, level);
            let value = json!({ "icc": icc, "repeatability": error, "bland_altman": limits });
            print(format, &value, || {
                let names = ["ICC(1,1)", "ICC(1,k)", "ICC(2,1)", "ICC(2,k)", "ICC(3,1)", "ICC(3,k)"];
                let mut lines: Vec<String> =
                    icc.iter().zip(names).map(|(icc, name)| number_line(name, icc.value)).collect();
                lines.push(format!(
                    "  standard error of measurement {:.3}, minimal detectable change {:.3}",
                    error.sem_agreement, error.mdc_agreement
                ));
                if let Some(limits) = limits {
                    lines.push(number_line("bias", Some(limits.bias)));
                    lines.push(number_line("lower limit", Some(limits.lower_limit)));
                    lines.push(number_line("upper limit", Some(limits.upper_limit)));
                }
                lines.join("\n")
            })
        }
    }
}

fn matrix<T: std::str::FromStr>(file: &str) -> Result<Vec<Vec<T>>, String> {
    let bytes = read(file)?;
    let mut reader =
        ReaderBuilder::new().has_headers(false).flexible(true).trim(Trim::All).from_reader(bytes.as_slice());
    let mut rows = Vec::new();
    for record in reader.records() {
        let record = record.map_err(|error| format!("{file} cannot be read: {error}"))?;
        let line = record.position().map_or(0, csv::Position::line);
        let cell = |(index, text): (usize, &str)| {
            text.parse().map_err(|_| {
                format!("{file}: line {line}, column {}: {text:?} is not a number of the right kind", index + 1)
            })
        };
        rows.push(record.iter().enumerate().map(cell).collect::<Result<Vec<T>, String>>()?);
    }
    Ok(rows)
}

fn coefficient(name: &str, value: Option<Coefficient>) -> String {
    number_line(name, value.map(|coefficient| coefficient.value))
}

fn two_raters(result: &TwoRaterAgreement) -> String {
    let mut lines = vec![
        format!("{} subjects", result.n),
        share_line("agreement", result.percent_agreement),
        coefficient("kappa", result.kappa),
        coefficient("AC1", result.ac1),
        format!("  PABAK {:.3}", result.pabak),
    ];
    if let Some(linear) = result.kappa_linear {
        lines.push(coefficient("kappa, linear weights", Some(linear)));
        lines.push(coefficient("kappa, quadratic", result.kappa_quadratic));
    }
    for note in &result.notes {
        lines.push(match note {
            AgreementNote::NoVariation => "Note: only one category was used, so kappa is 0 divided by 0.".to_owned(),
            AgreementNote::KappaParadox { prevalence_index } => format!(
                "Note: one category is so common (prevalence index {prevalence_index:.2}) that kappa is low although raters agree."
            ),
        });
    }
    lines.join("\n")
}
