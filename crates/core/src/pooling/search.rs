//! The global search: several starts, the boundaries among them, then more nodes until nothing changes.

use serde::Serialize;

use super::marginal::{Hessian, L11, L21, L22, StudyData, Theta, mean_at, parameters};
use super::optimise::{CLOSE, EXACT, Effort, Exact, Free, ROUGH, Stop, StopCause, covariance_of_estimates, maximise};
use super::quadrature::NODE_COUNTS;

/// Where the maximum lies. A maximum at a boundary is still the maximum; it is flagged since the simpler model
/// then explains the data as well, and intervals from curvature are less trustworthy.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
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
    pub nodes: usize,
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

/// The quadrature a fit ended with.
#[derive(Debug, Clone, Copy)]
struct Rule {
    nodes: usize,
    /// Whether the last increase of nodes changed nothing that matters.
    settled: bool,
}

/// How many nodes a maximum is brought to full precision with.
#[derive(Debug, Clone, Copy)]
enum Climb {
    /// As many as it takes until more change nothing.
    Until,
    /// The rule below this count of nodes, to which more had added nothing.
    Settled(usize),
}

/// Two log-likelihoods closer than this are the same maximum seen from two starts.
const SAME: f64 = 1e-7;
/// The same, for the rough search whose few nodes blur it.
const SAME_HEIGHT: f64 = 0.05;
/// Decrement whose last step leaves about a billionth of a log-likelihood: enough where nothing is compared any more.
const NEARLY: f64 = 1e-6;
/// A scale parameter this small is on its boundary: its square would be a variance below 10^-6.
const ZERO_SCALE: f64 = 1e-3;

/// Fits one shape of model. `None` when it is not identified or has no finite maximum: the caller then steps
/// down its ladder.
///
/// Arms that are all right in one study and all wrong in the next make steps of the integrand, which the few
/// nodes of the quick search misjudge; when it failed or needed many nodes in the end, a careful search follows.
pub(super) fn fit(studies: &[StudyData], shape: Shape) -> Option<Fit> {
    let quick = search(studies, shape, QUICK, None);
    if quick.as_ref().is_some_and(|fit| fit.nodes <= NODE_COUNTS[CAREFUL]) {
        return quick;
    }
    let careful = search(studies, shape, CAREFUL, None);
    match (quick, careful) {
        (Some(quick), Some(careful)) if quick.log_likelihood > careful.log_likelihood + SAME => Some(quick),
        (quick, careful) => careful.or(quick),
    }
}

/// Fits data that differ little from those of a settled fit: its answer takes the place of the interior starts, and the rule
/// that more nodes had changed nothing of is used without climbing again. The boundaries are still looked at, since a study
/// may be all that kept the maximum away from one. `None` when this was not enough, and [`fit`] must search.
pub(super) fn fit_near(studies: &[StudyData], shape: Shape, near: &Fit) -> Option<Fit> {
    if !near.settled || near.theta.len() != parameters(shape.levels[0].max(shape.levels[1])) {
        return None;
    }
    search(studies, shape, QUICK, Some(near))
}

/// Positions in [`NODE_COUNTS`] of the rules that tell starts apart.
const QUICK: usize = 0;
const CAREFUL: usize = 4;

