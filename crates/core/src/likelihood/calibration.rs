//! How well probabilities that were given agree with what came true.

use serde::Serialize;

use crate::accuracy::{ProportionMethod, proportion_interval};
use crate::{Estimate, Level, Probability};

/// Certainties are taken as this close to 0 and 1, so that one that was wrong has a finite price.
const CLIP: f64 = 1e-6;
const BINS: usize = 5;
/// Newton's method takes ten steps or so; more come only of steps that are halved.
const MOST_STEPS: usize = 500;
/// Steps shorter than this are none.
const CLOSE: f64 = 1e-11;

/// A probability that was given, and whether it came true.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Judged {
    /// What was given.
    pub probability: Probability,
    /// It came true.
    pub came: bool,
}

/// Probabilities of one fifth, and how often they came true.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct CalibrationBin {
    /// How many there are.
    pub n: usize,
    /// How many came true.
    pub events: usize,
    /// Their mean; none where there is none.
    pub mean: Option<Probability>,
    /// Share that came true with Wilson's interval.
    pub observed: Option<Estimate<Probability>>,
}

/// Whether a slope can be had.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum SlopeStatus {
    /// It can.
    Ok,
    /// All came true, or none.
    OneClass,
    /// The same probability every time.
    ConstantProbability,
    /// One probability parts those that came true from the others: the slope has no bound.
    CompleteSeparation,
    /// The same but for one probability that both share.
    QuasiSeparation,
}

/// `logit P(true) = intercept + slope · logit p`.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct CalibrationLine {
    /// 0 where they agree.
    pub intercept: f64,
    /// Its standard error.
    pub intercept_se: f64,
    /// 1 where they agree; below 1 where the probabilities are too extreme, above 1 where they are too timid.
    pub slope: f64,
    /// Its standard error.
    pub slope_se: f64,
}

/// How well probabilities agree with what came true.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Calibration {
    /// How many there are.
    pub n: usize,
    /// How many came true.
    pub events: usize,
    /// Mean of the probabilities.
    pub mean: Probability,
    /// Share that came true with Wilson's interval.
    pub observed: Estimate<Probability>,
    /// Brier score: mean squared difference, 0 the best.
    pub brier: f64,
    /// Mean of `-ln` of the probability of what came.
    pub log_score: f64,
    /// By which share of it the Brier score is lower than that of giving the observed share every time; none where all came true, or none.
    pub skill: Option<f64>,
    /// By how much all probabilities are too low on the logit scale, and its standard error: the intercept at slope 1. None where all came true, or none.
    pub shift: Option<(f64, f64)>,
    /// Whether a slope can be had.
    pub status: SlopeStatus,
    /// By maximum likelihood.
    pub line: Option<CalibrationLine>,
    /// By penalised likelihood (Firth 1993), which is finite also where the other is not; none where the probability is the same every time.
    pub penalised: Option<CalibrationLine>,
    /// By fifths from `[0, 0.2)` to `[0.8, 1]`.
    pub bins: [CalibrationBin; BINS],
    /// Expected calibration error: mean over all of how far the mean of a fifth lies from what came true of it.
    pub error: f64,
}

/// Calibration of probabilities; none of none.
///
/// Brier 1950; logarithmic score (Good 1952); intercept and slope after Cox 1958, with the penalised likelihood of Firth 1993 beside it since few records often part the
/// classes; Wilson's intervals. Probabilities are kept from 0 and 1 by 1e-6 where a logarithm is taken.
#[must_use]
pub fn calibration(judged: &[Judged]) -> Option<Calibration> {
    let n = judged.len();
    let events = judged.iter().filter(|it| it.came).count();
    let observed = share(events, n)?;
    #[allow(clippy::cast_precision_loss, reason = "counts of records")]
    let count = n as f64;
    let over_all = |of: &dyn Fn(&Judged) -> f64| judged.iter().map(of).sum::<f64>() / count;
    let hit = |it: &Judged| if it.came { 1.0 } else { 0.0 };
    let clipped = |it: &Judged| it.probability.get().clamp(CLIP, 1.0 - CLIP);
    let mean = over_all(&|it| it.probability.get());
    let brier = over_all(&|it| (it.probability.get() - hit(it)).powi(2));
    let log_score = over_all(&|it| -(if it.came { clipped(it) } else { 1.0 - clipped(it) }).ln());
    let share_of = observed.estimate.get();
    let both = events > 0 && events < n;
    let points: Vec<(f64, f64)> = judged.iter().map(|it| ((clipped(it) / (1.0 - clipped(it))).ln(), hit(it))).collect();
    let constant = points.iter().all(|point| point.0 == points[0].0);
    let status = match separation(&points) {
        _ if !both => SlopeStatus::OneClass,
        _ if constant => SlopeStatus::ConstantProbability,
        found => found,
    };
    let bins = std::array::from_fn(|nth| bin(judged, nth));
    let error = bins.iter().filter_map(|it| {
        #[allow(clippy::cast_precision_loss, reason = "counts of records")]
        let weight = it.n as f64 / count;
        Some(weight * (it.mean?.get() - it.observed?.estimate.get()).abs())
    });
    let error = error.sum();
    Some(Calibration {
        n,
        events,
        mean: Probability::rounded(mean),
        observed,
        brier,
        log_score,
        skill: both.then(|| 1.0 - brier / (share_of * (1.0 - share_of))),
        shift: both.then(|| shift(&points)).flatten(),
        line: (status == SlopeStatus::Ok).then(|| fit(&points, false)).flatten(),
        penalised: (!constant).then(|| fit(&points, true)).flatten(),
        status,
        bins,
        error,
    })
}

