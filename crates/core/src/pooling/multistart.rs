//! The global search: several starts, the boundaries among them, then more nodes until nothing changes.

use std::borrow::Cow;

use serde::{Deserialize, Serialize};

use super::marginal::{Hessian, L11, L21, L22, Marginal, StudyData, Theta, mean_at, parameters};
use super::optimise::{
    CLOSE, EXACT, Effort, Free, NEARLY, ROUGH, Stop, StopCause, covariance_of_estimates, maximise, maximise_from,
};
use super::quadrature::NODE_COUNTS;

/// Where the maximum lies. A maximum at a boundary is still the maximum; it is flagged since intervals from curvature are less trustworthy there.
/// Where a variance is 0 the simpler model explains the data as well; at a correlation of ±1 it need not.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Boundary {
    /// In the interior.
    None,
    /// Correlation -1.
    RhoMinusOne,
    /// Correlation +1.
    RhoPlusOne,
    /// No variance between studies in sensitivity.
    Tau2SensZero,
    /// No variance between studies in specificity.
    Tau2SpecZero,
    /// No variance between studies at all.
    BothVariancesZero,
}

/// Which parameters a model has.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct Shape {
    /// Arms that have data and a finite maximum.
    pub arms: [bool; 2],
    /// Arms that get a variance between studies.
    pub variances: [bool; 2],
    /// Whether the two effects may be correlated.
    pub correlated: bool,
    /// Levels of the covariate that each arm's mean has; 1 without one.
    pub levels: [usize; 2],
}

impl Shape {
    /// Every mean that is estimated: its arm and level.
    fn means(self) -> impl Iterator<Item = (usize, usize)> {
        (0..2)
            .filter(move |arm| self.arms[*arm])
            .flat_map(move |arm| (0..self.levels[arm]).map(move |level| (arm, level)))
    }
}

/// A finished fit.
#[derive(Debug, Clone)]
pub(super) struct Fit {
    pub theta: Theta,
    pub log_likelihood: f64,
    /// Covariance of all estimates.
    pub covariance: Hessian,
    pub boundary: Boundary,
    pub stop: StopCause,
    pub iterations: usize,
    pub gradient_norm: f64,
    /// The most nodes in a dimension that a study needed.
    pub nodes: usize,
    /// Position in [`NODE_COUNTS`] of the rule that each study needed.
    pub rules: Vec<usize>,
    /// Whether each study was fitted as two of one arm each, and has two rules therefore.
    pub apart: bool,
    pub settled: bool,
    /// Parameters that were estimated, those on a boundary left out.
    pub free: Free,
}

impl Fit {
    /// Covariance of the two means of the first level.
    pub fn covariance_of_means(&self) -> [[f64; 2]; 2] {
        [0, 1].map(|i| [0, 1].map(|j| self.covariance[(i, j)]))
    }
}

/// Two log-likelihoods closer than this are the same maximum seen from two starts.
const SAME: f64 = 1e-7;
/// The same, for the rough search whose few nodes blur it.
const SAME_HEIGHT: f64 = 0.05;
/// Error of quadrature that a log-likelihood may keep, over all studies.
const QUADRATURE_ERROR: f64 = 1e-7;
/// A rough search that leaves a scale below this was on its way to zero.
const VANISHED: f64 = 1e-3;
/// Curvature across a correlation of ±1, for a step as long as the spread itself, below which the other side is looked at.
const WEAK: f64 = 4.0;
/// Two rough maxima of one model closer than this are the same.
const SAME_PLACE: f64 = 0.02;
/// A scale parameter is on its boundary when it is below this, and below this share of the largest study's sampling error on the logit scale.
const ZERO_SCALE: [f64; 2] = [1e-4, 1e-3];
/// Standard errors between a scale and zero from which on no other maximum is looked for. Of 6 000 simulated reviews 1 198 went this way; forty
/// random starts found no higher maximum in any of them (the ignored test below).
const CLEAR: f64 = 4.0;
/// Positions in [`NODE_COUNTS`] of the rules that tell starts apart: quickly, and with care.
const QUICK: usize = 0;
const CAREFUL: usize = 4;
/// The rule from which studies climb.
const FIRST: usize = 1;

