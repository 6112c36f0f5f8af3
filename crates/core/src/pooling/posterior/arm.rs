//! One arm: the marginal likelihood of its studies, and where its mean and its spread between studies can be.

use fearless_simd::prelude::*;
use fearless_simd::{Level, Simd, dispatch};

use super::Fineness;
use crate::pooling::lanes::{Lanes, WIDTH, exp, expit_and_softplus, ln};

/// What one study reports of the arm: so many of `n` people classified rightly.
#[derive(Debug, Clone, Copy)]
pub(super) struct Share {
    pub correct: f64,
    pub n: f64,
}

impl Share {
    /// Logit of the share, half a person added to both cells: where the likelihood lies, nothing that is reported.
    fn logit(self) -> f64 {
        ((self.correct + 0.5) / (self.n - self.correct + 0.5)).ln()
    }

    /// About the variance of that logit.
    fn variance(self) -> f64 {
        1.0 / (self.correct + 0.5) + 1.0 / (self.n - self.correct + 0.5)
    }
}

/// `ln g(m) = ln ∫ p^correct (1 - p)^(n - correct) φ(z) dz` with `p = expit(m + s z)` for each of `means`.
///
/// The trapezoid rule from the mode outwards: for an analytic integrand its error falls exponentially with the step. The step is a share of the
/// integrand's width at the mode, and of the distance of the logistic's poles, which is what counts in an arm without errors, where the integrand is
/// a step. It ends on each side where eight means side by side add nothing more.
pub(super) fn log_marginals(share: Share, s: f64, means: &[f64], fineness: &Fineness) -> Vec<f64> {
    dispatch!(Level::new(), simd => log_marginals_simd(simd, share, s, means, fineness))
}

#[inline(always)]
fn log_marginals_simd<S: Simd>(simd: S, share: Share, s: f64, means: &[f64], fineness: &Fineness) -> Vec<f64> {
    simd.vectorize(
        #[inline(always)]
        || {
            let mut all = Vec::with_capacity(means.len());
            for part in means.chunks(WIDTH) {
                let last = part.last().copied().unwrap_or_default();
                let m: [f64; WIDTH] = std::array::from_fn(|lane| part.get(lane).copied().unwrap_or(last));
                let log = log_marginal(simd, share, s, Lanes::from_slice(simd, &m), fineness);
                all.extend((0..part.len()).map(|lane| log[lane]));
            }
            all
        },
    )
}

/// Steps on one side: far more than any sensible integrand takes.
const MOST_STEPS: usize = 2_000;

/// The integrand's logarithm at `z`. A function and no closure: what is not inlined is compiled without the processor's wide instructions.
#[inline(always)]
fn height<S: Simd>(Share { correct, n }: Share, s: f64, m: Lanes<S>, z: Lanes<S>) -> Lanes<S> {
    let x = z * s + m;
    let (_, softplus) = expit_and_softplus(x);
    x * correct - softplus * n - z * z * 0.5
}

#[inline(always)]
fn log_marginal<S: Simd>(simd: S, share: Share, s: f64, m: Lanes<S>, fineness: &Fineness) -> Lanes<S> {
    let Share { correct, n } = share;
    // The mode lies between the mean and where the likelihood has its top: nearly, where that is at infinity. A normal likelihood's mode first;
    // then Newton's steps, and the middle where they leave what is left between the two.
    let (zero, half) = (Lanes::splat(simd, 0.0), Lanes::splat(simd, 0.5));
    let sure = if s > 0.0 { 9.0 / s } else { 0.0 };
    let towards = (-m + share.logit()) * (1.0 / s.max(1e-300));
    let (mut low, mut high) = (zero.min(towards - sure), zero.max(towards + sure));
    let mut mode = (-m + share.logit()) * (s / (s * s + share.variance()));
    let mut curvature = Lanes::splat(simd, 1.0);
    for _ in 0..MOST_STEPS {
        let (p, _) = expit_and_softplus(mode * s + m);
        let slope = (-p * n + correct) * s - mode;
        curvature = p * (-p + 1.0) * (s * s * n) + 1.0;
        let off = slope * slope / curvature;
        if (0..WIDTH).all(|lane| off[lane] < 0.05 || high[lane] - low[lane] < 1e-9) {
            break;
        }
        let rises = slope.simd_gt(0.0);
        low = rises.select(mode, low);
        high = rises.select(high, mode);
        let next = mode + slope / curvature;
        let inside = next.simd_gt(low) & next.simd_lt(high);
        mode = inside.select(next, (low + high) * half);
    }
    let narrow = Lanes::splat(simd, fineness.step) / curvature.sqrt();
    let step = narrow.min(fineness.pole_step / s.max(1e-9));
    let top = height(share, s, m, mode);
    let mut sum = Lanes::splat(simd, 1.0);
    for side in [1.0, -1.0] {
        let mut z = mode;
        for _ in 0..MOST_STEPS {
            z += step * side;
            let term = exp(height(share, s, m, z) - top);
            sum += term;
            let part = term / sum;
            if (0..WIDTH).all(|lane| part[lane] < fineness.negligible) {
                break;
            }
        }
    }
    const LN_SQRT_TAU: f64 = 0.918_938_533_204_672_8;
    // The logarithm is one of numbers from 1 on; the step may be on either side of it.
    let ln_step = ln(step.max(1.0)) - ln((Lanes::splat(simd, 1.0) / step).max(1.0));
    top + ln(sum) + ln_step - LN_SQRT_TAU
}

