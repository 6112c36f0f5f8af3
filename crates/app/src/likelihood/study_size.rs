//! From which probability on acting is worth it, and how large a study must be.

use pruvex_core::likelihood::{AccuracyStudySize, people_for_accuracy, subjects_for_kappa, treatment_threshold};
use pruvex_core::{FieldError, FieldErrorCode, Level, Probability};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::AppError;
use crate::people::Reader;

/// What acting is worth. Both in the same unit, whatever it is.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Stakes {
    /// What acting gains somebody who has the condition.
    benefit: f64,
    /// What it costs somebody who has not.
    harm: f64,
}

/// A threshold of action.
#[derive(Debug, Serialize, ToSchema)]
pub struct ActionThreshold {
    threshold: Probability,
}

/// The probability from which on acting gains more than it costs.
///
/// # Errors
/// Stakes that are no numbers above 0.
pub fn weigh_stakes(_by: &Reader, stakes: &Stakes) -> Result<ActionThreshold, AppError> {
    let Stakes { benefit, harm } = *stakes;
    let threshold = treatment_threshold(benefit, harm).ok_or_else(|| {
        let field = |(name, value): (&str, f64)| {
            let message = "It must be a number above 0.";
            FieldError::new(name, FieldErrorCode::Invalid, value, message, "Say how much is gained or lost.")
        };
        let sound = |value: f64| value > 0.0 && value.is_finite();
        AppError::Fields(
            [("benefit", benefit), ("harm", harm)].into_iter().filter(|it| !sound(it.1)).map(field).collect(),
        )
    })?;
    Ok(ActionThreshold { threshold })
}

/// A study of accuracy that somebody plans.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AccuracyPlan {
    /// Expected sensitivity.
    sensitivity: Probability,
    /// Expected specificity.
    specificity: Probability,
    /// Share with the condition among the people to be examined.
    prevalence: Probability,
    /// Share in whom test or reference standard will be missing.
    #[serde(default = "nobody")]
    unusable: Probability,
    /// Wanted width of both intervals, from end to end.
    width: f64,
}

fn nobody() -> Probability {
    Probability::ZERO
}

/// A study of agreement between two examiners that somebody plans.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AgreementPlan {
    /// Expected kappa.
    kappa: f64,
    /// Share of positive ratings.
    positive: Probability,
    /// Wanted width of kappa's interval, from end to end.
    width: f64,
}

/// Studies that somebody plans.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct StudyPlan {
    #[serde(default)]
    accuracy: Option<AccuracyPlan>,
    #[serde(default)]
    agreement: Option<AgreementPlan>,
}

/// What a width costs.
#[derive(Debug, Serialize, ToSchema)]
pub struct SizeForWidth<T> {
    width: f64,
    /// `null` when nobody could examine as many.
    size: T,
}

/// How many people the planned studies need, for the width asked for first and for others to compare with.
#[derive(Debug, Serialize, ToSchema)]
pub struct StudySizes {
    accuracy: Vec<SizeForWidth<Option<AccuracyStudySize>>>,
    agreement: Vec<SizeForWidth<Option<u64>>>,
}

/// How many people a study needs so that its intervals are no wider than wanted.
///
/// # Errors
/// Values with which no study can be planned.
pub fn plan_study(_by: &Reader, plan: StudyPlan) -> Result<StudySizes, AppError> {
    let StudyPlan { accuracy, agreement } = plan;
    let mut faults = Vec::new();
    let mut need = |field: &str, value: f64, sound: bool, remedy: &str| {
        if !sound {
            let message = "No study can be planned with this value.";
            faults.push(FieldError::new(field, FieldErrorCode::Invalid, value, message, remedy));
        }
    };
    let inside = |value: f64| value > 0.0 && value < 1.0;
    if let Some(of) = &accuracy {
        need("accuracy.width", of.width, inside(of.width), "Use a width above 0 and below 1, such as 0.1.");
        let prevalence = of.prevalence.get();
        need(
            "accuracy.prevalence",
            prevalence,
            inside(prevalence),
            "Both groups are needed: use a share between 0 and 1.",
        );
        let unusable = of.unusable.get();
        need("accuracy.unusable", unusable, unusable < 1.0, "Some people must remain: use a share below 1.");
    }
    if let Some(of) = &agreement {
        need("agreement.kappa", of.kappa, (0.0..1.0).contains(&of.kappa), "Use a kappa from 0 to below 1.");
        let positive = of.positive.get();
        need("agreement.positive", positive, inside(positive), "Both ratings are needed: use a share between 0 and 1.");
        need("agreement.width", of.width, of.width > 0.0 && of.width < 2.0, "Use a width above 0 and below 2.");
    }
    if !faults.is_empty() {
        return Err(AppError::Fields(faults));
    }
    let level = Level::default();
    Ok(StudySizes {
        accuracy: accuracy.map_or_else(Vec::new, |of| {
            let size =
                |width| people_for_accuracy(of.sensitivity, of.specificity, width, of.prevalence, of.unusable, level);
            widths(of.width, [0.05, 0.1, 0.15, 0.2, 0.3], size)
        }),
        agreement: agreement.map_or_else(Vec::new, |of| {
            widths(of.width, [0.1, 0.2, 0.3, 0.4, 0.5], |width| subjects_for_kappa(of.kappa, of.positive, width, level))
        }),
    })
}

fn widths<T>(asked: f64, others: [f64; 5], size: impl Fn(f64) -> T) -> Vec<SizeForWidth<T>> {
    let all = std::iter::once(asked).chain(others.into_iter().filter(|width| (width - asked).abs() > 1e-9));
    all.map(|width| SizeForWidth { width, size: size(width) }).collect()
}
