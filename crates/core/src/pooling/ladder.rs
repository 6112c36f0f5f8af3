//! The ladder: the richest model the data can carry, with the reason for every step down.

use super::answer::{
    ArmName, IntervalChoice, IntervalMethod, LadderStep, MIN_FOR_CORRELATION, Model, ModelChoice, OtherScale, Pooled,
    PosteriorWorking, RatioWorking, Reason, ShareWorking, Warning, Workings,
};
use super::derived::{
    MeanCovariance, Means, Summary, Variances, proportion, ratios, ratios_from_bounds, ratios_from_ends,
};
use super::marginal::{L11, L21, L22, M1, M2, StudyData, Theta, parameters};
use super::multistart::{Boundary, Fit, Near, Shape, fit, fit_near};
use super::normal::fit_normal;
use super::optimise::StopCause;
use super::order::in_order;
use super::posterior::{Fineness, PriorScales, posterior};
use super::profile::profile_interval;
use super::sandwich::scatter_summary;
use crate::accuracy::{Arm, Counts, Methods, ProportionMethod, proportion_interval, study_accuracy};
use crate::quantity::expit;
use crate::{Estimate, Level, Probability};

/// Why nothing can be pooled.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum PoolError {
    /// No study at all.
    #[error("there is no study to pool; add at least one")]
    NoStudies,
    /// More studies than any real review holds.
    #[error("{0} studies are more than the limit of {max}", max = PoolOptions::MAX_STUDIES)]
    TooMany(usize),
    /// More studies than a posterior interval is made of.
    #[error("{0} studies are more than the limit of {max} for posterior intervals; use profile intervals", max = PoolOptions::MAX_FOR_POSTERIOR)]
    TooManyForPosterior(usize),
    /// Posterior intervals are those of the bivariate model.
    #[error(
        "posterior intervals belong to the bivariate model with exact likelihood; leave the model open, or choose other intervals"
    )]
    NoPosterior,
    /// Sandwich intervals need scatter.
    #[error(
        "intervals from the studies' own scatter need each group of patients reported by two studies, with an error and a correct result in \
         it; use posterior intervals"
    )]
    NoSandwich,
    /// They belong to the model without correlation.
    #[error(
        "intervals from the studies' own scatter belong to sensitivity and specificity by themselves; leave the model open, or choose \
         other intervals"
    )]
    SandwichOfAnother,
    /// The normal approximation has no maximum.
    #[error("the normal approximation has no maximum with these studies; use the exact likelihood")]
    NotIdentified,
}

/// Choices of a pool.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct PoolOptions {
    /// Confidence level, 0.95 unless stated.
    pub level: Level,
    /// Intervals of the summary point.
    pub interval: IntervalChoice,
    /// The model, the richest that the data can carry unless stated.
    pub model: ModelChoice,
    /// How wide the priors of posterior intervals are.
    pub prior: PriorScales,
}

impl PoolOptions {
    /// A request for more is a mistake or an attack; a fit of this many takes about a second.
    pub const MAX_STUDIES: usize = 10_000;
    /// The posterior's time grows with the studies, and with many of them profile intervals do as well.
    pub const MAX_FOR_POSTERIOR: usize = 200;

    /// Maximum likelihood with Wald intervals.
    #[must_use]
    pub fn classical() -> Self {
        Self { interval: IntervalChoice::Wald, ..Self::default() }
    }
}

