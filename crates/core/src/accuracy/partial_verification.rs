//! What a study says of a test when not everybody's true state was looked at.
//!
//! When mostly those with a positive test get the reference standard, sensitivity looks too high and specificity too low.

use serde::{Deserialize, Serialize};

use super::Counts;
use crate::quantity::centred;
use crate::{Count, Estimate, Level, Probability};

/// People of a study by test result, and what the reference standard said of them.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct VerificationCounts {
    /// Test positive, with the condition.
    pub positive_with: Count,
    /// Test positive, without it.
    pub positive_without: Count,
    /// Test positive, reference standard not done.
    pub positive_unverified: Count,
    /// Test negative, with the condition.
    pub negative_with: Count,
    /// Test negative, without it.
    pub negative_without: Count,
    /// Test negative, reference standard not done.
    pub negative_unverified: Count,
}

/// Why there is no corrected figure, or no interval of it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum VerificationFlag {
    /// There are people with a positive test, and none of them was verified.
    NoPositiveVerified,
    /// There are people with a negative test, and none of them was verified.
    NoNegativeVerified,
    /// Nobody had a positive test.
    NoPositive,
    /// Nobody had a negative test.
    NoNegative,
    /// Sensitivity is 0, 1 or not to be had: no interval.
    SensAtBoundary,
    /// Specificity is.
    SpecAtBoundary,
}

/// A share with its interval, where it has one.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct CorrectedShare {
    /// The share.
    pub estimate: Probability,
    /// Standard error of its logit; `null` at 0 or 1.
    pub logit_se: Option<f64>,
    /// Its interval.
    pub interval: Option<Estimate<Probability>>,
}

/// Sensitivity and specificity of a study in which not everybody was verified.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct VerifiedAccuracy {
    /// Of those verified only.
    pub naive_sensitivity: Option<Probability>,
    /// The same.
    pub naive_specificity: Option<Probability>,
    /// Share of the test-positives that were verified.
    pub positives_verified: Option<Probability>,
    /// Share of the test-negatives that were.
    pub negatives_verified: Option<Probability>,
    /// Corrected, if who was verified depended on the test's result alone.
    pub sensitivity: Option<CorrectedShare>,
    /// The same.
    pub specificity: Option<CorrectedShare>,
    /// Where one of the four verified cells is empty: with half a person added to each of them; else the same. `null` where a test result has nobody
    /// verified.
    pub sensitivity_half_added: Option<CorrectedShare>,
    /// The same.
    pub specificity_half_added: Option<CorrectedShare>,
    /// One of the four verified cells is empty.
    pub empty_cell: bool,
    /// Whatever the others had.
    pub sensitivity_range: Option<[Probability; 2]>,
    /// The same.
    pub specificity_range: Option<[Probability; 2]>,
    /// What is missing, and why.
    pub flags: Vec<VerificationFlag>,
}

/// People of one test result: verified ones that count for a share, verified ones that do not, and everybody.
#[derive(Debug, Clone, Copy)]
struct Side {
    counted: f64,
    other: f64,
    all: f64,
}

impl Side {
    fn verified(self) -> f64 {
        self.counted + self.other
    }

    fn unverified(self) -> f64 {
        self.all - self.verified()
    }

    /// As the other share counts them.
    fn turned(self) -> Self {
        Self { counted: self.other, other: self.counted, all: self.all }
    }

    fn with_half(self) -> Self {
        Self { counted: self.counted + 0.5, other: self.other + 0.5, all: self.all + 1.0 }
    }

    /// How many count if all are as those verified; `None` where there are people and none was.
    fn expected(self) -> Option<f64> {
        if self.all == 0.0 {
            return Some(0.0);
        }
        (self.verified() > 0.0).then(|| self.all * self.counted / self.verified())
    }
}

