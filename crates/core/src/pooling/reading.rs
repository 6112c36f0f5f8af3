//! What a pooled answer says in words: codes from its numbers, never a fixed text; the sentences are the screen's.

use serde::Serialize;

use super::answer::{ArmName, MIN_FOR_CORRELATION, Pooled};
use super::ladder::{both_arms, totals};
use super::multistart::Boundary;
use super::prediction::Prediction;
use crate::accuracy::{Counts, Uninterpretable};
use crate::agreement::SizeWord;
use crate::{Estimate, Ratio};

/// How far a likelihood ratio moves a probability (bands of Jaeschke, Guyatt and Sackett 1994).
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Shift {
    /// Against what the result is taken for: LR+ below 1, LR- above 1.
    Reversed,
    /// Up to 2, or down to 0.5.
    Slight,
    /// 2 to 5, or 0.5 to 0.2.
    Small,
    /// 5 to 10, or 0.2 to 0.1.
    Moderate,
    /// 10 and more, or 0.1 and less.
    Large,
}

impl Shift {
    /// Of a factor in the expected direction: LR+, or 1 / LR-.
    fn of(factor: f64) -> Self {
        match factor {
            f if f < 1.0 => Self::Reversed,
            f if f < 2.0 => Self::Slight,
            f if f < 5.0 => Self::Small,
            f if f < 10.0 => Self::Moderate,
            _ => Self::Large,
        }
    }
}

/// What one result, positive or negative, is worth.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Worth {
    /// By the estimate.
    pub shift: Shift,
    /// By the bound of its interval that is least favourable.
    pub at_least: Shift,
    /// By the bound that is most favourable.
    pub at_most: Shift,
}

/// How much studies differ, by where the true values of a new one are expected.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum StudySpread {
    /// Too few to tell.
    NotKnown,
    /// No variance between studies was estimated; few studies cannot rule it out.
    NoneEstimated,
    /// A new study is expected to agree on what both results are worth, within a band.
    Moderate,
    /// In it a result may truly be worth more or less than in the summary, but in the same direction.
    Wide,
    /// In it a result may truly tell nothing.
    AcrossOne,
}

/// What limits the answer.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[serde(tag = "code", rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Limit {
    /// One study.
    SingleStudy,
    /// Fewer than four report both groups.
    FewStudies {
        /// How many do.
        both_arms: usize,
    },
    /// Not an error in an arm, on few people: certainty is not to be had from them.
    NoErrors {
        /// Which arm.
        arm: ArmName,
        /// People in it.
        n: u64,
    },
    /// An interval of a ratio includes 1.
    CrossesOne {
        /// LR+, else LR-.
        positive: bool,
    },
    /// The maximum is at a correlation of ±1: intervals may be too narrow.
    CorrelationAtLimit,
    /// Results of studies at high risk of bias.
    HighRisk {
        /// How many.
        results: usize,
        /// Of how many.
        of: usize,
    },
    /// Results of studies that nobody has appraised.
    NotAppraised {
        /// How many.
        results: usize,
        /// Of how many.
        of: usize,
    },
    /// Results of studies whose reference standard includes the test itself, so that the two agree more than they should.
    IncludesTest {
        /// How many.
        results: usize,
        /// Of how many.
        of: usize,
    },
    /// Results whose report tells that fewer than half of the people with a negative test got the reference standard: sensitivity looks too high.
    NegativesUnverified {
        /// How many.
        results: usize,
        /// Of how many.
        of: usize,
    },
    /// Tests that could not be interpreted, as far as reports tell; the figures leave them out.
    Uninterpretable {
        /// How many tests.
        tests: u64,
        /// Of how many, those in the cells among them.
        of: u64,
        /// Results whose reports tell it.
        results: usize,
    },
    /// Examiners, or occasions, agree too little to rely on what the test finds.
    LowAgreement {
        /// The lowest pooled coefficient.
        coefficient: f64,
        /// A word for its size.
        size: SizeWord,
    },
    /// They were read against different reference standards.
    SeveralStandards {
        /// How many.
        standards: usize,
    },
}

/// What a pooled answer says.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct PoolReading {
    /// Of a positive result.
    pub positive: Option<Worth>,
    /// Of a negative one.
    pub negative: Option<Worth>,
    /// How much studies differ.
    pub spread: StudySpread,
    /// What limits it, the weightiest first.
    pub limits: Vec<Limit>,
}

