//! What follows from a sheet without being written on it.

use serde::Serialize;

use super::anatomy::Motion;
use super::pitfall::Bias;
use super::sheet::Sheet;

/// What follows from a sheet.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Derived {
    /// Of each variant, of each step.
    pub steps: Vec<Vec<DerivedStep>>,
    /// Of each pitfall.
    pub pitfalls: Vec<DerivedPitfall>,
}

/// The two forces of a resisted step: one follows from the other.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct DerivedStep {
    /// Into which motion the examiner pushes.
    pub push: Option<Motion>,
    /// Which motion the patient tries to make.
    pub effort: Option<Motion>,
}

/// Which way a pitfall pushes the result.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct DerivedPitfall {
    /// As written, or as it follows from the effect and the positive findings of the baseline.
    pub direction: Option<Bias>,
    /// Nobody wrote the direction; it follows.
    pub follows: bool,
    /// A negative result is not interpretable where this is present.
    pub spoils_negative: bool,
}

impl Derived {
    /// Of a sheet.
    #[must_use]
    pub fn of(sheet: &Sheet) -> Self {
        let criteria = sheet.baseline().map(|variant| variant.criteria.as_slice()).unwrap_or_default();
        let steps = sheet.variants.iter().map(|variant| {
            let forces = |step: &super::ProcedureStep| DerivedStep { push: step.push(), effort: step.patient_effort() };
            variant.steps.iter().map(forces).collect()
        });
        let pitfalls = sheet.pitfalls.iter().map(|pitfall| {
            let direction = pitfall.direction(sheet.purpose, criteria);
            DerivedPitfall {
                direction,
                follows: pitfall.bias.is_none() && direction.is_some(),
                spoils_negative: pitfall.spoils_negative(direction),
            }
        });
        Self { steps: steps.collect(), pitfalls: pitfalls.collect() }
    }
}