/// Pools 2x2 tables: bivariate random effects with exact binomial likelihood (Chu and Cole 2006), maximum
/// likelihood by adaptive Gauss-Hermite quadrature, or the richest simpler model that the data can carry.
///
/// Rungs: one study -> its own intervals; 2-3 studies with both arms -> each arm by itself; otherwise bivariate
/// -> independent -> the variance of an arm dropped -> fixed. A step down is taken only when the fuller model has
/// no finite maximum or is not identified. A maximum at a boundary is kept and flagged. An arm without one error
/// in any study has no finite maximum: its pooled Clopper-Pearson interval is given, and the ratios' bounds
/// combine both arms' interval ends. Standard errors come from the observed information over all free parameters.
///
/// The summary is the posterior's up to [`IntervalChoice::POSTERIOR_UP_TO`] studies unless other intervals are asked for; the fit is found either
/// way and its own summary stands beside it.
///
/// Deterministic; the order of the studies does not matter.
///
/// # Errors
/// [`PoolError`] without studies or with too many.
pub fn pool(studies: &[Counts], options: PoolOptions) -> Result<Pooled, PoolError> {
    pool_near(&in_order(studies), options, None).map(|(pooled, _)| pooled)
}

/// [`pool`] of studies [`in_order`], with the fit behind it; `near` is the fit of nearly the same studies, whose answer is where the search begins.
pub(super) fn pool_near(
    studies: &[Counts],
    options: PoolOptions,
    near: Option<Near<'_>>,
) -> Result<(Pooled, Option<Fit>), PoolError> {
    match studies {
        [] => return Err(PoolError::NoStudies),
        [only] => return Ok((single(only, options.level), None)),
        _ if studies.len() > PoolOptions::MAX_STUDIES => return Err(PoolError::TooMany(studies.len())),
        _ => {}
    }
    let asked = options.interval.method(options.model, studies.len());
    let open = |own: ModelChoice| options.model == ModelChoice::Auto || options.model == own;
    match asked {
        IntervalMethod::Posterior if !open(ModelChoice::Bivariate) => return Err(PoolError::NoPosterior),
        IntervalMethod::Posterior if studies.len() > PoolOptions::MAX_FOR_POSTERIOR => {
            return Err(PoolError::TooManyForPosterior(studies.len()));
        }
        IntervalMethod::Sandwich if !open(ModelChoice::Independent) => return Err(PoolError::SandwichOfAnother),
        _ => {}
    }
    let level = options.level;
    let totals = totals(studies);
    let both_arms = both_arms(studies);
    if let ModelChoice::NormalReml | ModelChoice::NormalMl = options.model {
        return normal(studies, totals, both_arms, options).map(|pooled| (pooled, None));
    }
    let finite = totals.map(|arm| arm.n > 0 && arm.correct > 0 && arm.correct < arm.n);
    let mut climb = Climb {
        data: studies.iter().map(|s| StudyData::new(s, finite)).collect(),
        near,
        ladder: Vec::new(),
        variance_dropped: false,
    };
    let choice = if asked == IntervalMethod::Sandwich { ModelChoice::Independent } else { options.model };
    let (model, fit) = climb.choose(choice, finite, totals, both_arms);
    let mut warnings = warnings(studies, totals, both_arms, model, &fit, level);
    if climb.variance_dropped {
        warnings.push(Warning::VarianceNotIdentified);
    }
    let mut summary = summarise(&fit, finite, totals, level, &mut warnings);
    let maximum = summary;
    let mut interval = IntervalMethod::Wald;
    if let (IntervalMethod::Profile, Some(fit)) = (asked, &fit) {
        let [sens, spec] = [0, 1].map(|arm| profile_interval(&climb.data, fit, arm, level).filter(|_| finite[arm]));
        let replaced = |old: Option<Estimate<Probability>>, mu: f64, bounds: Option<[f64; 2]>| match bounds {
            Some([low, high]) => Estimate::around(mu, low, high).expit(),
            None => old,
        };
        // Where a profile could not be followed the Wald interval stands, and no other method is claimed.
        if (sens.is_some() || !finite[0]) && (spec.is_some() || !finite[1]) {
            summary.sensitivity = replaced(summary.sensitivity, fit.theta[M1], sens);
            summary.specificity = replaced(summary.specificity, fit.theta[M2], spec);
            interval = IntervalMethod::Profile;
            if let (Some(sens), Some(spec)) = (sens, spec) {
                let mu = [fit.theta[M1], fit.theta[M2]];
                [summary.lr_positive, summary.lr_negative, summary.dor] =
                    ratios_from_bounds(mu, fit.covariance_of_means(), [sens, spec]);
            }
        } else {
            warnings.push(Warning::ProfileNotFollowed);
        }
    }
    if asked == IntervalMethod::Sandwich {
        let own = totals.map(|arm| arm.n > 0);
        let fit = fit.as_ref().filter(|_| finite == own).ok_or(PoolError::NoSandwich)?;
        summary = scatter_summary(&climb.data, fit, finite, level).ok_or(PoolError::NoSandwich)?;
        interval = IntervalMethod::Sandwich;
    }
    let mut workings = workings(totals, finite, fit.is_some(), interval);
    let posterior = (asked == IntervalMethod::Posterior).then(|| {
        let found = posterior(studies, level, options.prior, Fineness::STANDARD);
        summary = found.summary();
        interval = IntervalMethod::Posterior;
        workings = posterior_workings(&summary);
        // What is said of the maximum-likelihood answer's ends is not true of these.
        warnings.retain(|it| {
            !matches!(it, Warning::CombinedEnds | Warning::VarianceNotIdentified | Warning::AtBoundary { .. })
        });
        for warning in &mut warnings {
            let of = |arm: ArmName| match arm {
                ArmName::Diseased => summary.sensitivity,
                ArmName::NonDiseased => summary.specificity,
            };
            match warning {
                Warning::PerfectArm { arm, upper, .. } => *upper = of(*arm).map_or(*upper, |it| it.lower.complement()),
                Warning::NoneCorrect { arm, upper, .. } => *upper = of(*arm).map_or(*upper, |it| it.upper),
                _ => {}
            }
        }
        PosteriorWorking { prior_scale: options.prior.spread(), posterior: found }
    });
    let simpler =
        (near.is_none() && model == Model::Bivariate && fit.as_ref().is_some_and(|f| f.boundary != Boundary::None))
            .then(|| climb.try_fit([true, true], [true, true], false))
            .flatten()
            .map(|fit| summarise(&Some(fit), finite, totals, level, &mut Vec::new()));
    let spread = |index: usize, value: f64| fit.as_ref().filter(|_| finite[index]).map(|_| value);
    let theta = fit.as_ref().map_or_else(|| Theta::zeros(parameters(1)), |f| f.theta.clone());
    let tau2 = [theta[L11].powi(2), theta[L21].powi(2) + theta[L22].powi(2)];
    let reason = climb.ladder.last().map_or(Reason::EnoughStudies, |step| step.reason);
    let pooled = Pooled {
        k: studies.len(),
        diseased: totals[0].n,
        non_diseased: totals[1].n,
        model,
        method: format!("{}; {}", model.method_name(), interval.method_name()),
        workings,
        reason,
        converged: fit.as_ref().is_none_or(|f| matches!(f.stop, StopCause::Converged | StopCause::ClosedForm)),
        stop: fit.as_ref().map_or(StopCause::ClosedForm, |f| f.stop),
        iterations: fit.as_ref().map_or(0, |f| f.iterations),
        gradient_norm: fit.as_ref().map_or(0.0, |f| f.gradient_norm),
        nodes: fit.as_ref().map_or(0, |f| f.nodes),
        boundary: fit.as_ref().map_or(Boundary::None, |f| f.boundary),
        level,
        interval,
        mu: Means { sens: spread(0, theta[M1]), spec: spread(1, theta[M2]) },
        tau2: Variances { sens: spread(0, tau2[0]), spec: spread(1, tau2[1]) },
        rho: (model == Model::Bivariate).then(|| correlation(&theta)).flatten(),
        cov_mu: fit.as_ref().map(|fit| MeanCovariance::of(fit.covariance_of_means(), finite)),
        log_likelihood: fit.as_ref().map(|f| f.log_likelihood),
        summary,
        simpler,
        classical: (interval != IntervalMethod::Wald).then_some(maximum),
        posterior,
        warnings,
        ladder: climb.ladder,
    };
    Ok((pooled, fit))
}

