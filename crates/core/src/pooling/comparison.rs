//! Does a categorical covariate explain the difference between studies? Meta-regression of both means on its levels.

use serde::Serialize;

use super::answer::{ArmName, IntervalMethod, MIN_FOR_CORRELATION, Model};
use super::derived::{Summary, Variances, proportion, ratios};
use super::ladder::{PoolError, both_arms, correlation, totals};
use super::marginal::{L11, L21, L22, StudyData, mean_at};
use super::multistart::{Boundary, Fit, Shape, fit};
use super::posterior::{Fineness, LevelContrast, LevelPosterior, PriorScales, Quantiles, posterior_levels};
use crate::accuracy::{Arm, Counts};
use crate::distribution::chi_square_upper;
use crate::quantity::{centred, expit};
use crate::{Estimate, Level, Ratio};

/// More levels than this are no question that a handful of studies can answer.
pub const MAX_LEVELS: usize = 12;

/// Why levels are not compared.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum ComparisonError {
    /// The studies cannot be pooled.
    #[error(transparent)]
    Pool(#[from] PoolError),
    /// A level for each study is needed.
    #[error("{levels} levels are given for {studies} studies")]
    Lengths {
        /// Studies.
        studies: usize,
        /// Levels.
        levels: usize,
    },
    /// None to compare, or too many.
    #[error("the studies have {0} levels; between 2 and {max} can be compared", max = MAX_LEVELS)]
    Levels(usize),
    /// In neither group does every level have both a correct and a wrong result.
    #[error("in each group some level has no study, or not one error: there is no finite difference to estimate")]
    NoFiniteMaximum,
    /// The model has no maximum that the data identify.
    #[error("these data do not identify a difference between the levels")]
    NotIdentified,
}

/// What one level's studies show in the joint model.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct LevelSummary {
    /// Position of the level.
    pub level: usize,
    /// Its studies.
    pub k: usize,
    /// People with the condition in them.
    pub diseased: u64,
    /// People without it.
    pub non_diseased: u64,
    /// Measures at its summary point.
    #[serde(flatten)]
    pub summary: Summary,
}

/// A level against the first one.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Contrast {
    /// Position of the level.
    pub level: usize,
    /// Its sensitivity divided by the first level's.
    pub relative_sensitivity: Option<Estimate<Ratio>>,
    /// Its specificity divided by the first level's.
    pub relative_specificity: Option<Estimate<Ratio>>,
    /// Its sensitivity less the first level's, from -1 to 1.
    pub sensitivity_difference: Option<Estimate<f64>>,
    /// Its specificity less the first level's.
    pub specificity_difference: Option<Estimate<f64>>,
}

/// A likelihood-ratio test.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct LikelihoodRatioTest {
    /// Twice the difference of the log-likelihoods.
    pub statistic: f64,
    /// Parameters that the levels add.
    pub df: usize,
    /// Chance of a larger statistic if the levels did not differ.
    pub p: f64,
}

/// A group whose levels could not be told apart.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct NotCompared {
    /// The group; all levels share its mean, or have none.
    pub arm: ArmName,
    /// The first level without a study, without an error or without a correct result in it.
    pub level: usize,
}

/// Levels of a covariate compared.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct LevelComparison {
    /// Bivariate, or independent where a correlation is not identified.
    pub model: Model,
    /// Where the maximum lies.
    pub boundary: Boundary,
    /// Confidence level of every interval.
    pub confidence: Level,
    /// How the intervals of the levels and of what is compared were made.
    pub interval: IntervalMethod,
    /// Each level's summary.
    pub levels: Vec<LevelSummary>,
    /// Each further level against the first.
    pub contrasts: Vec<Contrast>,
    /// Variances between the studies of a level, common to all levels.
    pub tau2: Variances,
    /// Their correlation, where both vary.
    pub rho: Option<f64>,
    /// Log-likelihood with the levels, binomial coefficients included.
    pub log_likelihood: f64,
    /// That neither mean differs between levels.
    pub test: LikelihoodRatioTest,
    /// That mean sensitivity does not differ, while specificity may.
    pub test_sensitivity: Option<LikelihoodRatioTest>,
    /// That mean specificity does not differ, while sensitivity may.
    pub test_specificity: Option<LikelihoodRatioTest>,
    /// Groups in which the levels could not be compared.
    pub not_compared: Vec<NotCompared>,
}