/// A fit of nearly the same studies: all of these and one more.
#[derive(Debug, Clone, Copy)]
pub(super) struct Near<'a> {
    pub fit: &'a Fit,
    /// Position of the study that is missing now.
    pub left_out: usize,
}

impl Near<'_> {
    fn rules(&self) -> Vec<usize> {
        let study = |place: usize| if self.fit.apart { place / 2 } else { place };
        let kept = self.fit.rules.iter().enumerate().filter(|(place, _)| study(*place) != self.left_out);
        kept.map(|(_, rule)| *rule).collect()
    }
}

/// Fits one shape of model. `None` when it is not identified or has no finite maximum: the caller then steps
/// down its ladder.
///
/// Arms that are all right in one study and all wrong in the next make steps of the integrand, which the few
/// nodes of the quick search misjudge; when it failed, or some studies needed many nodes in the end, a careful search follows.
pub(super) fn fit(studies: &[StudyData], shape: Shape) -> Option<Fit> {
    let studies = &*laid_out(studies, !shape.correlated);
    let quick = search(studies, shape, vec![QUICK; studies.len()], None);
    if quick.as_ref().is_some_and(|fit| fit.rules.iter().all(|rule| *rule <= CAREFUL)) {
        return quick;
    }
    // Only the studies that are hard to integrate get more nodes.
    let rules = quick.as_ref().map_or_else(
        || vec![CAREFUL; studies.len()],
        |fit| fit.rules.iter().map(|rule| if *rule > FIRST + 2 { CAREFUL } else { FIRST }).collect(),
    );
    let careful = search(studies, shape, rules, None);
    match (quick, careful) {
        (Some(quick), Some(careful)) if quick.log_likelihood > careful.log_likelihood + SAME => Some(quick),
        (quick, careful) => careful.or(quick),
    }
}

/// Fits data that differ little from those of a settled fit: its answer takes the place of the interior starts, and the nodes
/// that it found sufficient are used without climbing again. The boundaries are still looked at, since a study
/// may be all that kept the maximum away from one. `None` when this was not enough, and [`fit`] must search.
pub(super) fn fit_near(studies: &[StudyData], shape: Shape, near: Near<'_>) -> Option<Fit> {
    let same_model =
        near.fit.apart != shape.correlated && near.fit.theta.len() == parameters(shape.levels[0].max(shape.levels[1]));
    let studies = &*laid_out(studies, !shape.correlated);
    same_model.then(|| search(studies, shape, vec![QUICK; studies.len()], Some(near))).flatten()
}

/// Studies as a fit has them: as they are, or apart.
pub(super) fn laid_out(studies: &[StudyData], apart: bool) -> Cow<'_, [StudyData]> {
    if apart { StudyData::apart(studies).into() } else { studies.into() }
}

/// Starts that were tried.
struct Tries<'a> {
    likelihood: Marginal<'a>,
    /// The best value yet; a start that cannot come near it any more stops.
    to_beat: f64,
    iterations: usize,
    stops: Vec<(Candidate, Stop)>,
    /// Variances that the shape has.
    scales: usize,
}

impl Tries<'_> {
    fn add(&mut self, candidate: Candidate) {
        let effort = Effort { tolerance: ROUGH, to_beat: self.to_beat };
        let stop = maximise(&mut self.likelihood, &candidate.free, candidate.start.clone(), effort);
        self.iterations += stop.iterations;
        if stop.evaluation.value.is_finite() {
            self.to_beat = self.to_beat.max(stop.evaluation.value);
            self.stops.push((candidate, stop));
        }
    }

    /// Whether the last maximum is so far from every boundary that no other can be higher: every scale it has is more than [`CLEAR`] of its
    /// standard errors away from zero. Then the data tell the variances and the correlation, and further starts end where it did.
    fn clear_of_boundaries(&self) -> bool {
        let Some((candidate, stop)) = self.stops.last().filter(|(_, stop)| stop.cause == StopCause::Converged) else {
            return false;
        };
        let scales: Vec<usize> = [L11, L22].into_iter().filter(|scale| candidate.free[*scale]).collect();
        let clear = |covariance: Hessian| {
            scales.iter().all(|scale| stop.theta[*scale].abs() > CLEAR * covariance[(*scale, *scale)].sqrt())
        };
        // A start of all parameters of the shape: it is the one that can show that less will not do.
        let full = scales.len() == self.scales;
        full && covariance_of_estimates(&stop.evaluation.hessian, &candidate.free).is_some_and(clear)
    }
}