/// The summary with priors half as wide and twice as wide as these: what is the prior's is what moves. None for one study, whose intervals rest on no
/// prior, or for more studies than a posterior is made of.
#[must_use]
pub fn other_scales(studies: &[Counts], level: Level, prior: PriorScales) -> Vec<OtherScale> {
    if studies.len() < 2 || studies.len() > PoolOptions::MAX_FOR_POSTERIOR {
        return Vec::new();
    }
    let of = |prior: PriorScales| OtherScale {
        prior_scale: prior.spread(),
        summary: posterior(studies, level, prior, Fineness::STANDARD).summary(),
    };
    prior.others().map(of).into_iter().collect()
}

/// Studies that report both groups.
pub(super) fn both_arms(studies: &[Counts]) -> usize {
    studies.iter().filter(|study| study.has_both_arms()).count()
}

/// Correlation of the two effects; `None` where one of them does not vary.
pub(super) fn correlation(theta: &Theta) -> Option<f64> {
    let spread2 = theta[L21].hypot(theta[L22]);
    let both_vary = theta[L11].powi(2) > 1e-8 && spread2.powi(2) > 1e-8;
    both_vary.then(|| theta[L11].signum() * theta[L21] / spread2)
}

/// The normal approximation, which has no ladder of its own: 0.5 in studies with a zero cell makes every logit finite.
fn normal(studies: &[Counts], totals: [Arm; 2], both_arms: usize, options: PoolOptions) -> Result<Pooled, PoolError> {
    let (restricted, model) = match options.model {
        ModelChoice::NormalMl => (false, Model::NormalMl),
        _ => (true, Model::NormalReml),
    };
    let level = options.level;
    let fit = fit_normal(studies, restricted).ok_or(PoolError::NotIdentified)?;
    let mut warnings = warnings(studies, totals, both_arms, model, &None, level);
    if fit.boundary != Boundary::None {
        warnings.push(Warning::AtBoundary { boundary: fit.boundary });
    }
    if fit.corrected > 0 {
        warnings.push(Warning::HalfAdded { studies: fit.corrected });
    }
    let mean = |arm: usize| fit.present[arm].then_some(fit.mu[arm]);
    let share = |arm: usize| mean(arm).and_then(|mu| proportion(mu, fit.covariance[arm][arm], level));
    let both = fit.present == [true, true];
    let [lr_positive, lr_negative, dor] = if both { ratios(fit.mu, fit.covariance, level) } else { [None; 3] };
    let tau2 = [fit.scales[L11].powi(2), fit.scales[L21].powi(2) + fit.scales[L22].powi(2)];
    Ok(Pooled {
        k: studies.len(),
        diseased: totals[0].n,
        non_diseased: totals[1].n,
        model,
        method: format!("{}; {}", model.method_name(), IntervalMethod::Wald.method_name()),
        workings: workings(totals, fit.present, true, IntervalMethod::Wald),
        reason: Reason::Requested,
        ladder: vec![LadderStep { model, reason: Reason::Requested, kept: true }],
        converged: true,
        stop: StopCause::Converged,
        iterations: fit.iterations,
        gradient_norm: fit.gradient_norm,
        nodes: 0,
        boundary: fit.boundary,
        level,
        interval: IntervalMethod::Wald,
        summary: Summary { sensitivity: share(0), specificity: share(1), lr_positive, lr_negative, dor },
        mu: Means { sens: mean(0), spec: mean(1) },
        tau2: Variances { sens: mean(0).map(|_| tau2[0]), spec: mean(1).map(|_| tau2[1]) },
        rho: correlation(&fit.scales),
        cov_mu: Some(MeanCovariance::of(fit.covariance, fit.present)),
        log_likelihood: Some(fit.log_likelihood),
        simpler: None,
        classical: None,
        posterior: None,
        warnings,
    })
}