/// Points of a scale that is fine around `centre` and coarse far away: `centre + scale sinh v` with `v` evenly spaced.
#[derive(Debug, Clone)]
pub(super) struct SinhGrid {
    pub centre: f64,
    pub scale: f64,
    pub first: f64,
    pub step: f64,
    pub points: Vec<f64>,
}

impl SinhGrid {
    pub fn new(centre: f64, scale: f64, [low, high]: [f64; 2], count: usize) -> Self {
        let at = |x: f64| ((x - centre) / scale).asinh();
        let (first, last) = (at(low), at(high));
        let step = (last - first) / (count - 1) as f64;
        let points = (0..count).map(|j| centre + scale * (first + step * j as f64).sinh()).collect();
        Self { centre, scale, first, step, points }
    }

    /// Length of the cell of each point.
    pub fn cell(&self, index: usize) -> f64 {
        self.scale * (self.first + self.step * index as f64).cosh() * self.step
    }

    /// What stands so many steps from the first point.
    pub fn value(&self, place: f64) -> f64 {
        self.centre + self.scale * (self.first + self.step * place).sinh()
    }

    /// Where a value stands, in steps from the first point.
    pub fn place(&self, x: f64) -> f64 {
        (((x - self.centre) / self.scale).asinh() - self.first) / self.step
    }
}

/// An arm with the points at which its mean and its spread are looked at.
#[derive(Debug)]
pub(super) struct ArmGrid {
    pub shares: Vec<Share>,
    pub means: SinhGrid,
    /// Spreads between studies, and the prior's weight of each times the length of its cell.
    pub spreads: Vec<f64>,
    pub spread_weights: Vec<f64>,
    /// By spread, then study, then mean: `ln g`, less what the study has at the most likely place.
    pub logs: Vec<Vec<Vec<f64>>>,
    /// That of each study.
    pub offsets: Vec<f64>,
    /// `ln` of the mean's prior times the length of its cell.
    pub log_prior: Vec<f64>,
    /// The narrowest likelihood's variance.
    pub narrowest: f64,
}

const PILOT_SPREADS: usize = 18;
const PILOT_MEANS: usize = 33;

/// A rough look at an arm: everywhere that the priors let its mean and its spread be.
pub(super) struct Pilot {
    shares: Vec<Share>,
    narrowest: f64,
    spreads: SinhGrid,
    means: SinhGrid,
    /// By spread, then mean: likelihood, the mean's prior and the length of its cell, less the top of it all.
    mass: Vec<Vec<f64>>,
    /// That top, as a logarithm.
    top: f64,
}

