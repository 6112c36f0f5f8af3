//! The pooled answer: what was fitted and why, how it ended, and what must be said beside it. All of it is data; words are the
//! screen's and the command line's.

use serde::{Deserialize, Serialize};

use super::derived::{MeanCovariance, Means, Summary, Variances};
use super::multistart::Boundary;
use super::optimise::StopCause;
use super::posterior::{JointShape, Posterior};
use crate::{Level, Probability};

/// What computes pooled answers. The number behind the version goes up with whatever makes an answer another one: answers that were kept are then
/// computed again.
pub const ENGINE: &str = concat!("pruvex-core ", env!("CARGO_PKG_VERSION"), "/1");

/// What was fitted.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Model {
    /// One study, its own intervals: nothing was pooled.
    SingleStudy,
    /// Sensitivity and specificity together, random effects with a correlation.
    Bivariate,
    /// Random effects for each arm, without a correlation.
    Independent,
    /// No variance between studies.
    Fixed,
    /// Bivariate random effects on observed logits, restricted maximum likelihood.
    NormalReml,
    /// The same by maximum likelihood.
    NormalMl,
}

impl Model {
    /// Whether sensitivity and specificity were modelled together.
    #[must_use]
    pub fn is_bivariate(self) -> bool {
        matches!(self, Self::Bivariate | Self::NormalReml | Self::NormalMl)
    }

    /// What a methods section calls it.
    #[must_use]
    pub fn method_name(self) -> &'static str {
        match self {
            Self::SingleStudy => "one study, nothing pooled: Wilson and Koopman score intervals",
            Self::Bivariate => {
                "bivariate random effects with exact binomial likelihood (Chu and Cole 2006), maximum likelihood by adaptive \
                 Gauss-Hermite quadrature"
            }
            Self::Independent => {
                "random effects for sensitivity and for specificity by themselves, exact binomial likelihood, maximum \
                 likelihood by adaptive Gauss-Hermite quadrature"
            }
            Self::Fixed => "no variance between studies, exact binomial likelihood, maximum likelihood",
            Self::NormalReml => {
                "bivariate random effects on observed logits (Reitsma 2005), restricted maximum likelihood, 0.5 added to the \
                 cells of studies with a zero cell"
            }
            Self::NormalMl => {
                "bivariate random effects on observed logits (Reitsma 2005), maximum likelihood, 0.5 added to the cells of \
                 studies with a zero cell"
            }
        }
    }
}

/// The model asked for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum ModelChoice {
    /// The richest that the data can carry.
    #[default]
    Auto,
    /// Bivariate, also with fewer than four studies; the ladder goes on from there when it is not identified.
    Bivariate,
    /// Without a correlation.
    Independent,
    /// Without variances between studies.
    Fixed,
    /// Normal approximation, restricted maximum likelihood.
    NormalReml,
    /// Normal approximation, maximum likelihood.
    NormalMl,
}

/// Studies with both arms from which on a correlation between the arms is estimated, and below which a pool counts as one of few studies.
pub const MIN_FOR_CORRELATION: usize = 4;

/// Why that model.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Reason {
    /// Only one study.
    SingleStudy,
    /// Asked for.
    Requested,
    /// At least four studies with both arms, and a finite maximum.
    EnoughStudies,
    /// Fewer than four studies with both arms: a correlation cannot be estimated reliably.
    FewStudies,
    /// Every study reports the same arm only.
    OneArmOnly,
    /// An arm without a single error (or without a single success) in any study.
    NoFiniteMaximum,
    /// The fuller model was not identified by these data.
    NotIdentified,
}

/// One rung that was tried, from the fullest down.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct LadderStep {
    /// The rung.
    pub model: Model,
    /// Why it was kept (the last) or left.
    pub reason: Reason,
    /// Whether it is the one reported.
    pub kept: bool,
}