/// Corrected sensitivity and specificity, the range without any assumption, and those of the verified alone.
///
/// Begg and Greenes 1983: with `s`, `r` verified with and without the condition and `N` everybody of a test result,
/// `Se = N1 s1/(s1+r1) / [N1 s1/(s1+r1) + N0 s0/(s0+r0)]` and specificity likewise; variance of the logit of sensitivity
/// `N/(N1 N0) + r1/(s1 (s1+r1)) + r0/(s0 (s0+r0))`. The range runs over every true state that those not verified may have.
#[must_use]
pub fn correct_for_verification(counts: &VerificationCounts, level: Level) -> VerifiedAccuracy {
    let n = |count: Count| f64::from(count.get());
    let side = |with: Count, without: Count, unverified: Count| Side {
        counted: n(with),
        other: n(without),
        all: n(with) + n(without) + n(unverified),
    };
    let positive = side(counts.positive_with, counts.positive_without, counts.positive_unverified);
    let negative = side(counts.negative_with, counts.negative_without, counts.negative_unverified);
    // The side of the right results first.
    let (sensitivity, specificity) = ([positive, negative], [negative.turned(), positive.turned()]);
    let empty_cell = [positive, negative].iter().any(|side| side.counted == 0.0 || side.other == 0.0);
    let halved = |sides: [Side; 2]| {
        let known = sides.iter().all(|side| side.verified() > 0.0);
        corrected(if empty_cell { sides.map(Side::with_half) } else { sides }, level).filter(|_| known)
    };
    let mut flags = Vec::new();
    for (side, nobody, none_verified) in [
        (positive, VerificationFlag::NoPositive, VerificationFlag::NoPositiveVerified),
        (negative, VerificationFlag::NoNegative, VerificationFlag::NoNegativeVerified),
    ] {
        if side.all == 0.0 {
            flags.push(nobody);
        } else if side.verified() == 0.0 {
            flags.push(none_verified);
        }
    }
    let answers = [sensitivity, specificity].map(|sides| corrected(sides, level));
    let known = positive.expected().is_some() && negative.expected().is_some() && positive.all + negative.all > 0.0;
    for (answer, flag) in answers.iter().zip([VerificationFlag::SensAtBoundary, VerificationFlag::SpecAtBoundary]) {
        if known && answer.is_none_or(|it| it.interval.is_none()) {
            flags.push(flag);
        }
    }
    let share = |part: f64, whole: f64| if whole > 0.0 { Probability::new(part / whole).ok() } else { None };
    let naive = |[right, wrong]: [Side; 2]| share(right.counted, right.counted + wrong.counted);
    VerifiedAccuracy {
        naive_sensitivity: naive(sensitivity),
        naive_specificity: naive(specificity),
        positives_verified: share(positive.verified(), positive.all),
        negatives_verified: share(negative.verified(), negative.all),
        sensitivity: answers[0],
        specificity: answers[1],
        sensitivity_half_added: halved(sensitivity),
        specificity_half_added: halved(specificity),
        empty_cell,
        sensitivity_range: range(sensitivity),
        specificity_range: range(specificity),
        flags,
    }
}

/// A table that says what the corrected figures say, with as many people as these are worth: `n = 1 / (v p (1 - p))` in each group, `v` the variance of the
/// logit of the share `p`. So a pool can take the corrected result with no more trust than it deserves; that both shares rest on the same people is lost. Where a
/// share is 0 or 1 the people verified stand for it. Whole people; no cell that was not empty becomes so.
///
/// `None` where a test result has nobody verified.
#[must_use]
pub fn corrected_table(counts: &VerificationCounts) -> Option<Counts> {
    let answer = correct_for_verification(counts, Level::default());
    let cells = |share: CorrectedShare, right: Count, wrong: Count| {
        let p = share.estimate.get();
        let Some(se) = share.logit_se else { return [right, wrong].map(|it| f64::from(it.get())) };
        let people = (1.0 / (se * se * p * (1.0 - p))).round().clamp(2.0, f64::from(Count::MAX));
        let right = (people * p).round().clamp(1.0, people - 1.0);
        [right, people - right]
    };
    let [tp, fn_] = cells(answer.sensitivity?, counts.positive_with, counts.negative_with);
    let [tn, fp] = cells(answer.specificity?, counts.negative_without, counts.positive_without);
    Counts::full(tp, fp, fn_, tn).ok()
}

/// The share of the right results with its interval.
fn corrected([right, wrong]: [Side; 2], level: Level) -> Option<CorrectedShare> {
    let (hits, misses) = (right.expected()?, wrong.expected()?);
    let share = hits / (hits + misses);
    let estimate = Probability::new(share).ok()?;
    let variance = (right.all + wrong.all) / (right.all * wrong.all)
        + right.other / (right.counted * right.verified())
        + wrong.other / (wrong.counted * wrong.verified());
    let logit_se = (share > 0.0 && share < 1.0).then(|| variance.sqrt()).filter(|se| se.is_finite());
    let interval = logit_se.and_then(|se| centred((share / (1.0 - share)).ln(), level.z() * se).expit());
    Some(CorrectedShare { estimate, logit_se, interval })
}

/// From the least to the most of it, whatever those not verified had. A corner at which nobody is left is taken next to it.
fn range([right, wrong]: [Side; 2]) -> Option<[Probability; 2]> {
    let (hits, misses) = (right.counted, wrong.counted);
    let (more_hits, more_misses) = (right.unverified(), wrong.unverified());
    if hits + more_hits + misses + more_misses == 0.0 {
        return None;
    }
    let low = if hits + misses + more_misses > 0.0 { hits / (hits + misses + more_misses) } else { 1.0 };
    let high = if hits + more_hits + misses > 0.0 { (hits + more_hits) / (hits + more_hits + misses) } else { 0.0 };
    Some([low, high].map(Probability::rounded))
}