impl Pilot {
    /// Of these studies; the scale of the spreads is that of `all`, among which they are.
    pub fn new(shares: Vec<Share>, all: &[Share], prior: super::PriorScales, fineness: &Fineness) -> Self {
        let precision: f64 = shares.iter().map(|it| 1.0 / it.variance()).sum();
        let centre = shares.iter().map(|it| it.logit() / it.variance()).sum::<f64>() / precision;
        let within = (all.iter().map(|it| it.variance()).sum::<f64>() / all.len() as f64).sqrt();
        let narrowest = shares.iter().map(|it| it.variance()).fold(f64::INFINITY, f64::min);
        let reach = fineness.reach;
        let scale = precision.sqrt().recip();
        let far = reach * prior.mean;
        let means = SinhGrid::new(centre, scale, [centre.min(0.0) - far, centre.max(0.0) + far], PILOT_MEANS);
        let spreads = SinhGrid::new(0.0, 0.5 * within, [0.0, reach * prior.spread], PILOT_SPREADS);
        let rough = Fineness { negligible: 1e-4, ..*fineness };
        let mut mass = vec![vec![0.0; PILOT_MEANS]; PILOT_SPREADS];
        for (spread, row) in spreads.points.iter().zip(&mut mass) {
            for share in &shares {
                let logs = log_marginals(*share, *spread, &means.points, &rough);
                row.iter_mut().zip(logs).for_each(|(sum, log)| *sum += log);
            }
            for (a, log) in row.iter_mut().enumerate() {
                *log += -0.5 * (means.points[a] / prior.mean).powi(2) + means.cell(a).ln();
            }
        }
        let top = mass.iter().flatten().copied().fold(f64::NEG_INFINITY, f64::max);
        mass.iter_mut().flatten().for_each(|log| *log = (*log - top).exp());
        Self { shares, narrowest, spreads, means, mass, top }
    }

    /// The arm on finer points, with these spreads.
    pub fn grid(self, spreads: &SpreadGrid, prior: super::PriorScales, fineness: &Fineness) -> ArmGrid {
        let Self { shares, narrowest, means, mass, .. } = self;
        let by_mean: Vec<f64> = (0..PILOT_MEANS)
            .map(|a| {
                mass.iter()
                    .zip(&spreads.pilot)
                    .map(|(row, whole)| {
                        let own: f64 = row.iter().sum();
                        if own > 0.0 { row[a] / own * whole } else { 0.0 }
                    })
                    .sum()
            })
            .collect();
        let [low, high] = ends(&by_mean, fineness.mean_ends);
        let quarter = |share: f64| means.value(fraction(&by_mean, share));
        let (median, wide) = (quarter(0.5), (quarter(0.75) - quarter(0.25)) / 1.349);
        let ends = [low, high].map(|steps| means.value(steps));
        let means = SinhGrid::new(median, fineness.mean_scale * wide, ends, fineness.means);
        let logs: Vec<Vec<Vec<f64>>> = spreads
            .points
            .iter()
            .map(|spread| shares.iter().map(|share| log_marginals(*share, *spread, &means.points, fineness)).collect())
            .collect();
        let log_prior: Vec<f64> = (0..means.points.len())
            .map(|a| -0.5 * (means.points[a] / prior.mean).powi(2) + means.cell(a).ln())
            .collect();
        let mut arm = ArmGrid {
            offsets: vec![0.0; shares.len()],
            shares,
            means,
            spreads: spreads.points.clone(),
            spread_weights: spreads.weights.clone(),
            logs,
            log_prior,
            narrowest,
        };
        arm.offsets = arm.most_likely();
        for of_spread in &mut arm.logs {
            for (of_study, offset) in of_spread.iter_mut().zip(&arm.offsets) {
                of_study.iter_mut().for_each(|log| *log -= offset);
            }
        }
        arm
    }
}

/// Spreads that are looked at, with the prior's weight of each times the length of its cell.
pub(super) struct SpreadGrid {
    points: Vec<f64>,
    weights: Vec<f64>,
    /// What the rough look gave each of its spreads.
    pilot: Vec<f64>,
}