fn search(studies: &[StudyData], shape: Shape, rules: Vec<usize>, near: Option<Near<'_>>) -> Option<Fit> {
    let moments = near.map_or_else(|| moments(studies, shape), |near| moments(studies, shape).near(near.fit));
    let likelihood = Marginal::with_rules(studies, rules);
    let scales = shape.variances.iter().filter(|varies| **varies).count();
    let mut tries = Tries { likelihood, to_beat: f64::NEG_INFINITY, iterations: 0, stops: Vec::new(), scales };
    tries.add(fixed(shape, &moments));
    let overdispersed = tries.stops.first().map_or([true; 2], |(_, fixed)| {
        // The likelihood is even in each scale: positive curvature at zero means that it rises with the variance, so
        // that no maximum can be where that variance is zero.
        [L11, L22].map(|scale| fixed.evaluation.hessian[(scale, scale)] > 0.0)
    });
    if let Some(near) = near {
        tries.add(Candidate { free: near.fit.free.clone(), start: near.fit.theta.clone() });
    }
    if near.is_none_or(|near| near.fit.boundary != Boundary::None) {
        for candidate in full(shape, &moments) {
            if !tries.clear_of_boundaries() {
                tries.add(candidate);
            }
        }
    }
    if !tries.clear_of_boundaries() {
        boundaries(shape, &moments, overdispersed).into_iter().for_each(|candidate| tries.add(candidate));
        beside_zero_variances(shape, &tries.stops).into_iter().for_each(|candidate| tries.add(candidate));
    }
    let Tries { mut stops, mut iterations, .. } = tries;
    stops.sort_by(|(_, a), (_, b)| b.evaluation.value.total_cmp(&a.evaluation.value));
    let height = stops.first()?.1.evaluation.value;
    // Few nodes blur the heights: all that came about as high are finished and compared at full precision. A lower one must not stand in
    // for a higher one that ran off to infinity.
    stops.retain(|(_, stop)| stop.evaluation.value > height - SAME_HEIGHT);
    stops.retain(|(_, stop)| !matches!(stop.cause, StopCause::Diverged | StopCause::Abandoned));
    let mut contenders: Vec<(Free, Theta)> = Vec::new();
    for (candidate, stop) in stops {
        let theta = upright(stop.theta);
        let known = contenders.iter().any(|(free, at)| *free == candidate.free && (at - &theta).amax() < SAME_PLACE);
        if !known {
            contenders.push((candidate.free, theta));
        }
    }
    // Simplest first; a richer one must really be better to pass before it.
    contenders.sort_by_key(|(free, _)| free.iter().filter(|free| **free).count());
    let known = near.map(|near| (near.rules(), near.fit.settled));
    let mut polisher = Polisher { studies, known };
    contenders
        .into_iter()
        .filter_map(|(free, theta)| finish(&mut polisher, shape, free, theta, &mut iterations))
        .reduce(|best, next| if next.log_likelihood > best.log_likelihood + SAME { next } else { best })
        .map(|fit| Fit { iterations, ..fit })
}

/// The same model with both scales not negative: a maximum has one description then.
fn upright(mut theta: Theta) -> Theta {
    if theta[L11] < 0.0 {
        (theta[L11], theta[L21]) = (-theta[L11], -theta[L21]);
    }
    theta[L22] = theta[L22].abs();
    theta
}