/// The rungs as they are tried.
struct Climb<'a> {
    data: Vec<StudyData>,
    near: Option<Near<'a>>,
    ladder: Vec<LadderStep>,
    variance_dropped: bool,
}

impl Climb<'_> {
    fn note(&mut self, model: Model, reason: Reason, kept: bool) {
        self.ladder.push(LadderStep { model, reason, kept });
    }

    fn try_fit(&self, arms: [bool; 2], variances: [bool; 2], correlated: bool) -> Option<Fit> {
        let shape = Shape { arms, variances, correlated, levels: [1; 2] };
        self.near.and_then(|near| fit_near(&self.data, shape, near)).or_else(|| fit(&self.data, shape))
    }

    fn choose(
        &mut self,
        choice: ModelChoice,
        finite: [bool; 2],
        totals: [Arm; 2],
        both_arms: usize,
    ) -> (Model, Option<Fit>) {
        if choice == ModelChoice::Fixed {
            self.note(Model::Fixed, Reason::Requested, true);
            let fit = if finite == [false, false] { None } else { self.try_fit(finite, [false, false], false) };
            return (Model::Fixed, fit);
        }
        let (least, wanted) = match choice {
            ModelChoice::Bivariate => (2, Reason::Requested),
            _ => (MIN_FOR_CORRELATION, Reason::EnoughStudies),
        };
        let mut why = if choice == ModelChoice::Independent {
            Reason::Requested
        } else if totals[0].n == 0 || totals[1].n == 0 {
            Reason::OneArmOnly
        } else if finite != [true, true] {
            Reason::NoFiniteMaximum
        } else if both_arms < least {
            Reason::FewStudies
        } else {
            if let Some(fit) = self.try_fit(finite, finite, true) {
                self.note(Model::Bivariate, wanted, true);
                return (Model::Bivariate, Some(fit));
            }
            Reason::NotIdentified
        };
        if why != Reason::Requested {
            self.note(Model::Bivariate, why, false);
        }
        if finite == [false, false] {
            self.note(Model::Fixed, why, true);
            return (Model::Fixed, None);
        }
        if let Some(fit) = self.try_fit(finite, finite, false) {
            self.note(Model::Independent, why, true);
            return (Model::Independent, Some(fit));
        }
        why = Reason::NotIdentified;
        // One variance cannot be estimated: keep the other, whichever leaves the better fit.
        self.variance_dropped = true;
        let best = [[true, false], [false, true]]
            .into_iter()
            .filter(|_| finite == [true, true])
            .filter_map(|variances| Some((variances, self.try_fit(finite, variances, false)?)))
            .max_by(|(_, a), (_, b)| a.log_likelihood.total_cmp(&b.log_likelihood));
        if let Some((variances, fit)) = best {
            self.note(Model::Independent, why, true);
            return (Model::Independent, Some(self.widened(fit, finite, variances)));
        }
        self.note(Model::Independent, why, false);
        let fit = self.try_fit(finite, [false, false], false);
        self.note(Model::Fixed, why, true);
        (Model::Fixed, fit.map(|fit| self.widened(fit, finite, [false, false])))
    }

    /// Where a variance between studies had to be dropped, the binomial interval alone would pretend that the
    /// studies agree. The empirical ("sandwich") variance of a pooled logit over `k` studies,
    /// `k/(k-1) sum (y - n p)² / (N p (1-p))²` (Liang and Zeger 1986), takes its place when larger.
    fn widened(&self, mut fit: Fit, finite: [bool; 2], variances: [bool; 2]) -> Fit {
        for arm in (0..2).filter(|arm| finite[*arm] && !variances[*arm]) {
            let p = expit(fit.theta[arm]);
            let present: Vec<&StudyData> = self.data.iter().filter(|study| study.n[arm] > 0.0).collect();
            let (k, n) = (present.len() as f64, present.iter().map(|study| study.n[arm]).sum::<f64>());
            let spread: f64 = present.iter().map(|study| (study.y[arm] - study.n[arm] * p).powi(2)).sum();
            let empirical = k / (k - 1.0).max(1.0) * spread / (n * p * (1.0 - p)).powi(2);
            fit.covariance[(arm, arm)] = fit.covariance[(arm, arm)].max(empirical);
        }
        fit
    }
}