impl SpreadGrid {
    /// Where a spread that is common to all of these can be.
    pub fn common(pilots: &[Pilot], prior: super::PriorScales, fineness: &Fineness) -> Self {
        let grid = &pilots[0].spreads;
        let log = |j: usize| {
            let of_all: f64 = pilots.iter().map(|pilot| pilot.mass[j].iter().sum::<f64>().ln() + pilot.top).sum();
            of_all - 0.5 * (grid.points[j] / prior.spread).powi(2) + grid.cell(j).ln()
        };
        let logs: Vec<f64> = (0..PILOT_SPREADS).map(log).collect();
        let top = logs.iter().copied().fold(f64::NEG_INFINITY, f64::max);
        let pilot: Vec<f64> = logs.iter().map(|log| (log - top).exp()).collect();
        let [low, high] = ends(&pilot, fineness.spread_ends);
        let place = |steps: f64| grid.first + grid.step * steps;
        let (low, high) = (place(low).max(0.0), place(high));
        let (nodes, weights) = gauss_legendre(fineness.spreads);
        let half = 0.5 * (high - low);
        let at: Vec<f64> = nodes.iter().map(|x| low + half * (x + 1.0)).collect();
        let points: Vec<f64> = at.iter().map(|w| grid.scale * w.sinh()).collect();
        let weigh = |((w, weight), spread): ((&f64, &f64), &f64)| {
            half * weight * grid.scale * w.cosh() * (-0.5 * (spread / prior.spread).powi(2)).exp()
        };
        let weights = at.iter().zip(&weights).zip(&points).map(weigh).collect();
        Self { points, weights, pilot }
    }
}

impl ArmGrid {
    pub fn new(shares: Vec<Share>, prior: super::PriorScales, fineness: &Fineness) -> Self {
        let all = shares.clone();
        let pilot = Pilot::new(shares, &all, prior, fineness);
        let spreads = SpreadGrid::common(std::slice::from_ref(&pilot), prior, fineness);
        pilot.grid(&spreads, prior, fineness)
    }

    /// What each study has where all of them together have most.
    fn most_likely(&self) -> Vec<f64> {
        let (mut best, mut found) = (f64::NEG_INFINITY, Vec::new());
        for of_spread in &self.logs {
            for a in 0..self.means.points.len() {
                let sum: f64 = of_spread.iter().map(|of_study| of_study[a]).sum();
                if sum > best {
                    (best, found) = (sum, of_spread.iter().map(|of_study| of_study[a]).collect());
                }
            }
        }
        found
    }

    /// By mean, at one of the spreads: the mass of this arm by itself, without the spread's weight, up to a constant.
    pub fn at_spread(&self, t: usize) -> Vec<f64> {
        (0..self.means.points.len())
            .map(|a| (self.log_prior[a] + self.logs[t].iter().map(|it| it[a]).sum::<f64>()).exp())
            .collect()
    }

    /// By spread and mean: the posterior mass of this arm by itself, up to a constant.
    pub fn alone(&self) -> Vec<Vec<f64>> {
        let of = |(t, weight): (usize, &f64)| self.at_spread(t).into_iter().map(|it| weight * it).collect();
        self.spread_weights.iter().enumerate().map(of).collect()
    }
}

/// From where to where a mass is worth looking at, in steps from the first point: a step more on both sides than where it is above this share of
/// its top.
fn ends(mass: &[f64], share: f64) -> [f64; 2] {
    let top = mass.iter().copied().fold(0.0, f64::max);
    let above = |it: &f64| *it > share * top;
    let low = mass.iter().position(above).unwrap_or(0);
    let high = mass.iter().rposition(above).unwrap_or(mass.len() - 1);
    [low.saturating_sub(1) as f64, (high + 1).min(mass.len() - 1) as f64]
}

/// Where this share of a mass is reached, in steps from the first point.
fn fraction(mass: &[f64], share: f64) -> f64 {
    let wanted = share * mass.iter().sum::<f64>();
    let mut sum = 0.0;
    for (index, it) in mass.iter().enumerate() {
        if sum + it >= wanted {
            return index as f64 - 0.5 + (wanted - sum) / it.max(f64::MIN_POSITIVE);
        }
        sum += it;
    }
    (mass.len() - 1) as f64
}

/// Nodes and weights of the Gauss-Legendre rule on (-1, 1), by Newton's steps on the Legendre polynomial.
pub(super) fn gauss_legendre(count: usize) -> (Vec<f64>, Vec<f64>) {
    let n = count as f64;
    let node = |index: usize| {
        let mut x = (std::f64::consts::PI * (index as f64 + 0.75) / (n + 0.5)).cos();
        let mut slope = 1.0;
        for _ in 0..100 {
            let (mut before, mut now) = (1.0, x);
            for j in 2..=count {
                let j = j as f64;
                (before, now) = (now, ((2.0 * j - 1.0) * x * now - (j - 1.0) * before) / j);
            }
            slope = n * (x * now - before) / (x * x - 1.0);
            let change = now / slope;
            x -= change;
            if change.abs() < 1e-15 {
                break;
            }
        }
        (-x, 2.0 / ((1.0 - x * x) * slope * slope))
    };
    (0..count).map(node).unzip()
}