/// Brings a rough maximum to full precision. `None` when it turns out to be none, or not identified.
fn finish(
    polisher: &mut Polisher<'_>,
    shape: Shape,
    mut free: Free,
    mut theta: Theta,
    iterations: &mut usize,
) -> Option<Fit> {
    let zero = polisher.zero_scales();
    if free[L22] && free[L21] && theta[L22].abs() < zero[1] {
        free[L22] = false;
        theta[L22] = 0.0;
    }
    let polished = polisher.polish(&free, theta, iterations)?;
    // With more nodes the better maximum may be a neighbour of the one chosen with few: look once more from
    // both sides of a correlation boundary.
    let (mut free, Polished { stop, rules, settled }) = recheck_boundary(polisher, shape, free, polished, iterations);
    if stop.cause != StopCause::Converged {
        return None;
    }
    let reached = &stop.theta;
    let spread2 = reached[L21].hypot(reached[L22]);
    let no_first = free[L11] && reached[L11].abs() < zero[0];
    let no_second = (free[L21] || free[L22]) && spread2 < zero[1];
    if no_first || no_second {
        // A variance vanished on the way: hold it, since nothing is left to correlate with.
        let mut held = stop.theta;
        (held[L21], held[L22]) = (0.0, spread2);
        for (vanished, scale) in [(no_first, L11), (no_second, L22)] {
            held[scale] = if vanished { 0.0 } else { held[scale] };
        }
        let second = (free[L21] || free[L22]) && !no_second;
        (free[L11], free[L21], free[L22]) = (free[L11] && !no_first, false, second);
        return finish(polisher, shape, free, held, iterations);
    }
    let covariance = covariance_of_estimates(&stop.evaluation.hessian, &free)?;
    let gradient_norm =
        (0..free.len()).filter(|i| free[*i]).map(|i| stop.evaluation.gradient[i].powi(2)).sum::<f64>().sqrt();
    Some(Fit {
        boundary: boundary(shape, &free, &stop.theta),
        theta: stop.theta,
        log_likelihood: stop.evaluation.value,
        covariance,
        stop: stop.cause,
        iterations: *iterations,
        gradient_norm,
        nodes: rules.iter().max().map_or(0, |rule| NODE_COUNTS[*rule]),
        rules,
        apart: !shape.correlated,
        settled,
        free,
    })
}

/// A model nested in the shape, and where to start it.
#[derive(Debug, Clone)]
struct Candidate {
    free: Free,
    start: Theta,
}

impl Candidate {
    fn new(shape: Shape, moments: &Moments, free_scales: [bool; 3], scales: [f64; 3]) -> Self {
        let mut start = moments.means.clone();
        let mut free = vec![false; start.len()];
        for (arm, level) in shape.means() {
            free[mean_at(arm, level)] = true;
        }
        for (place, (is_free, scale)) in [L11, L21, L22].into_iter().zip(free_scales.into_iter().zip(scales)) {
            (free[place], start[place]) = (is_free, scale);
        }
        Self { free, start }
    }
}

/// No variance between studies.
fn fixed(shape: Shape, moments: &Moments) -> Candidate {
    let mut candidate = Candidate::new(shape, moments, [false; 3], [0.0; 3]);
    for (arm, level) in shape.means() {
        // Without a variance the maximum is the logit of the people counted together.
        let [correct, n] = moments.people[mean_at(arm, level)];
        candidate.start[mean_at(arm, level)] = (correct / (n - correct)).ln();
    }
    candidate
}

/// All parameters that the shape has.
fn full(shape: Shape, moments: &Moments) -> Vec<Candidate> {
    let ([var1, var2], [sd1, sd2], r) = (shape.variances, moments.sd, moments.correlation);
    let correlated = |r: f64, shrink: f64| {
        let (sd1, sd2) = (shrink * sd1, shrink * sd2);
        Candidate::new(shape, moments, [true; 3], [sd1, r * sd2, (1.0 - r * r).sqrt() * sd2])
    };
    match (var1 && var2, shape.correlated) {
        // Weak heterogeneity hides behind sampling error: a second start with the correlation reversed.
        (true, true) => vec![correlated(r, 1.0), correlated(-0.6 * r.signum(), 0.5)],
        (true, false) => vec![Candidate::new(shape, moments, [true, false, true], [sd1, 0.0, sd2])],
        (false, _) => Vec::new(),
    }
}

