//! `pruvex calibration`: how well given probabilities agree with what came true, and how own estimates follow the evidence.

use pruvex_core::likelihood::{Calibration, Judged, calibration};
use pruvex_core::teach::{OwnEstimate, Updating, updating};
use pruvex_core::{Probability, Ratio};
use pruvex_formats::{CsvError, CsvRow, CsvTable};
use serde::Serialize;
use utoipa::ToSchema;

use crate::error::CliError;
use crate::output::{Format, percent, print, read};

#[derive(Debug, clap::Args)]
#[command(after_help = "Examples:\n  printf 'probability,came\\n0.8,1\\n0.2,0\\n0.6,0\\n' | pruvex calibration -\n  \
    printf 'pre_test,ratio,given\\n0.3,4,0.5\\n0.5,0.2,0.3\\n' | pruvex calibration -\n\n\
    With the second columns own post-test probabilities are compared with Bayes' rule: a slope below 1 is conservatism.")]
pub struct Arguments {
    /// CSV file with probability,came (1 or 0), or with pre_test,ratio,given; or - for standard input.
    file: String,
    /// How to print the answer.
    #[arg(long, value_enum, default_value_t = Format::Text)]
    format: Format,
}

/// Either comparison.
#[derive(Debug, Serialize, ToSchema)]
#[serde(untagged)]
pub enum CalibrationOutput {
    /// With what came true.
    Probabilities(Box<Calibration>),
    /// With Bayes' rule.
    Estimates(Updating),
}

pub fn run(arguments: &Arguments) -> Result<(), CliError> {
    let refused = |faults| CliError::Table { file: arguments.file.clone(), faults };
    let nothing = || CliError::Refused(format!("{}: nothing in it can be compared", arguments.file));
    let bytes = read(&arguments.file)?;
    let own = CsvTable::read(&bytes, &[]).is_ok_and(|table| table.position("ratio").is_some());
    let output = if own {
        let table = CsvTable::read(&bytes, &["pre_test", "ratio", "given"]).map_err(refused)?;
        let estimates = each(&table, |row| {
            let ratio = of(&table, row, "ratio", Ratio::new)?;
            let [pre_test, given] = ["pre_test", "given"].map(|column| of(&table, row, column, Probability::new));
            Ok(OwnEstimate { pre_test: pre_test?, ratio, given: given? })
        });
        CalibrationOutput::Estimates(updating(&estimates.map_err(refused)?).ok_or_else(nothing)?)
    } else {
        let table = CsvTable::read(&bytes, &["probability", "came"]).map_err(refused)?;
        let judged = each(&table, |row| {
            let probability = of(&table, row, "probability", Probability::new)?;
            match table.text(row, "came") {
                "1" => Ok(Judged { probability, came: true }),
                "0" => Ok(Judged { probability, came: false }),
                other => Err(row.fault("came", format!("{other:?} is neither 1 nor 0"))),
            }
        });
        CalibrationOutput::Probabilities(Box::new(calibration(&judged.map_err(refused)?).ok_or_else(nothing)?))
    };
    print(arguments.format, &output, || words(&output))
}

fn each<T>(table: &CsvTable, read: impl Fn(&CsvRow) -> Result<T, CsvError>) -> Result<Vec<T>, Vec<CsvError>> {
    let (mut all, mut faults) = (Vec::new(), Vec::new());
    for row in &table.rows {
        match read(row) {
            Ok(it) => all.push(it),
            Err(fault) => faults.push(fault),
        }
    }
    if faults.is_empty() { Ok(all) } else { Err(faults) }
}

fn of<T, E: ToString>(
    table: &CsvTable,
    row: &CsvRow,
    column: &str,
    make: impl Fn(f64) -> Result<T, E>,
) -> Result<T, CsvError> {
    let number = table.number(row, column)?.ok_or_else(|| row.fault(column, "is empty; enter a number".to_owned()))?;
    make(number).map_err(|error| row.fault(column, error.to_string()))
}

fn words(output: &CalibrationOutput) -> String {
    let signed = |it: f64| format!("{it:+.3}");
    match output {
        CalibrationOutput::Probabilities(of) => {
            let line = of.penalised.map_or_else(
                || "  Slope                  none: the same probability every time".to_owned(),
                |it| format!("  Slope                  {:.2} (standard error {:.2})", it.slope, it.slope_se),
            );
            [
                format!("{} of {} came true", of.events, of.n),
                format!("  Mean probability       {}", percent(of.mean)),
                format!("  Brier score            {:.4}", of.brier),
                format!("  Log score              {:.4}", of.log_score),
                line,
            ]
            .join("\n")
        }
        CalibrationOutput::Estimates(of) => {
            let line = of.line.map_or_else(
                || "  Slope                  none: the same ratio every time".to_owned(),
                |it| format!("  Slope on the evidence  {:.2}; below 1 is conservative", it.slope),
            );
            [
                format!("{} own estimates beside Bayes' rule", of.n),
                format!("  Mean error             {} log odds", signed(of.mean_error)),
                format!("  Mean size of it        {:.3} log odds", of.mean_absolute_error),
                line,
            ]
            .join("\n")
        }
    }
}
