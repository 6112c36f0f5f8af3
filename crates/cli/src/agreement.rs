//! `pruvex agreement`: reliability from ratings, from measurements, or from what reports state.

use clap::ValueEnum;
use pruvex_core::agreement::{
    AgreementNote, BlandAltman, Coefficient, Icc, Measurements, PooledReliability, Precision, RatingCounts,
    RatingTable, Repeatability, ReportError, Reported, ReportedKind, SeveralRaterAgreement, Tabulated,
    TwoRaterAgreement, bland_altman, intraclass_correlations, pool_reported, repeatability, several_rater_agreement,
    tabulate, two_rater_agreement,
};
use pruvex_core::pooling::TauMethod;
use pruvex_core::{Estimate, Level};
use pruvex_formats::{CsvError, CsvRow, CsvTable, read_matrix};
use serde::Serialize;
use utoipa::ToSchema;

use crate::error::CliError;
use crate::output::{Format, level, number_line, print, read, share_line};

#[derive(Debug, Clone, Copy, ValueEnum)]
enum Kind {
    /// Square table of two raters: rows are the first one's categories, columns the second's.
    Table,
    /// A row per subject: how many raters chose each category.
    Counts,
    /// A row per subject, a column per rater: the category each chose, as a number or a word.
    Ratings,
    /// A row per subject, a column per rater: measured values.
    Measurements,
    /// A header with study,value and either se or lower,upper: kappas that studies report, to be pooled.
    Kappas,
    /// The same for intraclass correlations, pooled in Fisher's z.
    Iccs,
}

#[derive(Debug, Clone, Copy, ValueEnum)]
enum Method {
    /// No variance between studies.
    Fixed,
    /// DerSimonian and Laird.
    Dl,
    /// Restricted maximum likelihood.
    Reml,
    /// Paule and Mandel.
    Pm,
}

#[derive(Debug, clap::Args)]
#[command(after_help = "Examples:\n  printf '40,9\\n6,45\\n' | pruvex agreement - --kind table\n  \
    printf 'study,value,lower,upper\\nA,0.71,0.58,0.81\\nB,0.86,0.75,0.92\\n' | pruvex agreement - --kind iccs")]
pub struct Arguments {
    /// CSV file, or - for standard input.
    file: String,
    /// What the file holds.
    #[arg(long, value_enum)]
    kind: Kind,
    /// Variance between studies, for kappas and iccs.
    #[arg(long, value_enum, default_value_t = Method::Reml)]
    method: Method,
    /// How to print the answer.
    #[arg(long, value_enum, default_value_t = Format::Text)]
    format: Format,
    /// Confidence level, also of the intervals in the file.
    #[arg(long, default_value = "0.95", value_parser = level)]
    level: Level,
}

/// Two raters; the categories are named where the file names them.
#[derive(Debug, Serialize, ToSchema)]
pub struct TwoRaterOutput {
    #[serde(skip_serializing_if = "Vec::is_empty")]
    categories: Vec<String>,
    #[serde(flatten)]
    agreement: TwoRaterAgreement,
}

/// Three raters or more.
#[derive(Debug, Serialize, ToSchema)]
pub struct SeveralRaterOutput {
    #[serde(skip_serializing_if = "Vec::is_empty")]
    categories: Vec<String>,
    #[serde(flatten)]
    agreement: SeveralRaterAgreement,
}

/// Measurements of several raters.
#[derive(Debug, Serialize, ToSchema)]
pub struct MeasurementsOutput {
    icc: Vec<Icc>,
    repeatability: Repeatability,
    /// For two raters.
    bland_altman: Option<BlandAltman>,
}

/// What studies report, and the pool of it.
#[derive(Debug, Serialize, ToSchema)]
pub struct ReportedOutput {
    studies: Vec<ReportedStudy>,
    /// `null` for a single study.
    pooled: Option<PooledReliability>,
}

/// One study's coefficient.
#[derive(Debug, Serialize, ToSchema)]
struct ReportedStudy {
    study: String,
    #[serde(flatten)]
    estimate: Estimate<f64>,
}

pub fn run(arguments: &Arguments) -> Result<(), CliError> {
    let Arguments { kind, format, level, .. } = *arguments;
    let file = &arguments.file;
    let wrong = |error: pruvex_core::agreement::RatingError| CliError::Refused(format!("{file}: {error}"));
    let two = |categories: Vec<String>, table: &RatingTable| {
        let output = TwoRaterOutput { categories, agreement: two_rater_agreement(table, level) };
        print(format, &output, || two_raters(&output))
    };
    let several = |categories: Vec<String>, counts: &RatingCounts| {
        let output = SeveralRaterOutput { categories, agreement: several_rater_agreement(counts, level) };
        print(format, &output, || several_raters(&output))
    };
    match kind {
        Kind::Table => two(Vec::new(), &RatingTable::new(matrix(file)?).map_err(wrong)?),
        Kind::Counts => several(Vec::new(), &RatingCounts::new(matrix(file)?).map_err(wrong)?),
        Kind::Ratings => match tabulate(&matrix(file)?).map_err(wrong)? {
            (categories, Tabulated::Two(table)) => two(categories, &table),
            (categories, Tabulated::Several(counts)) => several(categories, &counts),
        },
        Kind::Measurements => {
            let measurements = Measurements::new(matrix(file)?).map_err(wrong)?;
            let output = MeasurementsOutput {
                icc: intraclass_correlations(&measurements, level).to_vec(),
                repeatability: repeatability(&measurements, level),
                bland_altman: bland_altman(&measurements, level),
            };
            print(format, &output, || measured(&output))
        }
        Kind::Kappas => reported(arguments, ReportedKind::Kappa),
        Kind::Iccs => reported(arguments, ReportedKind::Icc),
    }
}