/// Compares the levels of a categorical covariate: each has its own mean logit sensitivity and specificity, the covariance between
/// studies is common (exact binomial likelihood as in [`super::pool`]).
///
/// `levels[i]` is the level of study `i`, counted from 0; level 0 is the one that the others are compared with. Tests are
/// likelihood-ratio tests against equal means. Intervals of relative values by the delta method on the log scale, with
/// `d ln p / d logit p = 1 - p`; of differences with `d p / d logit p = p (1 - p)`. A group in which a level has no study, no
/// error or no correct result has no finite difference: its mean stays common to all levels, and `not_compared` says so.
///
/// # Errors
/// [`ComparisonError`].
pub fn compare_levels(studies: &[Counts], levels: &[usize], level: Level) -> Result<LevelComparison, ComparisonError> {
    let count = check(studies, levels)?;
    // In one order, whatever the one given; see `in_order`.
    let mut paired: Vec<(Counts, usize)> = studies.iter().copied().zip(levels.iter().copied()).collect();
    paired.sort_by_key(|(study, level)| (study.cells(), *level));
    let (studies, levels): (Vec<Counts>, Vec<usize>) = paired.into_iter().unzip();
    let totals: Vec<[Arm; 2]> = (0..count)
        .map(|level| totals(studies.iter().zip(&levels).filter(|(_, of)| **of == level).map(|(study, _)| study)))
        .collect();
    let all = totals.iter().fold([Arm::default(); 2], |sum, level| [0, 1].map(|arm| sum[arm] + level[arm]));
    let finite = |arm: Arm| arm.correct > 0 && arm.correct < arm.n;
    let arms = all.map(finite);
    let first_broken = [0, 1].map(|arm| totals.iter().position(|level| !finite(level[arm])));
    let data: Vec<StudyData> = studies.iter().map(|study| StudyData::new(study, arms)).collect();
    let compared = [0, 1].map(|arm| arms[arm] && first_broken[arm].is_none());
    if compared == [false, false] {
        return Err(ComparisonError::NoFiniteMaximum);
    }
    // The models that are compared must share one structure, or their likelihoods would not be nested.
    let nested = |correlated: bool| {
        let fit_with = |on: [bool; 2]| {
            let placed: Vec<StudyData> = data
                .iter()
                .zip(&levels)
                .map(|(study, level)| StudyData { level: on.map(|on| if on { *level } else { 0 }), ..*study })
                .collect();
            let on = on.map(|on| if on { count } else { 1 });
            fit(&placed, Shape { arms, variances: arms, correlated, levels: on })
        };
        let only = |arm: usize| [arm == 0, arm == 1];
        let one_sided = if compared == [true, true] { [Some(only(1)), Some(only(0))] } else { [None, None] };
        let [without_sens, without_spec] = one_sided.map(|on| on.map(fit_with));
        // A model that was asked for and has no maximum ends the attempt.
        if matches!(without_sens, Some(None)) || matches!(without_spec, Some(None)) {
            return None;
        }
        Some((fit_with(compared)?, fit_with([false, false])?, without_sens.flatten(), without_spec.flatten()))
    };
    let (model, (fit, null, without_sens, without_spec)) = (both_arms(&studies) >= MIN_FOR_CORRELATION
        && arms == [true, true])
    .then(|| nested(true).map(|fits| (Model::Bivariate, fits)))
    .flatten()
    .or_else(|| nested(false).map(|fits| (Model::Independent, fits)))
    .ok_or(ComparisonError::NotIdentified)?;
    let test =
        |simpler: &Fit, arms: usize| likelihood_ratio(fit.log_likelihood, simpler.log_likelihood, arms * (count - 1));
    let both = compared.iter().filter(|compared| **compared).count();
    let summary = |level_index: usize| LevelSummary {
        level: level_index,
        k: levels.iter().filter(|level| **level == level_index).count(),
        diseased: totals[level_index][0].n,
        non_diseased: totals[level_index][1].n,
        summary: summarise(&fit, arms, compared, level_index, level),
    };
    let broken = |arm: usize, name: ArmName| first_broken[arm].map(|level| NotCompared { arm: name, level });
    Ok(LevelComparison {
        model,
        boundary: fit.boundary,
        confidence: level,
        interval: IntervalMethod::Wald,
        levels: (0..count).map(summary).collect(),
        contrasts: (1..count).map(|index| contrast(&fit, compared, index, level)).collect(),
        tau2: Variances {
            sens: arms[0].then(|| fit.theta[L11].powi(2)),
            spec: arms[1].then(|| fit.theta[L21].powi(2) + fit.theta[L22].powi(2)),
        },
        rho: (model == Model::Bivariate).then(|| correlation(&fit.theta)).flatten(),
        log_likelihood: fit.log_likelihood,
        test: test(&null, both),
        test_sensitivity: without_sens.as_ref().map(|simpler| test(simpler, 1)),
        test_specificity: without_spec.as_ref().map(|simpler| test(simpler, 1)),
        not_compared: [broken(0, ArmName::Diseased), broken(1, ArmName::NonDiseased)].into_iter().flatten().collect(),
    })
}