/// What a reader must know about the pooled answer.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(tag = "code", rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Warning {
    /// Two or three studies: variances between them are hardly estimable.
    FewStudies {
        /// Studies with both arms.
        both_arms: usize,
    },
    /// Studies that report one arm only took part with that arm.
    OneArmedStudies {
        /// How many.
        count: usize,
    },
    /// The maximum is at a boundary; the simpler model stands beside it.
    AtBoundary {
        /// Which.
        boundary: Boundary,
    },
    /// Not one error in any study's arm: when pooled, an exact one-sided interval without a variance between studies.
    PerfectArm {
        /// Which arm.
        arm: ArmName,
        /// People in it.
        n: u64,
        /// Bound of the error proportion that the level's one-sided interval still holds.
        upper: Probability,
    },
    /// Not one correct result in any study's arm: pooled exact one-sided interval.
    NoneCorrect {
        /// Which arm.
        arm: ArmName,
        /// People in it.
        n: u64,
        /// Bound of the proportion correct that it still holds.
        upper: Probability,
    },
    /// Ratios bounded by combining the ends of the two arms' intervals; no coverage is guaranteed.
    CombinedEnds,
    /// The variance between studies could not be estimated; the interval is widened by the studies' own scatter.
    VarianceNotIdentified,
    /// Profile intervals were asked for and could not be followed to their ends: these are Wald intervals.
    ProfileNotFollowed,
    /// More quadrature nodes still changed the last digits: the data are so extreme that the answer is approximate.
    QuadratureLimit {
        /// Nodes per dimension used.
        nodes: usize,
    },
    /// 0.5 was added to the four cells of studies with a zero cell, as the normal approximation needs it.
    HalfAdded {
        /// To how many studies.
        studies: usize,
    },
    /// Nobody was examined in this arm: what needs it is not estimable.
    NoArm {
        /// Which arm.
        arm: ArmName,
    },
}

/// One of the two groups of patients.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum ArmName {
    /// With the condition: sensitivity.
    Diseased,
    /// Without it: specificity.
    NonDiseased,
}

/// How the intervals at the summary point are made.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum IntervalMethod {
    /// `expit(mu ± z se)`, the standard error from the observed information.
    Wald,
    /// Profile likelihood: better with few studies and at a boundary, and slower. Ratios combine the two intervals.
    Profile,
    /// Posterior median and equal-tailed quantiles under weak priors, of the ratios under the joint posterior: holds from two studies on.
    Posterior,
    /// Each arm by itself, with the studies' own scatter and the t distribution: no prior, and nearly as good a coverage.
    Sandwich,
}

/// The intervals asked for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum IntervalChoice {
    /// Posterior intervals up to [`IntervalChoice::POSTERIOR_UP_TO`] studies, then profile intervals; Wald intervals where the model asked
    /// for has no others.
    #[default]
    Auto,
    /// [`IntervalMethod::Posterior`].
    Posterior,
    /// [`IntervalMethod::Profile`].
    Profile,
    /// [`IntervalMethod::Wald`].
    Wald,
    /// [`IntervalMethod::Sandwich`].
    Sandwich,
}

impl IntervalChoice {
    /// Studies up to which intervals are posterior ones unless others are asked for. With more of them profile intervals cover as they should.
    pub const POSTERIOR_UP_TO: usize = 20;

    /// What is made of it for so many studies by this model.
    #[must_use]
    pub fn method(self, model: ModelChoice, studies: usize) -> IntervalMethod {
        match (self, model) {
            (Self::Wald, _) | (Self::Auto | Self::Profile, ModelChoice::NormalReml | ModelChoice::NormalMl) => {
                IntervalMethod::Wald
            }
            (Self::Auto, ModelChoice::Auto | ModelChoice::Bivariate) if studies <= Self::POSTERIOR_UP_TO => {
                IntervalMethod::Posterior
            }
            (Self::Auto | Self::Profile, _) => IntervalMethod::Profile,
            (Self::Posterior, _) => IntervalMethod::Posterior,
            (Self::Sandwich, _) => IntervalMethod::Sandwich,
        }
    }
}

impl From<IntervalMethod> for IntervalChoice {
    fn from(method: IntervalMethod) -> Self {
        match method {
            IntervalMethod::Wald => Self::Wald,
            IntervalMethod::Profile => Self::Profile,
            IntervalMethod::Posterior => Self::Posterior,
            IntervalMethod::Sandwich => Self::Sandwich,
        }
    }
}

impl IntervalMethod {
    /// What a methods section calls it.
    #[must_use]
    pub fn method_name(self) -> &'static str {
        match self {
            Self::Wald => "Wald intervals on the logit scale",
            Self::Profile => {
                "profile-likelihood intervals of sensitivity and specificity, combined for the ratios (Zou 2007)"
            }
            Self::Posterior => {
                "at the summary point posterior medians and equal-tailed posterior intervals of the bivariate model under weak priors, \
                 integrated deterministically"
            }
            Self::Sandwich => {
                "intervals from the studies' own scatter (Hartung and Knapp 2001, for binomial scores) with the t distribution, never narrower \
                 than without a variance between studies"
            }
        }
    }
}