fn matrix<T: std::str::FromStr>(file: &str) -> Result<Vec<Vec<T>>, CliError> {
    read_matrix(&read(file)?).map_err(CliError::table(file))
}

fn reported(arguments: &Arguments, kind: ReportedKind) -> Result<(), CliError> {
    let Arguments { file, level, .. } = arguments;
    let table = CsvTable::read(&read(file)?, &["study", "value"]).map_err(CliError::table(file))?;
    let (mut reports, mut errors) = (Vec::new(), Vec::new());
    for row in &table.rows {
        match report(&table, row, kind, *level) {
            Ok(found) => reports.push(found),
            Err(fault) => errors.push(fault),
        }
    }
    if !errors.is_empty() {
        return Err(CliError::table(file)(errors));
    }
    let method = match arguments.method {
        Method::Fixed => TauMethod::Fixed,
        Method::Dl => TauMethod::DerSimonianLaird,
        Method::Reml => TauMethod::Reml,
        Method::Pm => TauMethod::PauleMandel,
    };
    let studies = table.rows.iter().zip(&reports).map(|(row, report)| ReportedStudy {
        study: table.text(row, "study").to_owned(),
        estimate: report.estimate(*level),
    });
    let output = ReportedOutput { studies: studies.collect(), pooled: pool_reported(&reports, method, *level).ok() };
    print(arguments.format, &output, || pooled(&output))
}

fn report(table: &CsvTable, row: &CsvRow, kind: ReportedKind, level: Level) -> Result<Reported, CsvError> {
    let [value, se, lower, upper] = ["value", "se", "lower", "upper"].map(|column| table.number(row, column));
    let value = value?.ok_or_else(|| row.fault("value", "no coefficient is given".to_owned()))?;
    let (precision, column) = match (se?, lower?, upper?) {
        (Some(se), _, _) => (Precision::StandardError(se), "se"),
        (None, Some(lower), Some(upper)) => (Precision::Interval { lower, upper, level }, "lower"),
        _ => return Err(row.fault("se", "give a standard error, or both lower and upper".to_owned())),
    };
    Reported::new(kind, value, precision).map_err(|error| {
        let of_value = matches!(error, ReportError::Value(wrong) if wrong == value || wrong.is_nan());
        row.fault(if of_value { "value" } else { column }, error.to_string())
    })
}

fn pooled(output: &ReportedOutput) -> String {
    let mut lines: Vec<String> =
        output.studies.iter().map(|study| number_line(&study.study, Some(study.estimate))).collect();
    match &output.pooled {
        None => lines.push("One study alone is not pooled.".to_owned()),
        Some(pooled) => {
            lines.push(format!("{} studies pooled:", pooled.k));
            lines.push(number_line("pooled", Some(pooled.estimate)));
            lines.push(number_line("with Hartung-Knapp", pooled.hartung_knapp));
            lines.push(number_line("a new study's", pooled.prediction));
            lines.push(format!("  I2 {:.0} %, Cochran's Q {:.1} on {} df", 100.0 * pooled.i2, pooled.q, pooled.df));
        }
    }
    lines.join("\n")
}

fn measured(output: &MeasurementsOutput) -> String {
    let names = ["ICC(1,1)", "ICC(1,k)", "ICC(2,1)", "ICC(2,k)", "ICC(3,1)", "ICC(3,k)"];
    let mut lines: Vec<String> = output.icc.iter().zip(names).map(|(icc, name)| number_line(name, icc.value)).collect();
    lines.push(format!(
        "  standard error of measurement {:.3}, minimal detectable change {:.3}",
        output.repeatability.sem_agreement, output.repeatability.mdc_agreement
    ));
    if let Some(limits) = output.bland_altman {
        lines.push(number_line("bias", Some(limits.bias)));
        lines.push(number_line("lower limit", Some(limits.lower_limit_exact)));
        lines.push(number_line("upper limit", Some(limits.upper_limit_exact)));
    }
    lines.join("\n")
}

fn several_raters(SeveralRaterOutput { categories, agreement }: &SeveralRaterOutput) -> String {
    let mut lines = named(categories);
    lines.push(format!("{} subjects, {} raters each", agreement.subjects, agreement.raters));
    lines.push(coefficient("Fleiss' kappa", agreement.kappa));
    lines.push(coefficient("AC1", Some(agreement.ac1)));
    lines.join("\n")
}

fn named(categories: &[String]) -> Vec<String> {
    if categories.is_empty() {
        Vec::new()
    } else {
        vec![format!("Categories in this order: {}", categories.join(", "))]
    }
}

fn coefficient(name: &str, value: Option<Coefficient>) -> String {
    number_line(name, value.map(|coefficient| coefficient.value))
}

fn two_raters(TwoRaterOutput { categories, agreement: result }: &TwoRaterOutput) -> String {
    let mut lines = named(categories);
    lines.extend([
        format!("{} subjects", result.n),
        share_line("agreement", result.percent_agreement),
        coefficient("kappa", result.kappa),
        coefficient("AC1", result.ac1),
        format!("  PABAK {:.3}", result.pabak),
    ]);
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