impl LevelComparison {
    /// The same comparison with levels and contrasts from the joint posterior of the model: spreads and correlation common to all levels, each level's means with
    /// the weak priors of a pool. Tests stay those of the likelihood. As it is where some level does not report both groups, or there are more studies than a
    /// posterior is made of.
    #[must_use]
    pub fn by_posterior(self, studies: &[Counts], levels: &[usize], prior: PriorScales) -> Self {
        if studies.len() > super::PoolOptions::MAX_FOR_POSTERIOR || studies.len() != levels.len() {
            return self;
        }
        let group = |level: usize| {
            let of = studies.iter().zip(levels).filter(|(_, it)| **it == level);
            of.map(|(study, _)| *study).collect::<Vec<Counts>>()
        };
        let groups: Vec<Vec<Counts>> = (0..self.levels.len()).map(group).collect();
        let Some(found) = posterior_levels(&groups, self.confidence, prior, Fineness::STANDARD) else { return self };
        let level = |(summary, of): (LevelSummary, &LevelPosterior)| LevelSummary {
            summary: Summary {
                sensitivity: of.logit_sens.share(),
                specificity: of.logit_spec.share(),
                lr_positive: of.log_lr_pos.ratio(),
                lr_negative: of.log_lr_neg.ratio(),
                dor: of.log_dor.ratio(),
            },
            ..summary
        };
        let plain = |of: Quantiles| Some(Estimate::around(of.median, of.lower, of.upper));
        let contrast = |(contrast, of): (Contrast, &LevelContrast)| Contrast {
            relative_sensitivity: of.log_relative_sens.ratio(),
            relative_specificity: of.log_relative_spec.ratio(),
            sensitivity_difference: plain(of.difference_sens),
            specificity_difference: plain(of.difference_spec),
            ..contrast
        };
        Self {
            interval: IntervalMethod::Posterior,
            levels: self.levels.into_iter().zip(&found.levels).map(level).collect(),
            contrasts: self.contrasts.into_iter().zip(&found.contrasts).map(contrast).collect(),
            ..self
        }
    }
}

fn check(studies: &[Counts], levels: &[usize]) -> Result<usize, ComparisonError> {
    if studies.is_empty() {
        return Err(PoolError::NoStudies.into());
    }
    if studies.len() > super::PoolOptions::MAX_STUDIES {
        return Err(PoolError::TooMany(studies.len()).into());
    }
    if studies.len() != levels.len() {
        return Err(ComparisonError::Lengths { studies: studies.len(), levels: levels.len() });
    }
    let count = levels.iter().max().map_or(0, |highest| highest.saturating_add(1));
    if (2..=MAX_LEVELS).contains(&count) { Ok(count) } else { Err(ComparisonError::Levels(count)) }
}

fn likelihood_ratio(full: f64, simpler: f64, df: usize) -> LikelihoodRatioTest {
    let statistic = (2.0 * (full - simpler)).max(0.0);
    LikelihoodRatioTest { statistic, df, p: chi_square_upper(statistic, df as f64) }
}

/// Where the mean of an arm stands for a level, when the arm is compared at all.
fn place(compared: [bool; 2], arm: usize, level: usize) -> usize {
    mean_at(arm, if compared[arm] { level } else { 0 })
}

fn summarise(fit: &Fit, arms: [bool; 2], compared: [bool; 2], index: usize, level: Level) -> Summary {
    let at = [0, 1].map(|arm| place(compared, arm, index));
    let share =
        |arm: usize| proportion(fit.theta[at[arm]], fit.covariance[(at[arm], at[arm])], level).filter(|_| arms[arm]);
    let [lr_positive, lr_negative, dor] = if arms == [true, true] {
        let covariance = at.map(|i| at.map(|j| fit.covariance[(i, j)]));
        ratios(at.map(|i| fit.theta[i]), covariance, level)
    } else {
        [None; 3]
    };
    Summary { sensitivity: share(0), specificity: share(1), lr_positive, lr_negative, dor }
}

fn contrast(fit: &Fit, compared: [bool; 2], index: usize, level: Level) -> Contrast {
    let ends = |arm: usize| {
        let (first, other) = (mean_at(arm, 0), mean_at(arm, index));
        let [p, q] = [first, other].map(|i| expit(fit.theta[i]));
        // Half the width of an interval for f(other) - f(first) with these derivatives.
        let half = move |to_first: f64, to_other: f64| {
            let variance = to_first.powi(2) * fit.covariance[(first, first)]
                + to_other.powi(2) * fit.covariance[(other, other)]
                - 2.0 * to_first * to_other * fit.covariance[(first, other)];
            level.z() * variance.max(0.0).sqrt()
        };
        compared[arm].then_some((p, q, half))
    };
    let relative = |arm: usize| {
        let (p, q, half) = ends(arm)?;
        centred((q / p).ln(), half(1.0 - p, 1.0 - q)).exp()
    };
    let difference = |arm: usize| {
        let (p, q, half) = ends(arm)?;
        let half = half(p * (1.0 - p), q * (1.0 - q));
        Some(Estimate::around(q - p, (q - p - half).max(-1.0), (q - p + half).min(1.0)))
    };
    Contrast {
        level: index,
        relative_sensitivity: relative(0),
        relative_specificity: relative(1),
        sensitivity_difference: difference(0),
        specificity_difference: difference(1),
    }
}
