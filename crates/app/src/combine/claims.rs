//! Whether what is claimed of several tests read together can be true.

use pruvex_core::accuracy::Rounded;
use pruvex_core::combine::{
    self as core, Claim, ClaimsCheck, MAX_TESTS, NeededDependence, SingleRange, TestAccuracy, at_least,
    needed_dependence, rules_by_correlation,
};
use pruvex_core::{Estimate, FieldErrorCode, Probability};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::AppError;
use crate::people::Reader;

/// More claims are no one's.
const MOST_CLAIMS: usize = 12;

/// What is claimed, and of which tests.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ClaimsInput {
    /// The single tests.
    tests: Vec<SingleInput>,
    claims: Vec<ClaimInput>,
}

/// A single test.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SingleInput {
    sensitivity: FigureInput,
    specificity: FigureInput,
}

/// A figure of a single test.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(
    untagged,
    expecting = "expected a figure in percent as a report writes it, such as \"80\" or \"77.4\", or an estimate with its interval"
)]
pub enum FigureInput {
    /// As a report writes it, in percent, such as "80" or "77.4": its digits say how exact it is.
    Written(String),
    /// As the catalogue knows it: with its interval.
    Estimated(Estimate<Probability>),
}

/// A claim about the rule "at least so many positive".
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ClaimInput {
    at_least: usize,
    /// Sensitivity in percent, as written.
    #[serde(default)]
    sensitivity: Option<String>,
    /// Specificity in percent, as written.
    #[serde(default)]
    specificity: Option<String>,
}

/// One claim.
#[derive(Debug, Serialize, ToSchema)]
pub struct ClaimView {
    /// What independent tests would give: sensitivity and specificity.
    independent: [Probability; 2],
    /// How the tests would have to depend on each other for the claimed sensitivity; `null` without one, and where it cannot be.
    needed_sensitivity: Option<NeededDependence>,
    /// The same for the claimed specificity.
    needed_specificity: Option<NeededDependence>,
}

/// Whether the claims can be true.
#[derive(Debug, Serialize, ToSchema)]
pub struct ClaimsAnswer {
    /// With every figure of the single tests as it stands.
    exactly: ClaimsCheck,
    /// With every such figure anywhere in its rounding, or in its interval.
    loosely: ClaimsCheck,
    claims: Vec<ClaimView>,
}

/// A figure written in percent.
fn written(field: String, text: &str) -> Result<Rounded, AppError> {
    let figure = Rounded::parse(text, true);
    // 100 percent is the most; what rounds to it is still 100.
    figure.filter(|it| it.value() <= 1.0).ok_or_else(|| {
        let message = "A share in percent is a number from 0 to 100.";
        AppError::field(field, FieldErrorCode::Invalid, text, message, "Write it as it is printed, such as 85 or 77.4.")
    })
}

impl FigureInput {
    /// The figure itself, and from where to where it may lie.
    fn read(&self, field: String) -> Result<(Probability, [f64; 2]), AppError> {
        match self {
            Self::Written(text) => {
                let figure = written(field, text)?;
                let value = Probability::new(figure.value()).map_err(AppError::internal)?;
                Ok((value, figure.window().map(|end| end.clamp(0.0, 1.0))))
            }
            Self::Estimated(it) => Ok((it.estimate, [it.lower.get(), it.upper.get()])),
        }
    }
}

/// Checks claims under any dependence, with the single figures as they stand and as loosely as they are known.
///
/// # Errors
/// Too few or too many tests or claims, a figure that is no share, a rule that cannot be.
pub fn check_claims(_by: &Reader, input: &ClaimsInput) -> Result<ClaimsAnswer, AppError> {
    let n = input.tests.len();
    if !(2..=MAX_TESTS).contains(&n) {
        let message = format!("{n} single tests are given; a claim is about 2 to {MAX_TESTS}.");
        return Err(AppError::field(
            "tests",
            FieldErrorCode::Invalid,
            n,
            message,
            "Give the tests that are read together.",
        ));
    }
    if !(1..=MOST_CLAIMS).contains(&input.claims.len()) {
        let message = format!("{} claims are given; 1 to {MOST_CLAIMS} can be checked at once.", input.claims.len());
        return Err(AppError::field(
            "claims",
            FieldErrorCode::Invalid,
            input.claims.len(),
            message,
            "Give what is claimed.",
        ));
    }
    let (mut singles, mut points, mut ranges) = (Vec::new(), Vec::new(), Vec::new());
    for (nth, test) in input.tests.iter().enumerate() {
        let (se, sensitivity) = test.sensitivity.read(format!("tests.{nth}.sensitivity"))?;
        let (sp, specificity) = test.specificity.read(format!("tests.{nth}.specificity"))?;
        singles.push(TestAccuracy { sensitivity: se, specificity: sp });
        points.push(SingleRange { sensitivity: [se.get(); 2], specificity: [sp.get(); 2] });
        ranges.push(SingleRange { sensitivity, specificity });
    }
    let mut claims = Vec::with_capacity(input.claims.len());
    for (nth, claim) in input.claims.iter().enumerate() {
        let at = |name: &str| format!("claims.{nth}.{name}");
        if !(1..=n).contains(&claim.at_least) {
            let message = format!("A rule over {n} tests asks for 1 to {n} positive ones.");
            let remedy = "Use 1 for any, the number of tests for all, or a number between.";
            return Err(AppError::field(at("at_least"), FieldErrorCode::Invalid, claim.at_least, message, remedy));
        }
        let figure = |name: &str, text: &Option<String>| text.as_ref().map(|text| written(at(name), text)).transpose();
        claims.push(Claim {
            k: claim.at_least,
            sensitivity: figure("sensitivity", &claim.sensitivity)?,
            specificity: figure("specificity", &claim.specificity)?,
        });
    }
    let along = rules_by_correlation(&singles).map_err(AppError::internal)?;
    let exactly = core::check_claims(&points, &claims).map_err(AppError::internal)?;
    let view = |(claim, check): (&Claim, &core::ClaimCheck)| {
        let independent = at_least(&singles, claim.k).map_err(AppError::internal)?;
        let needed = |figure: Option<Rounded>, check: Option<core::FigureCheck>, of| {
            let possible = figure.filter(|_| check.is_some_and(|it| it.fault.is_none()));
            possible.map(|it| needed_dependence(&along, claim.k, it, of)).transpose().map_err(AppError::internal)
        };
        Ok(ClaimView {
            independent: [independent.sensitivity, independent.specificity],
            needed_sensitivity: needed(claim.sensitivity, check.sensitivity, |it| it.sensitivity)?,
            needed_specificity: needed(claim.specificity, check.specificity, |it| it.specificity)?,
        })
    };
    Ok(ClaimsAnswer {
        claims: claims.iter().zip(&exactly.claims).map(view).collect::<Result<_, AppError>>()?,
        loosely: core::check_claims(&ranges, &claims).map_err(AppError::internal)?,
        exactly,
    })
}