/// What is known of the results beside their counts.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct Provenance {
    /// Results of studies at high risk of bias.
    pub high_risk: usize,
    /// Results of studies that nobody has appraised.
    pub not_appraised: usize,
    /// Results of studies whose reference standard includes the test itself.
    pub includes_test: usize,
    /// Results whose report tells that fewer than half of the people with a negative test were verified.
    pub negatives_unverified: usize,
    /// Tests that could not be interpreted, of how many, and in how many results that is told.
    pub uninterpretable: Uninterpretable,
    /// Reference standards that are named.
    pub standards: usize,
    /// The lowest coefficient of agreement that is too low, with a word for its size.
    pub low_agreement: Option<(f64, SizeWord)>,
}

impl Worth {
    /// Of a positive result with this LR+, or of a negative one with this LR-.
    #[must_use]
    pub fn of(ratio: Estimate<Ratio>, positive: bool) -> Self {
        let shift = |ratio: Ratio| {
            let ratio = ratio.get();
            Shift::of(if positive { ratio } else { 1.0 / ratio })
        };
        let (least, most) = if positive { (ratio.lower, ratio.upper) } else { (ratio.upper, ratio.lower) };
        Self { shift: shift(ratio.estimate), at_least: shift(least), at_most: shift(most) }
    }
}

impl Pooled {
    /// What a positive and a negative result are worth, as far as their ratios can be estimated.
    #[must_use]
    pub fn worth(&self) -> [Option<Worth>; 2] {
        let of = |ratio: Option<Estimate<Ratio>>, positive| ratio.map(|ratio| Worth::of(ratio, positive));
        [of(self.summary.lr_positive, true), of(self.summary.lr_negative, false)]
    }
}

/// Reads a pooled answer.
#[must_use]
pub fn read(studies: &[Counts], pooled: &Pooled, ahead: &Prediction, known: Provenance) -> PoolReading {
    let [positive, negative] = pooled.worth();
    let mut limits = Vec::new();
    match (studies.len(), both_arms(studies)) {
        (1, _) => limits.push(Limit::SingleStudy),
        (_, both_arms) if both_arms < MIN_FOR_CORRELATION => limits.push(Limit::FewStudies { both_arms }),
        _ => {}
    }
    for (arm, people) in [ArmName::Diseased, ArmName::NonDiseased].into_iter().zip(totals(studies)) {
        if people.n > 0 && people.correct == people.n {
            limits.push(Limit::NoErrors { arm, n: people.n });
        }
    }
    let crosses = |worth: Option<Worth>| {
        worth.is_some_and(|it| (it.at_least == Shift::Reversed) != (it.at_most == Shift::Reversed))
    };
    limits.extend(
        [(positive, true), (negative, false)]
            .into_iter()
            .filter(|(of, _)| crosses(*of))
            .map(|(_, positive)| Limit::CrossesOne { positive }),
    );
    let of = studies.len();
    if known.high_risk > 0 {
        limits.push(Limit::HighRisk { results: known.high_risk, of });
    }
    if known.not_appraised > 0 {
        limits.push(Limit::NotAppraised { results: known.not_appraised, of });
    }
    if known.includes_test > 0 {
        limits.push(Limit::IncludesTest { results: known.includes_test, of });
    }
    if known.negatives_unverified > 0 {
        limits.push(Limit::NegativesUnverified { results: known.negatives_unverified, of });
    }
    let Uninterpretable { tests, of, results } = known.uninterpretable;
    if tests > 0 {
        limits.push(Limit::Uninterpretable { tests, of, results });
    }
    if let Some((coefficient, size)) = known.low_agreement {
        limits.push(Limit::LowAgreement { coefficient, size });
    }
    if known.standards > 1 {
        limits.push(Limit::SeveralStandards { standards: known.standards });
    }
    // A posterior is not held by the ends of what a correlation or a variance may be.
    if pooled.posterior.is_none() && matches!(pooled.boundary, Boundary::RhoMinusOne | Boundary::RhoPlusOne) {
        limits.push(Limit::CorrelationAtLimit);
    }
    PoolReading { positive, negative, spread: spread(pooled, ahead), limits }
}

fn spread(pooled: &Pooled, ahead: &Prediction) -> StudySpread {
    if pooled.boundary == Boundary::BothVariancesZero {
        return StudySpread::NoneEstimated;
    }
    let (Some(positive), Some(negative)) = (ahead.lr_positive, ahead.lr_negative) else {
        return StudySpread::NotKnown;
    };
    let (positive, negative) = (Worth::of(positive, true), Worth::of(negative, false));
    let either = |f: fn(Worth) -> bool| f(positive) || f(negative);
    if either(|it| it.at_least == Shift::Reversed) {
        StudySpread::AcrossOne
    } else if either(|it| it.at_least != it.shift || it.at_most != it.shift) {
        StudySpread::Wide
    } else {
        StudySpread::Moderate
    }
}
