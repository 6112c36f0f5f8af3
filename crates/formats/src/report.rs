//! Figures as a report prints them, read as statements about a 2x2 table.

use pruvex_core::accuracy::{Fact, Figure, ProportionMethod, Rounded, Total};

/// Figures and numbers that can be stated, by the names under which commands and the API take them.
const FIGURES: [(&str, Figure); 9] = [
    ("sens", Figure::Sensitivity),
    ("spec", Figure::Specificity),
    ("ppv", Figure::Ppv),
    ("npv", Figure::Npv),
    ("accuracy", Figure::Accuracy),
    ("prevalence", Figure::Prevalence),
    ("lr+", Figure::LrPositive),
    ("lr-", Figure::LrNegative),
    ("dor", Figure::Dor),
];
const TOTALS: [(&str, Total); 5] = [
    ("n", Total::N),
    ("diseased", Total::Diseased),
    ("nondiseased", Total::NonDiseased),
    ("positive", Total::TestPositive),
    ("negative", Total::TestNegative),
];

/// Why a statement could not be read.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum StatementError {
    /// The name is none of those above, nor `sens_ci` or `spec_ci`.
    #[error("this is no figure that can be used")]
    Name,
    /// The value is no number as it is printed.
    #[error("this is not understood; write it as the report prints it, such as 0.78 or 78%")]
    Value,
}

/// Reads a statement such as `sens` `0.78`, `spec` `84%`, `N` `60`, or `sens_ci` `0.58-0.90:exact` (Wilson unless said otherwise).
/// How many digits are printed matters: 0.78 and 78.0% are different statements.
///
/// # Errors
/// [`StatementError`]: which part is wrong.
pub fn read_statement(name: &str, value: &str) -> Result<Fact, StatementError> {
    let (name, value) = (name.to_lowercase(), value.trim());
    if let Some((_, total)) = TOTALS.iter().find(|(known, _)| *known == name) {
        return Ok(Fact::Total { total: *total, value: value.parse().map_err(|_| StatementError::Value)? });
    }
    let figure = |wanted: &str| FIGURES.iter().find(|(known, _)| *known == wanted).map(|(_, figure)| *figure);
    if let Some(figure) = figure(&name) {
        return Ok(Fact::Figure { figure, value: rounded(value).ok_or(StatementError::Value)? });
    }
    let interval = name.strip_suffix("_ci").and_then(figure);
    let interval = interval.filter(|figure| matches!(figure, Figure::Sensitivity | Figure::Specificity));
    let figure = interval.ok_or(StatementError::Name)?;
    let (bounds, method) = match value.split_once(':') {
        None => (value, ProportionMethod::Wilson),
        Some((bounds, "wilson")) => (bounds, ProportionMethod::Wilson),
        Some((bounds, "exact")) => (bounds, ProportionMethod::ClopperPearson),
        Some(_) => return Err(StatementError::Value),
    };
    let (lower, upper) = bounds.split_once(['-', '–']).ok_or(StatementError::Value)?;
    let (lower, upper) = rounded(lower).zip(rounded(upper)).ok_or(StatementError::Value)?;
    Ok(Fact::Interval { figure, lower, upper, method })
}

fn rounded(text: &str) -> Option<Rounded> {
    // Reports print decimal points and commas, and a space before the sign.
    let text = text.trim().replace(',', ".");
    match text.strip_suffix('%') {
        Some(percent) => Rounded::parse(percent.trim(), true),
        None => Rounded::parse(&text, false),
    }
}