fn share(events: usize, n: usize) -> Option<Estimate<Probability>> {
    proportion_interval(events as u64, n as u64, Level::default(), ProportionMethod::Wilson)
}

fn bin(judged: &[Judged], nth: usize) -> CalibrationBin {
    #[allow(
        clippy::cast_possible_truncation,
        clippy::cast_sign_loss,
        reason = "a fifth of a probability is from 0 to 5"
    )]
    let of = |it: &&Judged| ((it.probability.get() * 5.0) as usize).min(BINS - 1) == nth;
    let inside: Vec<&Judged> = judged.iter().filter(of).collect();
    let (n, events) = (inside.len(), inside.iter().filter(|it| it.came).count());
    #[allow(clippy::cast_precision_loss, reason = "counts of records")]
    let mean = inside.iter().map(|it| it.probability.get()).sum::<f64>() / n as f64;
    CalibrationBin { n, events, mean: (n > 0).then(|| Probability::rounded(mean)), observed: share(events, n) }
}

/// Whether one value parts the two classes, in either direction.
fn separation(points: &[(f64, f64)]) -> SlopeStatus {
    let ends = |class: f64| {
        let of = points.iter().filter(move |it| it.1 == class).map(|it| it.0);
        of.fold((f64::INFINITY, f64::NEG_INFINITY), |(low, high), x| (low.min(x), high.max(x)))
    };
    let (no, yes) = (ends(0.0), ends(1.0));
    if no.1 < yes.0 || yes.1 < no.0 {
        SlopeStatus::CompleteSeparation
    } else if no.1 == yes.0 || yes.1 == no.0 {
        SlopeStatus::QuasiSeparation
    } else {
        SlopeStatus::Ok
    }
}

fn sigmoid(eta: f64) -> f64 {
    1.0 / (1.0 + (-eta).exp())
}

/// Intercept at slope 1, and its standard error.
fn shift(points: &[(f64, f64)]) -> Option<(f64, f64)> {
    let log_likelihood = |a: f64| points.iter().map(|(x, y)| y * (a + x) - softplus(a + x)).sum::<f64>();
    let mut at = 0.0;
    for _ in 0..MOST_STEPS {
        let (mut score, mut information) = (0.0, 0.0);
        for (x, y) in points {
            let p = sigmoid(at + x);
            score += y - p;
            information += p * (1.0 - p);
        }
        let step = score / information;
        if !step.is_finite() {
            return None;
        }
        if step.abs() < CLOSE {
            return Some((at, information.sqrt().recip()));
        }
        let now = log_likelihood(at);
        at += step * halved(step, |length| log_likelihood(at + length * step) >= now);
    }
    None
}

fn softplus(eta: f64) -> f64 {
    eta.max(0.0) + (-eta.abs()).exp().ln_1p()
}

/// The longest of 1, 1/2, 1/4 … times a step that does not lead down. Small steps are taken whole: so near to the top the objective only tells rounding errors.
fn halved(step: f64, good: impl Fn(f64) -> bool) -> f64 {
    let lengths = std::iter::successors(Some(1.0), |length| Some(length * 0.5));
    if step.abs() < 1e-5 { 1.0 } else { lengths.take(40).find(|length| good(*length)).unwrap_or(0.0) }
}

/// Information of intercept and slope, as its three distinct elements.
fn information(points: &[(f64, f64)], at: [f64; 2]) -> [f64; 3] {
    points.iter().fold([0.0; 3], |[a, b, c], (x, _)| {
        let p = sigmoid(at[0] + at[1] * x);
        let w = p * (1.0 - p);
        [a + w, b + w * x, c + w * x * x]
    })
}

/// The maximum of the likelihood, or of it with Firth's penalty `½ ln det I`.
fn fit(points: &[(f64, f64)], penalised: bool) -> Option<CalibrationLine> {
    let objective = |at: [f64; 2]| {
        let own: f64 = points.iter().map(|(x, y)| (at[0] + at[1] * x, y)).map(|(eta, y)| y * eta - softplus(eta)).sum();
        let [a, b, c] = information(points, at);
        if penalised { own + 0.5 * (a * c - b * b).ln() } else { own }
    };
    let mut at = [0.0, 0.0];
    for _ in 0..MOST_STEPS {
        let [a, b, c] = information(points, at);
        let det = a * c - b * b;
        if !(det > 0.0 && det.is_finite()) {
            return None;
        }
        let mut score = [0.0; 2];
        for (x, y) in points {
            let p = sigmoid(at[0] + at[1] * x);
            // Its weight in the hat matrix pulls each record towards one half.
            let hat = if penalised { p * (1.0 - p) * (c - 2.0 * b * x + a * x * x) / det } else { 0.0 };
            let rest = y - p + hat * (0.5 - p);
            score[0] += rest;
            score[1] += rest * x;
        }
        let step = [(c * score[0] - b * score[1]) / det, (a * score[1] - b * score[0]) / det];
        if !step.iter().all(|it| it.is_finite()) {
            return None;
        }
        let line = CalibrationLine {
            intercept: at[0],
            intercept_se: (c / det).sqrt(),
            slope: at[1],
            slope_se: (a / det).sqrt(),
        };
        let longest = step[0].abs().max(step[1].abs());
        if longest < CLOSE * (1.0 + at[0].abs().max(at[1].abs())) {
            return Some(line);
        }
        let now = objective(at);
        let moved = |length: f64| [at[0] + length * step[0], at[1] + length * step[1]];
        at = moved(halved(longest, |length| objective(moved(length)) >= now));
    }
    None
}