/// A variance of zero where the data do not rule it out, and correlations of -1 and +1.
fn boundaries(shape: Shape, moments: &Moments, overdispersed: [bool; 2]) -> Vec<Candidate> {
    let ([var1, var2], [sd1, sd2]) = (shape.variances, moments.sd);
    let mut list = Vec::new();
    if var1 && !(var2 && overdispersed[1]) {
        list.push(Candidate::new(shape, moments, [true, false, false], [sd1, 0.0, 0.0]));
    }
    if var2 && !(var1 && overdispersed[0]) {
        list.push(Candidate::new(shape, moments, [false, false, true], [0.0, 0.0, sd2]));
    }
    if var1 && var2 && shape.correlated {
        for direction in [-1.0, 1.0] {
            list.push(Candidate::new(shape, moments, [true, true, false], [sd1, direction * sd2, 0.0]));
        }
    }
    list
}

/// A maximum at full precision.
struct Polished {
    stop: Stop,
    rules: Vec<usize>,
    /// Whether quadrature leaves no more than [`QUADRATURE_ERROR`].
    settled: bool,
}

/// Takes maxima from the rough search to full precision.
struct Polisher<'a> {
    studies: &'a [StudyData],
    /// Rules of a fit of nearly the same studies, and whether they sufficed there.
    known: Option<(Vec<usize>, bool)>,
}

impl Polisher<'_> {
    /// Below which the scale of each arm is zero.
    fn zero_scales(&self) -> [f64; 2] {
        [0, 1].map(|arm| {
            let largest = self.studies.iter().map(|study| study.n[arm]).fold(1.0, f64::max);
            // The sampling error is at least 2 / sqrt(n).
            ZERO_SCALE[0].min(ZERO_SCALE[1] * 2.0 / largest.sqrt())
        })
    }

    /// Maximises from `theta` with more and more nodes in each study until more change nothing.
    ///
    /// A study climbs until its remaining error is negligible. Quadrature converges geometrically: with `r` the ratio of the last two changes
    /// of a study's log-likelihood, the last of them `d`, all further ones would add `d r / (1 - r)`.
    fn polish(&mut self, free: &[bool], theta: Theta, iterations: &mut usize) -> Option<Polished> {
        let nowhere = |stop: &Stop| matches!(stop.cause, StopCause::Diverged | StopCause::IterationLimit);
        let effort = |tolerance: f64| Effort { tolerance, to_beat: f64::NEG_INFINITY };
        if let Some((known, settled)) = &self.known {
            let mut likelihood = Marginal::with_rules(self.studies, known.clone());
            let stop = maximise(&mut likelihood, free, theta, effort(NEARLY));
            *iterations += stop.iterations;
            return (!nowhere(&stop)).then_some(Polished { stop, rules: likelihood.rules, settled: *settled });
        }
        let tolerable = QUADRATURE_ERROR / self.studies.len() as f64;
        let mut likelihood = Marginal::new(self.studies, FIRST);
        let mut stop = maximise(&mut likelihood, free, theta, effort(CLOSE));
        *iterations += stop.iterations;
        let mut changes = vec![f64::NAN; self.studies.len()];
        let mut climbing = vec![true; self.studies.len()];
        let mut settled = true;
        loop {
            if nowhere(&stop) {
                return None;
            }
            for (rule, _) in likelihood.rules.iter_mut().zip(&climbing).filter(|(_, climbs)| **climbs) {
                *rule += 1;
            }
            let finer = likelihood.at(&stop.at);
            for (study, climbs) in climbing.iter_mut().enumerate().filter(|(_, climbs)| **climbs) {
                let change = (finer.studies[study] - stop.evaluation.studies[study]).abs();
                let ratio = change / changes[study];
                changes[study] = change;
                // Without a change before it, or one that did not shrink, there is nothing to extrapolate.
                let remaining = if ratio < 0.9 { change * ratio / (1.0 - ratio) } else { 10.0 * change };
                let last = likelihood.rules[study] + 1 == NODE_COUNTS.len();
                settled &= remaining <= tolerable || !last;
                *climbs = remaining > tolerable && !last;
            }
            let done = !climbing.contains(&true);
            let tolerance = if done { EXACT } else { NEARLY };
            stop = maximise_from(&mut likelihood, free, stop.at, finer, effort(tolerance));
            *iterations += stop.iterations;
            if done {
                return (!nowhere(&stop)).then_some(Polished { stop, rules: likelihood.rules, settled });
            }
        }
    }
}

