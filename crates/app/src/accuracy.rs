//! One study's accuracy, live while its cells are typed, and the tables behind a rounded report.

use pruvex_core::accuracy::{Counts, Fact, Methods, RawCounts, RebuildError, Rebuilt, StudyAccuracy, rebuild};
use pruvex_core::{FieldError, FieldErrorCode};
use pruvex_formats::{StatementError, read_statement};
use serde::Deserialize;
use utoipa::ToSchema;

use crate::AppError;
use crate::blocking::blocking;
use crate::people::Reader;

/// Sensitivity, specificity, ratios and their intervals for one table; nothing is stored.
///
/// # Errors
/// Cells that are no counts.
pub fn study_accuracy(_by: &Reader, cells: RawCounts) -> Result<StudyAccuracy, AppError> {
    let counts = Counts::check(cells).map_err(AppError::Fields)?;
    Ok(pruvex_core::accuracy::study_accuracy(&counts, Methods::default()))
}

/// What a report prints.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ReportInput {
    /// At most 20.
    statements: Vec<Statement>,
}

/// One figure as it is printed.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Statement {
    /// `sens`, `spec`, `ppv`, `npv`, `accuracy`, `prevalence`, `lr+`, `lr-`, `dor`, `sens_ci`, `spec_ci`, or a number of people: `n`,
    /// `diseased`, `nondiseased`, `positive`, `negative`.
    name: String,
    /// With its digits: `0.78` and `78%` are different statements.
    value: String,
}

/// Groups of unknown size are tried up to this many people: what a bedside study examines, answered while it is typed.
const MAX_PER_ARM: u32 = 120;

/// Every 2x2 table that gives all printed figures, or those that contradict each other; nothing is stored.
///
/// # Errors
/// Statements that are not understood, or that leave too many tables.
pub async fn rebuild_tables(_by: &Reader, report: ReportInput) -> Result<Rebuilt, AppError> {
    let statements = report.statements;
    let whole = |message: String, remedy: &str| {
        AppError::Fields(vec![FieldError::new(
            "statements",
            FieldErrorCode::Invalid,
            statements.len(),
            message,
            remedy,
        )])
    };
    if statements.len() > 20 {
        return Err(whole("More than 20 statements.".to_owned(), "Leave some out."));
    }
    let mut errors = Vec::new();
    let mut facts: Vec<Fact> = Vec::new();
    for (index, Statement { name, value }) in statements.iter().enumerate() {
        match read_statement(name, value) {
            Ok(fact) => facts.push(fact),
            Err(StatementError::Name) => {
                let (field, remedy) = (format!("statements[{index}].name"), "Use one of the documented names.");
                errors.push(FieldError::new(field, FieldErrorCode::Unknown, name, "This figure is not known.", remedy));
            }
            Err(StatementError::Value) => {
                let (field, message) = (format!("statements[{index}].value"), "This is not understood.");
                let remedy = "Write it as the report prints it, such as 0.78 or 78%.";
                errors.push(FieldError::new(field, FieldErrorCode::Invalid, value, message, remedy));
            }
        }
    }
    if !errors.is_empty() {
        return Err(AppError::Fields(errors));
    }
    let found = blocking(move || rebuild(&facts, MAX_PER_ARM)).await?;
    found.map_err(|error| {
        let mut message = error.to_string();
        message.replace_range(..1, &message[..1].to_uppercase());
        let remedy = match error {
            RebuildError::TooOpen | RebuildError::TooMany => "Then every table that fits can be found.",
            RebuildError::TooLarge(_) => "Enter the counts themselves, if the report prints them.",
            RebuildError::BoundsOrder { fact } => {
                let field = format!("statements[{fact}].value");
                let value = &statements[fact].value;
                let message = "The lower bound of this interval is the larger one.";
                let remedy = "Write the lower bound first.";
                let fault = FieldError::new(field, FieldErrorCode::Invalid, value, message, remedy);
                return AppError::Fields(vec![fault]);
            }
        };
        whole(format!("{message}."), remedy)
    })
}