/// How a share at the summary point was found.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum ShareWorking {
    /// The one study's own share with Wilson's interval.
    OneStudy,
    /// The inverse logit of the model's mean, with the interval that `method` names.
    Model,
    /// Posterior median and quantiles.
    Posterior,
    /// The inverse logit of the arm's own mean, with an interval from the studies' own scatter.
    Scatter,
    /// All people of the arm together, with the one-sided interval of Clopper and Pearson (1934): not one error, or not one correct result.
    PooledExact,
    /// Nobody was examined.
    None,
}

/// How a ratio at the summary point was found.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum RatioWorking {
    /// The one study's own ratio with its score interval (Koopman 1984), the odds ratio with Woolf's.
    OneStudy,
    /// From the summary point, its interval by the delta method on the log scale.
    Delta,
    /// The same with the studies' own scatter and the t distribution.
    DeltaScatter,
    /// From the summary point; the two shares' intervals combined with their correlation (Zou 2007).
    CombinedIntervals,
    /// From the two shares; every combination of the ends of their intervals.
    CombinedEnds,
    /// Median and quantiles of the joint posterior.
    Posterior,
    /// A share is missing.
    None,
}

/// How each measure was found.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Workings {
    /// Of sensitivity.
    pub sensitivity: ShareWorking,
    /// Of specificity.
    pub specificity: ShareWorking,
    /// Of LR+, LR- and the odds ratio.
    pub ratios: RatioWorking,
}

/// The pooled answer and how it came about.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Pooled {
    /// Studies.
    pub k: usize,
    /// People with the condition, over all studies.
    pub diseased: u64,
    /// People without it.
    pub non_diseased: u64,
    /// The model reported.
    pub model: Model,
    /// What a methods section calls the model and its intervals.
    pub method: String,
    /// How each measure was found; not every one comes from the model.
    pub workings: Workings,
    /// Why that one.
    pub reason: Reason,
    /// Every rung tried.
    pub ladder: Vec<LadderStep>,
    /// Whether the optimiser met its criterion (or none was needed).
    pub converged: bool,
    /// Why it stopped.
    pub stop: StopCause,
    /// Newton steps over all starts.
    pub iterations: usize,
    /// Length of the gradient at the answer.
    pub gradient_norm: f64,
    /// Quadrature nodes per dimension at which more changed nothing; 0 for closed forms.
    pub nodes: usize,
    /// Where the maximum lies.
    pub boundary: Boundary,
    /// Confidence level of every interval.
    pub level: Level,
    /// How the intervals of sensitivity and specificity were made.
    pub interval: IntervalMethod,
    /// Measures at the summary point.
    #[serde(flatten)]
    pub summary: Summary,
    /// Mean logits.
    pub mu: Means,
    /// Variances between studies.
    pub tau2: Variances,
    /// Correlation of logit sensitivity with logit specificity, where both vary.
    pub rho: Option<f64>,
    /// Covariance of the mean logits (sensitivity, specificity), as far as they are estimated.
    pub cov_mu: Option<MeanCovariance>,
    /// Log-likelihood with binomial coefficients.
    pub log_likelihood: Option<f64>,
    /// The model without correlation, shown beside a maximum at a boundary.
    pub simpler: Option<Summary>,
    /// The summary of the maximum-likelihood fit with Wald intervals, where the one above is not it.
    pub classical: Option<Summary>,
    /// What the summary rests on where its intervals are posterior ones. The means, variances and correlation above stay those of the
    /// maximum-likelihood fit.
    pub posterior: Option<PosteriorWorking>,
    /// What must be said beside the figures.
    pub warnings: Vec<Warning>,
}

impl Pooled {
    /// The joint distribution of the two mean logits: the posterior's, or the normal one of the fit's covariance; `None` where not both are known.
    #[must_use]
    pub fn joint_shape(&self) -> Option<JointShape> {
        match &self.posterior {
            Some(working) => working.posterior.mean_shape,
            None => JointShape::normal([self.mu.sens?, self.mu.spec?], self.cov_mu?.both()?),
        }
    }
}

/// The posterior of the summary point, and how much its priors make of it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct PosteriorWorking {
    /// Scale of the half-normal priors of the standard deviations between studies, on the logit scale.
    pub prior_scale: f64,
    /// The posterior.
    #[serde(flatten)]
    pub posterior: Posterior,
}

/// The summary under other priors.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct OtherScale {
    /// Scale of the half-normal priors.
    pub prior_scale: f64,
    /// Measures at the summary point.
    #[serde(flatten)]
    pub summary: Summary,
}