/// Moves between correlation ±1 and the interior where the exact curvature or value asks for it.
fn recheck_boundary(
    polisher: &mut Polisher<'_>,
    shape: Shape,
    free: Free,
    polished: Polished,
    iterations: &mut usize,
) -> (Free, Polished) {
    if !(shape.correlated && free[L21]) {
        return (free, polished);
    }
    let theta = &polished.stop.theta;
    let spread = theta[L21].hypot(theta[L22]);
    let (mut other_free, mut start) = (free.clone(), theta.clone());
    other_free[L22] = !free[L22];
    if free[L22] {
        if theta[L22].abs() > 0.1 * spread {
            return (free, polished);
        }
        (start[L21], start[L22]) = (spread * theta[L21].signum(), 0.0);
    } else {
        // The likelihood is even in l22: negative curvature there means that the boundary is a maximum. If it is weak, a higher one may
        // lie close beside it.
        if polished.stop.evaluation.hessian[(L22, L22)] * spread * spread < -WEAK {
            return (free, polished);
        }
        (start[L21], start[L22]) = (0.9 * theta[L21], 0.4 * spread);
    }
    match polisher.polish(&other_free, start, iterations) {
        Some(other) if other.stop.cause == StopCause::Converged => {
            let gain = other.stop.evaluation.value - polished.stop.evaluation.value;
            let near_boundary = other_free[L22] && other.stop.theta[L22].abs() < polisher.zero_scales()[1];
            if gain > if other_free[L22] { SAME } else { -SAME } && !near_boundary {
                (other_free, other)
            } else {
                (free, polished)
            }
        }
        _ => (free, polished),
    }
}

fn boundary(shape: Shape, free: &[bool], theta: &Theta) -> Boundary {
    let zero1 = shape.variances[0] && !free[L11];
    let zero2 = shape.variances[1] && !free[L21] && !free[L22];
    match (zero1, zero2) {
        (true, true) => Boundary::BothVariancesZero,
        (true, false) => Boundary::Tau2SensZero,
        (false, true) => Boundary::Tau2SpecZero,
        (false, false) if shape.correlated && free[L21] && !free[L22] => {
            if theta[L11] * theta[L21] < 0.0 {
                Boundary::RhoMinusOne
            } else {
                Boundary::RhoPlusOne
            }
        }
        (false, false) => Boundary::None,
    }
}

/// Starts beside the maxima that have one variance and not the other. While one arm varies, a variance of exactly zero in the other is hardly ever
/// the maximum: it pays to follow the varying arm a little, in one direction or the other, or to vary a little apart from it. Where people are
/// counted by the hundred thousand that little is far below the spread from which the other starts set out.
fn beside_zero_variances(shape: Shape, stops: &[(Candidate, Stop)]) -> Vec<Candidate> {
    let mut list = Vec::new();
    if !shape.correlated {
        return list;
    }
    let mut seen = [false; 2];
    for (candidate, stop) in stops.iter().filter(|(candidate, _)| candidate.free[L11] || candidate.free[L22]) {
        let (first, second) = (stop.theta[L11].abs(), stop.theta[L21].hypot(stop.theta[L22]));
        let varies = [first, second].map(|scale| scale > VANISHED);
        if varies[0] == varies[1] || std::mem::replace(&mut seen[usize::from(varies[0])], true) {
            continue;
        }
        let with = |correlated: bool, scales: [f64; 3]| {
            let (mut free, mut start) = (candidate.free.clone(), stop.theta.clone());
            (free[L11], free[L21], free[L22]) = (true, true, correlated);
            (start[L11], start[L21], start[L22]) = (scales[0], scales[1], scales[2]);
            Candidate { free, start }
        };
        let little = |scale: usize| stop.evaluation.hessian[(scale, scale)].abs().max(1.0).sqrt().recip();
        let (along, apart) = if varies[0] {
            ([-1.0, 1.0].map(|sign| [first, sign * little(L21), 0.0]), [first, 0.0, little(L22)])
        } else {
            ([-1.0, 1.0].map(|sign| [sign * little(L11), second, 0.0]), [little(L11), 0.0, second])
        };
        list.extend(along.map(|scales| with(false, scales)));
        list.push(with(true, apart));
    }
    list
}