/// People of all studies, arm by arm.
pub(super) fn totals<'a>(studies: impl IntoIterator<Item = &'a Counts>) -> [Arm; 2] {
    studies.into_iter().fold([Arm::default(); 2], |sum, study| {
        let arms = study.arms();
        [0, 1].map(|arm| sum[arm] + arms[arm].unwrap_or_default())
    })
}

/// The exact one-sided interval of an arm without a finite maximum: all the tail goes to the open side.
fn exact(arm: Arm, level: Level) -> Option<Estimate<Probability>> {
    // Clopper-Pearson puts (1 - l)/2 in each tail; one tail is empty here, so l' = 2 level - 1 gives it all.
    let one_sided = Level::new(2.0 * level.get() - 1.0).unwrap_or(level);
    proportion_interval(arm.correct, arm.n, one_sided, ProportionMethod::ClopperPearson)
}

fn summarise(
    fit: &Option<Fit>,
    finite: [bool; 2],
    totals: [Arm; 2],
    level: Level,
    warnings: &mut Vec<Warning>,
) -> Summary {
    let arm = |index: usize| match fit {
        Some(fit) if finite[index] => proportion(fit.theta[index], fit.covariance[(index, index)], level),
        _ => exact(totals[index], level),
    };
    let (sensitivity, specificity) = (arm(0), arm(1));
    let [lr_positive, lr_negative, dor] = match (fit, sensitivity, specificity) {
        (Some(fit), Some(_), Some(_)) if finite == [true, true] => {
            ratios([fit.theta[M1], fit.theta[M2]], fit.covariance_of_means(), level)
        }
        (_, Some(se), Some(sp)) => {
            warnings.push(Warning::CombinedEnds);
            ratios_from_ends(se, sp)
        }
        _ => [None; 3],
    };
    Summary { sensitivity, specificity, lr_positive, lr_negative, dor }
}