fn search(studies: &[StudyData], shape: Shape, nodes: usize, near: Option<&Fit>) -> Option<Fit> {
    let mut modes = vec![[0.0; 2]; studies.len()];
    let moments = near.map_or_else(|| moments(studies, shape), |near| moments(studies, shape).near(near));
    let mut iterations = 0;
    let mut to_beat = f64::NEG_INFINITY;
    let mut stops: Vec<(Candidate, Stop)> = Vec::new();
    let mut try_all = |list: Vec<Candidate>, stops: &mut Vec<(Candidate, Stop)>, iterations: &mut usize| {
        for candidate in list {
            modes.fill([0.0; 2]);
            let effort = Effort { tolerance: ROUGH, to_beat };
            let mut likelihood = Exact::new(studies, nodes, &mut modes);
            let stop = maximise(&mut likelihood, &candidate.free, candidate.start.clone(), effort);
            *iterations += stop.iterations;
            if stop.evaluation.value.is_finite() {
                to_beat = to_beat.max(stop.evaluation.value);
                stops.push((candidate, stop));
            }
        }
    };
    try_all(fixed(shape, &moments), &mut stops, &mut iterations);
    let overdispersed = stops.first().map_or([true; 2], |(_, fixed)| {
        // The likelihood is even in each scale: positive curvature at zero means that it rises with the variance, so
        // that no maximum can be where that variance is zero.
        [L11, L22].map(|scale| fixed.evaluation.hessian[(scale, scale)] > 0.0)
    });
    let mut interior: Vec<Candidate> = Vec::new();
    interior.extend(near.map(|near| Candidate { free: near.free.clone(), start: near.theta.clone() }));
    if near.is_none_or(|near| near.boundary != Boundary::None) {
        interior.extend(full(shape, &moments));
    }
    try_all(interior, &mut stops, &mut iterations);
    try_all(boundaries(shape, &moments, overdispersed), &mut stops, &mut iterations);
    // Simplest first; a richer one must really be better to pass before it.
    stops.sort_by_key(|(candidate, _)| candidate.free.iter().filter(|free| **free).count());
    let mut rough: Vec<(Candidate, Stop)> = Vec::new();
    for (candidate, stop) in stops {
        let place = rough.iter().position(|(_, better)| stop.evaluation.value > better.evaluation.value + ROUGH);
        rough.insert(place.unwrap_or(rough.len()), (candidate, stop));
    }
    // Starts that came to practically the same height are the same maximum seen differently: if one of them cannot
    // be finished another may. A lower one must not take its place, since it would not be the maximum; nor may it
    // stand in for a higher one that ran off to infinity.
    let height = rough.first()?.1.evaluation.value;
    rough
        .into_iter()
        .take_while(|(_, stop)| stop.evaluation.value > height - SAME_HEIGHT)
        .filter(|(_, stop)| !matches!(stop.cause, StopCause::Diverged | StopCause::Abandoned))
        .find_map(|(candidate, stop)| {
            let climb = near.map_or(Climb::Until, |near| Climb::Settled(near.nodes));
            finish(studies, shape, candidate.free, stop, climb, &mut iterations)
        })
}

