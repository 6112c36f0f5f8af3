//! Several results of one patient, one after the other.

use serde::Serialize;

use super::{
    NaturalFrequencies, natural_frequencies, post_test, post_test_interval, post_test_uncertain, supported_ratio,
    supported_share,
};
use crate::combine::{CombineError, LatentCorrelation, MAX_TESTS, ResultBand, TestAccuracy, results_together};
use crate::pooling::{PooledLevelRatio, Summary};
use crate::{Estimate, Level, Probability, Ratio};

/// A result that was found.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Finding {
    /// What is known of the test.
    pub summary: Summary,
    /// What it showed.
    pub result: FoundResult,
}

/// What a test showed. One that could not be done or read showed nothing, and is no finding.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum FoundResult {
    /// It was positive.
    Positive,
    /// It was negative.
    Negative,
    /// It stood at one of several levels.
    Level(FoundLevel),
}

/// A level that was found.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct FoundLevel {
    /// Its pooled likelihood ratio.
    ratio: Option<Estimate<Ratio>>,
    /// Where it lies among all levels.
    band: ResultBand,
}

impl FoundLevel {
    /// The level at this place, the most normal one first; none where there is no such place.
    ///
    /// Where it lies is taken from everybody who was counted, with half a person more at each level, so that none is impossible: the share of `x`
    /// of `n` people at one of `k` levels is `(x + 1/2) / (n + k/2)`.
    #[must_use]
    pub fn of(levels: &[PooledLevelRatio], place: usize) -> Option<Self> {
        let level = levels.get(place)?;
        #[allow(clippy::cast_precision_loss, reason = "counts of people")]
        let band = |count: fn(&PooledLevelRatio) -> u64| {
            let shares = |levels: &[PooledLevelRatio]| levels.iter().map(|it| count(it) as f64 + 0.5).sum::<f64>();
            [place, place + 1].map(|end| (shares(&levels[..end]) / shares(levels)).min(1.0))
        };
        let band = ResultBand { diseased: band(|it| it.with), non_diseased: band(|it| it.without) };
        Some(Self { ratio: level.ratio, band })
    }
}

impl Finding {
    /// The likelihood ratio of this result.
    #[must_use]
    pub fn lr(&self) -> Option<Estimate<Ratio>> {
        match self.result {
            FoundResult::Positive => self.summary.lr_positive,
            FoundResult::Negative => self.summary.lr_negative,
            FoundResult::Level(level) => level.ratio,
        }
    }

    /// Where the result lies among all results of the test, and what its ratio is above that of the two shares there: pooled studies
    /// are no single table, so that a level's ratio is not quite that of the people counted.
    fn band(&self) -> Option<(ResultBand, f64)> {
        match self.result {
            FoundResult::Level(FoundLevel { ratio, band }) => {
                let share = |[low, high]: [f64; 2]| high - low;
                Some((band, supported_ratio(ratio?).get() * share(band.non_diseased) / share(band.diseased)))
            }
            of => Some((ResultBand::of(supported_accuracy(&self.summary)?, of == FoundResult::Positive), 1.0)),
        }
    }
}

/// Sensitivity and specificity as far as the data support them (see [`supported_share`]).
#[must_use]
pub fn supported_accuracy(summary: &Summary) -> Option<TestAccuracy> {
    let (sensitivity, specificity) = summary.sensitivity.zip(summary.specificity)?;
    Some(TestAccuracy { sensitivity: supported_share(sensitivity), specificity: supported_share(specificity) })
}

/// What one result of a chain does.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ChainStep {
    /// Its likelihood ratio; `None` when not estimable.
    pub lr: Option<Estimate<Ratio>>,
    /// The probability after it and all before it; `None` when it is not estimable and moves nothing.
    pub after: Option<Estimate<Probability>>,
}