fn warnings(
    studies: &[Counts],
    totals: [Arm; 2],
    both_arms: usize,
    model: Model,
    fit: &Option<Fit>,
    level: Level,
) -> Vec<Warning> {
    let mut warnings = Vec::new();
    if both_arms < MIN_FOR_CORRELATION && totals[0].n > 0 && totals[1].n > 0 {
        warnings.push(Warning::FewStudies { both_arms });
    }
    let one_armed = studies.len() - both_arms;
    if one_armed > 0 {
        warnings.push(Warning::OneArmedStudies { count: one_armed });
    }
    if let Some(fit) = fit.as_ref().filter(|f| f.boundary != Boundary::None && model != Model::Fixed) {
        warnings.push(Warning::AtBoundary { boundary: fit.boundary });
    }
    if let Some(fit) = fit.as_ref().filter(|f| !f.settled) {
        warnings.push(Warning::QuadratureLimit { nodes: fit.nodes });
    }
    warnings.extend(warnings_of_arms(totals, |arm| exact(totals[arm], level)));
    warnings
}

/// How each measure of a pool was found: by the model in the arms that it estimates, else from all people together.
fn workings(totals: [Arm; 2], estimated: [bool; 2], fitted: bool, interval: IntervalMethod) -> Workings {
    let [sensitivity, specificity] = [0, 1].map(|arm| match totals[arm].n {
        0 => ShareWorking::None,
        _ if interval == IntervalMethod::Sandwich => ShareWorking::Scatter,
        _ if fitted && estimated[arm] => ShareWorking::Model,
        _ => ShareWorking::PooledExact,
    });
    let ratios = match [sensitivity, specificity] {
        [ShareWorking::None, _] | [_, ShareWorking::None] => RatioWorking::None,
        [ShareWorking::Model, ShareWorking::Model] if interval == IntervalMethod::Profile => {
            RatioWorking::CombinedIntervals
        }
        [ShareWorking::Model, ShareWorking::Model] => RatioWorking::Delta,
        [ShareWorking::Scatter, ShareWorking::Scatter] => RatioWorking::DeltaScatter,
        _ => RatioWorking::CombinedEnds,
    };
    Workings { sensitivity, specificity, ratios }
}