/// Starting values from the studies' own logits (0.5 added to each cell).
#[derive(Debug)]
struct Moments {
    /// Each mean at its place among the parameters.
    means: Theta,
    /// People who had the correct result, and all, at the same places.
    people: Vec<[f64; 2]>,
    sd: [f64; 2],
    correlation: f64,
}

impl Moments {
    /// Means and spread of a fit in place of those of the observed logits.
    fn near(self, near: &Fit) -> Self {
        let mut means = near.theta.clone();
        means.rows_mut(L11, 3).fill(0.0);
        let sd = [near.theta[L11].abs(), near.theta[L21].hypot(near.theta[L22])].map(|sd| sd.max(0.2));
        Self { means, sd, ..self }
    }
}

fn moments(studies: &[StudyData], shape: Shape) -> Moments {
    let logit = |study: &StudyData, arm: usize| {
        let (y, n) = (study.y[arm], study.n[arm]);
        ((y + 0.5) / (n - y + 0.5)).ln()
    };
    let mut means = Theta::zeros(parameters(shape.levels[0].max(shape.levels[1])));
    let mut people = vec![[0.0; 2]; means.len()];
    for (arm, level) in shape.means() {
        let (mut sum, mut count) = (0.0, 0.0);
        for study in studies.iter().filter(|s| s.n[arm] > 0.0 && s.level[arm] == level) {
            sum += logit(study, arm);
            count += 1.0;
            let people = &mut people[mean_at(arm, level)];
            *people = [people[0] + study.y[arm], people[1] + study.n[arm]];
        }
        means[mean_at(arm, level)] = sum / f64::max(count, 1.0);
    }
    let residual = |study: &StudyData, arm: usize| logit(study, arm) - means[mean_at(arm, study.level[arm])];
    let mut sd = [0.5; 2];
    for (arm, sd) in sd.iter_mut().enumerate() {
        let present: Vec<&StudyData> = studies.iter().filter(|s| s.n[arm] > 0.0).collect();
        let k = present.len() as f64;
        if present.is_empty() {
            continue;
        }
        let within = |s: &&StudyData| 1.0 / (s.y[arm] + 0.5) + 1.0 / (s.n[arm] - s.y[arm] + 0.5);
        let sampling = present.iter().map(within).sum::<f64>() / k;
        let total =
            present.iter().map(|s| residual(s, arm).powi(2)).sum::<f64>() / (k - shape.levels[arm] as f64).max(1.0);
        *sd = (total - sampling).clamp(0.04, 6.0).sqrt();
    }
    let both: Vec<[f64; 2]> =
        studies.iter().filter(|s| s.n[0] > 0.0 && s.n[1] > 0.0).map(|s| [residual(s, 0), residual(s, 1)]).collect();
    let sum = |f: &dyn Fn(&[f64; 2]) -> f64| both.iter().map(f).sum::<f64>();
    let (xx, yy, xy) = (sum(&|d| d[0] * d[0]), sum(&|d| d[1] * d[1]), sum(&|d| d[0] * d[1]));
    let correlation = if xx > 0.0 && yy > 0.0 { (xy / (xx * yy).sqrt()).clamp(-0.8, 0.8) } else { 0.0 };
    Moments { means, people, sd, correlation }
}

#[cfg(test)]
#[allow(clippy::print_stdout, reason = "what the ignored test finds is its result")]
mod tests {
    use rand::{Rng, SeedableRng};
    use rand_chacha::ChaCha8Rng;
    use rand_distr::{Binomial, Distribution, StandardNormal};

    use super::*;
    use crate::accuracy::Counts;