#[cfg(test)]
mod tests {
    use super::{Share, SinhGrid, ends, fraction, gauss_legendre, log_marginals};
    use crate::pooling::posterior::{Fineness, PriorScales};

    /// By Simpson's rule with steps of a thousandth around the top.
    fn plainly(share: Share, s: f64, m: f64) -> f64 {
        let height = |z: f64| {
            let x = m + s * z;
            let softplus = x.max(0.0) + (-x.abs()).exp().ln_1p();
            share.correct * x - share.n * softplus - 0.5 * z * z
        };
        let (steps, step) = (60_000, 1e-3);
        let heights: Vec<f64> = (0..=steps).map(|j| height(-30.0 + step * f64::from(j))).collect();
        let top = heights.iter().copied().fold(f64::NEG_INFINITY, f64::max);
        let weight = |j: usize| if j == 0 || j == steps as usize { 1.0 } else { 2.0 + 2.0 * (j % 2) as f64 };
        let sum: f64 = heights.iter().enumerate().map(|(j, height)| weight(j) * (height - top).exp()).sum();
        top + (sum * step / 3.0).ln() - 0.5 * std::f64::consts::TAU.ln()
    }

    #[test]
    fn marginal_likelihoods_equal_a_plain_integral() {
        let means = [-9.0, -2.5, -0.3, 0.0, 0.7, 2.0, 4.0, 8.0, 11.0];
        for (correct, n) in [(0.0, 30.0), (30.0, 30.0), (3.0, 8.0), (41.0, 47.0), (900.0, 1_000.0), (1.0, 1.0)] {
            let share = Share { correct, n };
            for s in [0.0, 0.05, 0.4, 1.0, 2.5, 6.0] {
                // The plain integral looks no further than thirty standard deviations.
                let means: Vec<f64> =
                    means.into_iter().filter(|m| s == 0.0 || (share.logit() - m).abs() < 25.0 * s).collect();
                for (mean, found) in means.iter().zip(log_marginals(share, s, &means, &Fineness::FINE)) {
                    let plain = plainly(share, s, *mean);
                    assert!((found - plain).abs() < 2e-4, "{correct} of {n}, {s} {mean}: {found} {plain}");
                }
                for (mean, found) in means.iter().zip(log_marginals(share, s, &means, &Fineness::STANDARD)) {
                    let plain = plainly(share, s, *mean);
                    assert!((found - plain).abs() < 0.03, "{correct} of {n}, {s} {mean}: {found} {plain}");
                }
            }
        }
    }

    #[test]
    fn legendre_rules_are_exact_for_the_powers_they_promise() {
        for count in [2, 5, 10, 20] {
            let (nodes, weights) = gauss_legendre(count);
            for power in 0..2 * count as i32 {
                let found: f64 = nodes.iter().zip(&weights).map(|(x, w)| w * x.powi(power)).sum();
                let expected = if power % 2 == 0 { 2.0 / f64::from(power + 1) } else { 0.0 };
                assert!((found - expected).abs() < 1e-13, "{count} nodes, power {power}: {found}");
            }
        }
    }

    #[test]
    fn a_grid_finds_its_own_points_and_a_mass_its_ends() {
        let grid = SinhGrid::new(1.0, 0.4, [-9.0, 12.0], 25);
        for (index, x) in grid.points.iter().enumerate() {
            assert!((grid.place(*x) - index as f64).abs() < 1e-9);
        }
        let length: f64 = (0..25).map(|index| grid.cell(index)).sum();
        let halves = 0.5 * (grid.cell(0) + grid.cell(24));
        assert!((length - halves - 21.0).abs() < 0.4, "{length} {halves}");
        assert_eq!(ends(&[0.0, 1e-9, 0.5, 1.0, 1e-3, 0.0], 1e-4), [1.0, 5.0]);
        assert!((fraction(&[1.0, 2.0, 1.0], 0.5) - 1.0).abs() < 1e-12);
        assert!(PriorScales::default().others().map(PriorScales::spread) == [0.75, 3.0]);
    }
}