fn posterior_workings(summary: &Summary) -> Workings {
    let share = |of: Option<Estimate<Probability>>| of.map_or(ShareWorking::None, |_| ShareWorking::Posterior);
    Workings {
        sensitivity: share(summary.sensitivity),
        specificity: share(summary.specificity),
        ratios: summary.lr_positive.map_or(RatioWorking::None, |_| RatioWorking::Posterior),
    }
}

/// What must be said of arms with nobody, without an error or without a correct result; their intervals are asked for only then.
fn warnings_of_arms(
    totals: [Arm; 2],
    interval: impl Fn(usize) -> Option<Estimate<Probability>>,
) -> impl Iterator<Item = Warning> {
    let names = [ArmName::Diseased, ArmName::NonDiseased];
    totals.into_iter().zip(names).enumerate().filter_map(move |(index, (Arm { correct, n }, arm))| match correct {
        _ if n == 0 => Some(Warning::NoArm { arm }),
        _ if correct == n => Some(Warning::PerfectArm { arm, n, upper: interval(index)?.lower.complement() }),
        0 => Some(Warning::NoneCorrect { arm, n, upper: interval(index)?.upper }),
        _ => None,
    })
}

/// One study: its own intervals, nothing pooled.
fn single(counts: &Counts, level: Level) -> Pooled {
    let accuracy = study_accuracy(counts, Methods { level, ..Methods::default() });
    let arms = counts.arms().map(Option::unwrap_or_default);
    let logit = |arm: Arm| {
        (arm.correct > 0 && arm.correct < arm.n).then(|| (arm.correct as f64 / (arm.n - arm.correct) as f64).ln())
    };
    let intervals = [accuracy.sensitivity, accuracy.specificity];
    let warnings = warnings_of_arms(arms, |arm| intervals[arm]).collect();
    Pooled {
        k: 1,
        diseased: arms[0].n,
        non_diseased: arms[1].n,
        model: Model::SingleStudy,
        method: Model::SingleStudy.method_name().to_owned(),
        workings: {
            let share = |arm: Arm| if arm.n > 0 { ShareWorking::OneStudy } else { ShareWorking::None };
            let [sensitivity, specificity] = arms.map(share);
            let ratios = if counts.has_both_arms() { RatioWorking::OneStudy } else { RatioWorking::None };
            Workings { sensitivity, specificity, ratios }
        },
        reason: Reason::SingleStudy,
        ladder: vec![LadderStep { model: Model::SingleStudy, reason: Reason::SingleStudy, kept: true }],
        converged: true,
        stop: StopCause::ClosedForm,
        iterations: 0,
        gradient_norm: 0.0,
        nodes: 0,
        boundary: Boundary::None,
        level,
        interval: IntervalMethod::Wald,
        summary: Summary {
            sensitivity: accuracy.sensitivity,
            specificity: accuracy.specificity,
            lr_positive: accuracy.lr_positive,
            lr_negative: accuracy.lr_negative,
            dor: accuracy.dor,
        },
        mu: Means { sens: logit(arms[0]), spec: logit(arms[1]) },
        tau2: Variances { sens: None, spec: None },
        rho: None,
        cov_mu: None,
        log_likelihood: None,
        simpler: None,
        classical: None,
        posterior: None,
        warnings,
    }
}