    /// Studies of a random world: heterogeneity from none to much, arms from a handful to a million.
    fn review(rng: &mut ChaCha8Rng) -> Vec<StudyData> {
        let mu = [rng.random_range(-1.0..4.0), rng.random_range(-1.0..4.0)];
        let tau = [0, 1].map(|_| if rng.random_bool(0.2) { 0.0 } else { 10f64.powf(rng.random_range(-2.0..0.4)) });
        let rho: f64 = rng.random_range(-1.0..=1.0);
        let largest = 10f64.powf(rng.random_range(1.0..6.3)) as u64;
        (0..rng.random_range(4..40))
            .map(|_| {
                let [a, b]: [f64; 2] = [rng.sample(StandardNormal), rng.sample(StandardNormal)];
                let effects = [tau[0] * a, tau[1] * (rho * a + (1.0 - rho * rho).sqrt() * b)];
                let [(tp, fn_), (tn, fp)] = [0, 1].map(|arm| {
                    let n = rng.random_range(largest / 5 + 2..=largest);
                    let p = 1.0 / (1.0 + (-mu[arm] - effects[arm]).exp());
                    let correct = Binomial::new(n, p).unwrap().sample(rng);
                    (correct as f64, (n - correct) as f64)
                });
                StudyData::new(&Counts::full(tp, fp, fn_, tn).unwrap(), [true, true])
            })
            .collect()
    }

    #[test]
    #[ignore = "minutes of computing: cargo test --release -p pruvex-core --lib multistart -- --ignored --nocapture"]
    fn forty_random_starts_find_no_higher_maximum() {
        let shape = Shape { arms: [true; 2], variances: [true; 2], correlated: true, levels: [1; 2] };
        let reviews: u64 = std::env::var("REVIEWS").map_or(500, |n| n.parse().unwrap());
        let (mut worse, mut unfitted) = (0, 0);
        let first: u64 = std::env::var("FIRST").map_or(0, |n| n.parse().unwrap());
        for seed in first..first + reviews {
            let mut rng = ChaCha8Rng::seed_from_u64(seed);
            let studies = review(&mut rng);
            let totals = |arm: usize| studies.iter().fold((0.0, 0.0), |(y, n), s| (y + s.y[arm], n + s.n[arm]));
            if [0, 1].map(totals).iter().any(|(y, n)| *y == 0.0 || y == n) {
                continue;
            }
            let Some(found) = fit(&studies, shape) else {
                unfitted += 1;
                continue;
            };
            let mut likelihood = Marginal::with_rules(&studies, found.rules.clone());
            let mut best = f64::NEG_INFINITY;
            let mut best_at = found.theta.clone();
            for _ in 0..40 {
                let sd = [0, 1].map(|_| 10f64.powf(rng.random_range(-2.5..0.5)));
                let rho: f64 = rng.random_range(-1.0..1.0);
                let l22 = if rng.random_bool(0.3) { 0.0 } else { (1.0 - rho * rho).sqrt() };
                let mut start = found.theta.clone();
                (start[L11], start[L21], start[L22]) = (sd[0], rho * sd[1], l22 * sd[1]);
                let free = vec![true, true, true, true, l22 > 0.0];
                let effort = Effort { tolerance: 1e-8, to_beat: f64::NEG_INFINITY };
                let stop = maximise(&mut likelihood, &free, start, effort);
                if stop.cause == StopCause::Converged && stop.evaluation.value > best {
                    (best, best_at) = (stop.evaluation.value, stop.theta);
                }
            }
            // What a search may miss: maxima side by side on a nearly flat ring. Once in 6 000 reviews, by less than this.
            if best > found.log_likelihood + 1e-4 {
                worse += 1;
                println!(
                    "seed {seed}, k {}: {} at {:.4?} ({:?}), but {best} at {:.4?}",
                    studies.len(),
                    found.log_likelihood,
                    found.theta.as_slice(),
                    found.boundary,
                    best_at.as_slice()
                );
            }
        }
        println!("{reviews} reviews: {worse} with a higher maximum elsewhere, {unfitted} not fitted");
        assert_eq!(worse, 0);
    }
}