/// Brings a rough maximum to full precision. `None` when it turns out to be none, or not identified.
fn finish(
    studies: &[StudyData],
    shape: Shape,
    mut free: Free,
    rough: Stop,
    climb: Climb,
    iterations: &mut usize,
) -> Option<Fit> {
    let modes = &mut vec![[0.0; 2]; studies.len()];
    let mut theta = rough.theta;
    if free[L22] && free[L21] && theta[L22].abs() < ZERO_SCALE {
        free[L22] = false;
        theta[L22] = 0.0;
    }
    let polished = polish(studies, &free, theta, climb, modes, iterations)?;
    // With more nodes the better maximum may be a neighbour of the one chosen with few: look once more from
    // both sides of a correlation boundary.
    let (mut free, (stop, rule)) = recheck_boundary(studies, shape, free, polished, climb, modes, iterations);
    if stop.cause != StopCause::Converged {
        return None;
    }
    let reached = &stop.theta;
    let spread2 = reached[L21].hypot(reached[L22]);
    let no_first = free[L11] && reached[L11].abs() < ZERO_SCALE;
    let no_second = (free[L21] || free[L22]) && spread2 < ZERO_SCALE;
    if no_first || no_second {
        // A variance vanished on the way: hold it, since nothing is left to correlate with.
        let mut held = stop;
        (held.theta[L21], held.theta[L22]) = (0.0, spread2);
        let second = (free[L21] || free[L22]) && !no_second;
        (free[L11], free[L21], free[L22]) = (free[L11] && !no_first, false, second);
        return finish(studies, shape, free, held, climb, iterations);
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
        nodes: rule.nodes,
        settled: rule.settled,
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
fn fixed(shape: Shape, moments: &Moments) -> Vec<Candidate> {
    let mut candidate = Candidate::new(shape, moments, [false; 3], [0.0; 3]);
    for (arm, level) in shape.means() {
        // Without a variance the maximum is the logit of the people counted together.
        let [correct, n] = moments.people[mean_at(arm, level)];
        candidate.start[mean_at(arm, level)] = (correct / (n - correct)).ln();
    }
    vec![candidate]
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

/// Climbs the node counts from `theta` until value and parameters stand still, or uses the count already settled on.
fn polish(
    studies: &[StudyData],
    free: &[bool],
    mut theta: Theta,
    climb: Climb,
    modes: &mut [[f64; 2]],
    iterations: &mut usize,
) -> Option<(Stop, Rule)> {
    let mut previous: Option<Stop> = None;
    let first = match climb {
        Climb::Until => 1,
        Climb::Settled(settled) => NODE_COUNTS.iter().position(|count| *count == settled).unwrap_or(2).max(2) - 1,
    };
    for (nodes, count) in NODE_COUNTS.into_iter().enumerate().skip(first) {
        let mut reach = |theta: Theta, tolerance: f64| {
            let effort = Effort { tolerance, to_beat: f64::NEG_INFINITY };
            let stop = maximise(&mut Exact::new(studies, nodes, modes), free, theta, effort);
            *iterations += stop.iterations;
            (stop.cause != StopCause::Diverged).then_some(stop)
        };
        let mut stop = reach(theta, CLOSE)?;
        if let Climb::Settled(_) = climb {
            if stop.decrement > NEARLY {
                stop = reach(stop.theta, NEARLY)?;
            }
            return Some((stop, Rule { nodes: count, settled: true }));
        }
        let still = previous.as_ref().is_some_and(|previous: &Stop| {
            // The change estimates the error of the coarser rule; the finer one's is far smaller.
            (stop.evaluation.value - previous.evaluation.value).abs() < 3e-6
                && (&stop.theta - &previous.theta).amax() < 5e-5
        });
        if still && stop.decrement > EXACT {
            stop = reach(stop.theta, EXACT)?;
        }
        if still {
            return Some((stop, Rule { nodes: count, settled: true }));
        }
        theta = stop.theta.clone();
        previous = Some(stop);
    }
    let nodes = NODE_COUNTS[NODE_COUNTS.len() - 1];
    previous.map(|stop| (stop, Rule { nodes, settled: false }))
}

/// Moves between correlation ±1 and the interior where the exact curvature or value asks for it.
fn recheck_boundary(
    studies: &[StudyData],
    shape: Shape,
    free: Free,
    polished: (Stop, Rule),
    climb: Climb,
    modes: &mut [[f64; 2]],
    iterations: &mut usize,
) -> (Free, (Stop, Rule)) {
    if !(shape.correlated && free[L21]) {
        return (free, polished);
    }
    let theta = &polished.0.theta;
    let spread = theta[L21].hypot(theta[L22]);
    let (mut other_free, mut start) = (free.clone(), theta.clone());
    other_free[L22] = !free[L22];
    if free[L22] {
        if theta[L22].abs() > 0.1 * spread {
            return (free, polished);
        }
        (start[L21], start[L22]) = (spread * theta[L21].signum(), 0.0);
    } else {
        // The likelihood is even in l22: negative curvature there means that the boundary is a maximum.
        if polished.0.evaluation.hessian[(L22, L22)] < 0.0 {
            return (free, polished);
        }
        (start[L21], start[L22]) = (0.9 * theta[L21], 0.4 * spread);
    }
    match polish(studies, &other_free, start, climb, modes, iterations) {
        Some(other) if other.0.cause == StopCause::Converged => {
            let gain = other.0.evaluation.value - polished.0.evaluation.value;
            let near_boundary = other_free[L22] && other.0.theta[L22].abs() < ZERO_SCALE;
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