/// What tests that know of each other's results would make of a chain.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Dependence {
    /// Latent correlation of any two of the tests, in people with the condition and in people without it.
    pub correlation: f64,
    /// Probability after all results when the tests are independent: where the chain ends.
    pub independent: Probability,
    /// The same at that correlation; `None` when such results can happen to nobody.
    pub dependent: Option<Probability>,
    /// Of 1 000 people, those who show exactly these results (as "positive"), when the tests are independent.
    pub crowd: NaturalFrequencies,
}

/// A patient's results.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Chain {
    /// One for each result, in their order.
    pub steps: Vec<ChainStep>,
    /// Where they end; the pre-test probability without any.
    pub end: Estimate<Probability>,
    /// Of two results and more, all of them estimable.
    pub dependence: Option<Dependence>,
}

/// Probability after one result. A pre-test probability without spread takes the ratio's bounds as they are; one with spread adds its
/// variance, see [`post_test_uncertain`].
#[must_use]
pub fn after_result(
    pre_test: Estimate<Probability>,
    lr: Estimate<Ratio>,
    level: Level,
) -> Option<Estimate<Probability>> {
    if pre_test.lower == pre_test.upper {
        post_test_interval(pre_test.estimate, lr)
    } else {
        post_test_uncertain(pre_test, lr, level)
    }
}

/// Follows results one after the other, each starting where the one before it ended: Bayes' rule with the product of the ratios, which
/// takes the tests as independent given the condition. Beside it stands what they would be worth together if they were not, by a latent
/// normal variable behind each test (see [`results_together`]).
///
/// After a ratio whose point is infinite or 0 the chain goes on from the bound that the data support (see [`supported_share`]): otherwise an
/// empty cell of one small study would silence every result after it.
///
/// # Errors
/// [`CombineError`] for more than [`MAX_TESTS`] results or a correlation outside [0, 0.99].
pub fn chain(
    pre_test: Estimate<Probability>,
    findings: &[Finding],
    correlation: f64,
    level: Level,
) -> Result<Chain, CombineError> {
    if findings.len() > MAX_TESTS {
        return Err(CombineError::Tests(findings.len()));
    }
    let (steps, end) = chain_steps(pre_test, findings, level);
    let bands: Option<Vec<(ResultBand, f64)>> = findings.iter().map(Finding::band).collect();
    let dependence = match bands {
        Some(bands) if bands.len() > 1 => Some(dependence([pre_test.estimate, end.estimate], &bands, correlation)?),
        _ => None,
    };
    Ok(Chain { steps, end, dependence })
}

/// The steps of a [`chain`] and where they end, for any number of results.
#[must_use]
pub fn chain_steps(
    pre_test: Estimate<Probability>,
    findings: &[Finding],
    level: Level,
) -> (Vec<ChainStep>, Estimate<Probability>) {
    let mut end = pre_test;
    let mut steps = Vec::with_capacity(findings.len());
    for finding in findings {
        let lr = finding.lr();
        let after = lr.and_then(|lr| after_result(end, lr, level));
        end = after.map_or(end, |after| Estimate { estimate: supported_share(after), ..after });
        steps.push(ChainStep { lr, after });
    }
    (steps, end)
}

fn dependence(
    [pre_test, independent]: [Probability; 2],
    bands: &[(ResultBand, f64)],
    correlation: f64,
) -> Result<Dependence, CombineError> {
    let correlations = LatentCorrelation { diseased: correlation, non_diseased: correlation };
    let (stretches, above): (Vec<ResultBand>, Vec<f64>) = bands.iter().copied().unzip();
    let [with, without] = results_together(&stretches, correlations)?;
    let dependent_lr = Ratio::new(with / without * above.iter().product::<f64>()).ok();
    let apart = |of: fn(&ResultBand) -> [f64; 2]| -> f64 { stretches.iter().map(|it| of(it)[1] - of(it)[0]).product() };
    let (with, without) = (apart(|it| it.diseased), apart(|it| it.non_diseased));
    Ok(Dependence {
        correlation,
        independent,
        dependent: dependent_lr.and_then(|lr| post_test(pre_test, lr)),
        crowd: natural_frequencies(1_000, pre_test, Probability::rounded(with), Probability::rounded(1.0 - without)),
    })
}
