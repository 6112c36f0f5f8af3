//! Both arms together: the posterior mass of every pair of means, integrated over the spreads and their correlation; of one pool, or of levels that have both in
//! common.

use std::ops::Range;

use fearless_simd::prelude::*;
use fearless_simd::{Level, Simd, dispatch};

use super::Fineness;
use super::arm::{ArmGrid, SinhGrid, log_marginals};
use crate::pooling::lanes::{Lanes, WIDTH, exp};

/// The studies of one arm that also report the other, and those that do not.
pub(super) struct Reporting {
    /// Places in the arms of studies that report both.
    pub both: Vec<[usize; 2]>,
    /// Places in each arm of studies that report it alone.
    pub alone: [Vec<usize>; 2],
}

/// The posterior mass of the pairs of means, and the posterior means of what was integrated over.
pub(super) struct Joint {
    /// By the first arm's mean, then the second's.
    pub mass: Vec<Vec<f64>>,
    /// Of each arm, by its spread, then its mean.
    pub by_spread: [Vec<Vec<f64>>; 2],
    pub correlation: f64,
    /// Posterior mean of the covariance between studies, `ρ τ1 τ2`.
    pub between: f64,
}

/// Studies with two means of their own.
#[derive(Clone, Copy)]
pub(super) struct Own<'a> {
    pub arms: [&'a ArmGrid; 2],
    pub reporting: &'a Reporting,
}

impl Own<'_> {
    /// Means of the second arm in a row, with what fills it up.
    fn width(&self) -> usize {
        self.arms[1].means.points.len().next_multiple_of(BLOCK)
    }
}

/// A pair of spreads that is worth looking at, with its prior weight.
struct Pair {
    at: [usize; 2],
    weight: f64,
}

/// Where the masses stand that are looked at.
struct At {
    correlation: f64,
    /// Positions of the two spreads.
    spreads: [usize; 2],
    weight: f64,
}

/// Goes through spreads and correlations, which are common to all of `levels`, with the mass of the pairs of means of each; what a visit answers is how much
/// it weighed.
///
/// A mass is the integral over the common part `u` of the two effects: `b1 = τ1 (√|ρ| u + √(1-|ρ|) e1)`, `b2 = ±τ2 (√|ρ| u + √(1-|ρ|) e2)`, with `e1` and
/// `e2` already integrated in each arm's marginal likelihood, a table of which is read at `mean + τ √|ρ| u`.
fn each(levels: &[Own<'_>], fineness: &Fineness, mut visit: impl FnMut(&At, &[Vec<f64>]) -> f64) {
    let pairs = pairs(levels, fineness);
    // What studies of one arm alone say depends on no correlation.
    let alone: Vec<[Vec<Vec<f64>>; 2]> =
        levels.iter().map(|own| [0, 1].map(|side| one_armed(own.arms[side], &own.reporting.alone[side]))).collect();
    let used = [0, 1].map(|side| {
        let mut used: Vec<usize> = pairs.iter().map(|pair| pair.at[side]).collect();
        used.sort_unstable();
        used.dedup();
        used
    });
    let empty = || levels.iter().map(|own| vec![0.0; own.arms[0].means.points.len() * own.width()]).collect();
    let [mut plus, mut minus]: [Vec<Vec<f64>>; 2] = [empty(), empty()];
    let (mut top, mut before): (f64, f64) = (0.0, 0.0);
    let mut z = 0.0;
    while z <= fineness.correlation_reach {
        let size = z.tanh();
        // The prior, and the length of the cell: dρ = (1 - ρ²) dz.
        let weight = (1.0 - size * size).powi(2);
        let tables: Vec<(usize, [Tables; 2])> = levels
            .iter()
            .map(|own| {
                let common = Common::new(own.arms, &used, size, fineness);
                let of =
                    |side: usize| Tables::of(own.arms[side], own.reporting, side, &used[side], size, &common, fineness);
                (common.count(), [of(0), of(1)])
            })
            .collect();
        let mut here = [0.0; 2];
        for pair in &pairs {
            for (index, (own, (nodes, tables))) in levels.iter().zip(&tables).enumerate() {
                let width = own.width();
                let (plus, minus) = (&mut plus[index], &mut minus[index]);
                let [first, second] = [0, 1].map(|side| &alone[index][side][pair.at[side]]);
                for (a, row) in plus.chunks_mut(width).enumerate() {
                    row.iter_mut().zip(second).for_each(|(cell, b)| *cell = first[a] * b);
                }
                minus.copy_from_slice(plus);
                let [first, second] = [0, 1].map(|side| &tables[side].of[pair.at[side]]);
                multiply(plus, minus, first, second, *nodes, width);
            }
            for (sign, masses) in [&plus, &minus].into_iter().enumerate().take(if z == 0.0 { 1 } else { 2 }) {
                let correlation = if sign == 1 { -size } else { size };
                let at = At { correlation, spreads: pair.at, weight: weight * pair.weight };
                here[sign] += visit(&at, masses);
            }
        }
        let most = here[0].max(here[1]);
        top = top.max(most);
        // The next ones weigh as much less again, at least: they need the most nodes and are looked at only where they count.
        let next = if before > 0.0 { most * (most / before).min(1.0) } else { most };
        if next < fineness.correlation_ends * top {
            break;
        }
        before = most;
        z += fineness.correlation_step;
    }
}

/// The posterior of one pool.
pub(super) fn integrate(own: Own<'_>, fineness: &Fineness) -> Joint {
    let arms = own.arms;
    let counts = arms.map(|arm| arm.means.points.len());
    let mut found = Joint {
        mass: vec![vec![0.0; counts[1]]; counts[0]],
        by_spread: [0, 1].map(|side| vec![vec![0.0; counts[side]]; arms[side].spreads.len()]),
        correlation: 0.0,
        between: 0.0,
    };
    let mut columns = vec![0.0; counts[1]];
    let mut total: f64 = 0.0;
    each(&[own], fineness, |At { correlation, spreads, weight }, masses| {
        let mut sum = 0.0;
        let [of_first, of_second] = &mut found.by_spread;
        let (of_first, of_second) = (&mut of_first[spreads[0]], &mut of_second[spreads[1]]);
        columns.fill(0.0);
        for ((row, of), of_first) in found.mass.iter_mut().zip(masses[0].chunks(own.width())).zip(of_first) {
            let mut of_row = 0.0;
            for ((cell, column), it) in row.iter_mut().zip(&mut columns).zip(of) {
                *cell += weight * it;
                *column += it;
                of_row += it;
            }
            *of_first += weight * of_row;
            sum += of_row;
        }
        of_second.iter_mut().zip(&columns).for_each(|(cell, column)| *cell += weight * column);
        let sum = weight * sum;
        total += sum;
        found.correlation += correlation * sum;
        found.between += correlation * sum * arms[0].spreads[spreads[0]] * arms[1].spreads[spreads[1]];
        sum
    });
    found.correlation /= total;
    found.between /= total;
    found
}

/// The posterior of levels with common spreads and a common correlation.
pub(super) struct Together {
    /// Of each level, by its first mean, then its second.
    pub masses: Vec<Vec<Vec<f64>>>,
    /// Of each arm, for each further level: by the first level's mean, then that level's.
    pub crosses: [Vec<Vec<Vec<f64>>>; 2],
}

impl Together {
    pub fn integrate(levels: &[Own<'_>], fineness: &Fineness) -> Self {
        let counts = |own: &Own<'_>| own.arms.map(|arm| arm.means.points.len());
        let empty = |rows: usize, columns: usize| vec![vec![0.0; columns]; rows];
        let mut found = Self {
            masses: levels.iter().map(|own| empty(counts(own)[0], counts(own)[1])).collect(),
            crosses: [0, 1].map(|side| {
                let first = counts(&levels[0])[side];
                levels[1..].iter().map(|own| empty(first, counts(own)[side])).collect()
            }),
        };
        each(levels, fineness, |At { weight, .. }, masses| {
            // The mass of each mean of each level; given spreads and correlation they are independent of each other.
            let single: Vec<[Vec<f64>; 2]> = levels
                .iter()
                .zip(masses)
                .map(|(own, mass)| {
                    let [rows, columns] = counts(own);
                    let mut single = [vec![0.0; rows], vec![0.0; columns]];
                    for (a, row) in mass.chunks(own.width()).enumerate() {
                        for (b, it) in row.iter().take(columns).enumerate() {
                            single[0][a] += it;
                            single[1][b] += it;
                        }
                    }
                    single
                })
                .collect();
            let totals: Vec<f64> = single.iter().map(|it| it[0].iter().sum()).collect();
            let whole = weight * totals.iter().product::<f64>();
            if whole <= 0.0 {
                return 0.0;
            }
            for (index, (own, mass)) in levels.iter().zip(masses).enumerate() {
                let scale = whole / totals[index];
                for (row, of) in found.masses[index].iter_mut().zip(mass.chunks(own.width())) {
                    row.iter_mut().zip(of).for_each(|(cell, it)| *cell += scale * it);
                }
            }
            for (side, crosses) in found.crosses.iter_mut().enumerate() {
                for (cross, other) in crosses.iter_mut().zip(1..) {
                    let scale = whole / (totals[0] * totals[other]);
                    for (row, first) in cross.iter_mut().zip(&single[0][side]) {
                        row.iter_mut().zip(&single[other][side]).for_each(|(cell, it)| *cell += scale * first * it);
                    }
                }
            }
            whole
        });
        found
    }
}

/// Pairs of spreads, without those that weigh next to nothing when the arms do not hang together.
fn pairs(levels: &[Own<'_>], fineness: &Fineness) -> Vec<Pair> {
    let arms = levels[0].arms;
    let mass = [0, 1].map(|side| {
        let logs: Vec<f64> = (0..arms[side].spreads.len())
            .map(|t| {
                let of_all = levels.iter().map(|own| own.arms[side].at_spread(t).iter().sum::<f64>().ln());
                arms[side].spread_weights[t].ln() + of_all.sum::<f64>()
            })
            .collect();
        let top = logs.iter().copied().fold(f64::NEG_INFINITY, f64::max);
        logs.into_iter().map(|log| (log - top).exp()).collect::<Vec<f64>>()
    });
    let mut pairs = Vec::new();
    for (i, first) in mass[0].iter().enumerate() {
        for (j, second) in mass[1].iter().enumerate() {
            if first * second > fineness.pair_ends {
                pairs.push(Pair { at: [i, j], weight: arms[0].spread_weights[i] * arms[1].spread_weights[j] });
            }
        }
    }
    pairs
}

/// By spread and mean: prior and what studies of this arm alone say.
fn one_armed(arm: &ArmGrid, alone: &[usize]) -> Vec<Vec<f64>> {
    let of = |of_spread: &Vec<Vec<f64>>| {
        (0..arm.means.points.len())
            .map(|a| (arm.log_prior[a] + alone.iter().map(|study| of_spread[*study][a]).sum::<f64>()).exp())
            .collect()
    };
    arm.logs.iter().map(of).collect()
}

/// Nodes of the common part from 0 on, with the normal density times the step: half of it for those that stand for two.
struct Common {
    nodes: Vec<f64>,
    weights: Vec<f64>,
}

impl Common {
    /// As fine as the two marginal likelihoods and the normal density together need it.
    fn new(arms: [&ArmGrid; 2], used: &[Vec<usize>; 2], size: f64, fineness: &Fineness) -> Self {
        if size == 0.0 {
            return Self { nodes: vec![0.0], weights: vec![1.0] };
        }
        let sharpness = |side: usize| {
            let arm = arms[side];
            let of = |spread: f64| spread * spread * size / (spread * spread * (1.0 - size) + arm.narrowest);
            used[side].iter().map(|t| of(arm.spreads[*t])).fold(0.0, f64::max)
        };
        let step = fineness.common_step / (1.0 + sharpness(0) + sharpness(1)).sqrt();
        let nodes: Vec<f64> = (0..=(fineness.common_reach / step).ceil() as usize).map(|j| step * j as f64).collect();
        let density = |u: &f64| step * (-0.5 * u * u).exp() / std::f64::consts::TAU.sqrt();
        let weights = nodes.iter().map(|u| if *u == 0.0 { density(u) } else { 0.5 * density(u) }).collect();
        Self { nodes, weights }
    }

    fn count(&self) -> usize {
        self.nodes.len()
    }
}

/// By spread that is used and study with both arms: what the marginal likelihood is at a mean and a node and its opposite together, and then how
/// much they differ. `Σ g1(u) g2(±u)` over both is half of the product of the sums plus or minus half of that of the differences: both signs of the correlation
/// for the price of one. The first arm's table is by mean and node, the second's by node and mean, so that their product runs along rows.
struct Tables {
    /// Of each spread; empty for one that is not used.
    of: Vec<Vec<Vec<f64>>>,
}

impl Tables {
    fn of(
        arm: &ArmGrid,
        reporting: &Reporting,
        side: usize,
        used: &[usize],
        size: f64,
        common: &Common,
        fineness: &Fineness,
    ) -> Self {
        let mut of = vec![Vec::new(); arm.spreads.len()];
        let (points, nodes) = (&arm.means.points, common.count());
        let width = points.len().next_multiple_of(BLOCK);
        for t in used {
            let spread = arm.spreads[*t];
            let shift = spread * size.sqrt();
            let reach = shift * common.nodes[nodes - 1];
            let (low, high) = (points[0] - reach, points[points.len() - 1] + reach);
            let grid = SinhGrid::new(arm.means.centre, arm.means.scale, [low, high], fineness.table);
            let scales = Reading::scales(&grid);
            let scales = &scales;
            // By node, then mean, above and below.
            let mut at = Vec::with_capacity(2 * nodes * points.len());
            for shift in common.nodes.iter().flat_map(|u| [shift * u, -shift * u]) {
                // They rise, and so do the cells in which they lie: none is looked for anew.
                let mut cell = 0;
                for x in points.iter().map(|m| m + shift) {
                    while grid.points.get(cell + 1).is_some_and(|next| *next <= x) {
                        cell += 1;
                    }
                    at.push(Reading::at(&grid, scales, cell, x));
                }
            }
            for places in &reporting.both {
                let place = places[side];
                let mut values: Vec<f64>;
                if size == 0.0 {
                    values = arm.logs[*t][place].iter().chain(&arm.logs[*t][place]).copied().collect();
                } else {
                    let own = spread * (1.0 - size).sqrt();
                    let logs = log_marginals(arm.shares[place], own, &grid.points, fineness);
                    values = at.iter().map(|it| it.of(&logs) - arm.offsets[place]).collect();
                }
                exponentials(&mut values);
                let mut table = vec![0.0; 2 * nodes * width];
                for (j, both) in values.chunks(2 * points.len()).enumerate() {
                    let (above, below) = both.split_at(points.len());
                    for (index, (above, below)) in above.iter().zip(below).enumerate() {
                        let (sum, difference) = if j == 0 { (*above, 0.0) } else { (above + below, above - below) };
                        if side == 0 {
                            table[index * 2 * nodes + j] = common.weights[j] * sum;
                            table[index * 2 * nodes + nodes + j] = common.weights[j] * difference;
                        } else {
                            table[j * width + index] = sum;
                            table[(nodes + j) * width + index] = difference;
                        }
                    }
                }
                of[*t].push(table);
            }
        }
        Self { of }
    }
}

/// Where a table is read: a cubic through the four points around.
struct Reading {
    first: usize,
    weights: [f64; 4],
}

impl Reading {
    /// What the weights of each four points are divided by, once for all that is read between them.
    fn scales(grid: &SinhGrid) -> Vec<[f64; 4]> {
        let scale = |points: &[f64], j: usize| {
            (0..4).filter(|k| *k != j).map(|k| points[j] - points[k]).product::<f64>().recip()
        };
        grid.points.windows(4).map(|points| std::array::from_fn(|j| scale(points, j))).collect()
    }

    /// At `x`, which lies in this cell.
    fn at(grid: &SinhGrid, scales: &[[f64; 4]], cell: usize, x: f64) -> Self {
        let first = cell.saturating_sub(1).min(grid.points.len() - 4);
        let [a, b, c, d]: [f64; 4] = std::array::from_fn(|k| x - grid.points[first + k]);
        let [p, q, r, s] = scales[first];
        let (low, high) = (a * b, c * d);
        Self { first, weights: [b * high * p, a * high * q, low * d * r, low * c * s] }
    }

    fn of(&self, values: &[f64]) -> f64 {
        let values = &values[self.first..self.first + 4];
        self.weights.iter().zip(values).map(|(weight, value)| weight * value).sum()
    }
}

/// Columns that are multiplied side by side.
const BLOCK: usize = 8;
/// Rows that are multiplied side by side.
const ROWS: usize = 4;

/// Multiplies the mass of every pair of means by every study's integral over the common part, for a positive and for a negative correlation.
fn multiply(plus: &mut [f64], minus: &mut [f64], first: &[Vec<f64>], second: &[Vec<f64>], nodes: usize, width: usize) {
    dispatch!(Level::new(), simd => multiply_simd(simd, plus, minus, first, second, nodes, width));
}

/// Of four rows and eight columns the sums over these nodes. A function and no closure: what is not inlined is compiled without the processor's wide
/// instructions.
#[inline(always)]
fn products(
    rows: &[&[f64]; ROWS],
    right: &[f64],
    nodes: Range<usize>,
    width: usize,
    column: usize,
) -> [[f64; BLOCK]; ROWS] {
    let mut found = [[0.0; BLOCK]; ROWS];
    for j in nodes {
        let right: &[f64; BLOCK] = right[j * width + column..].first_chunk().unwrap_or(&[0.0; BLOCK]);
        for (found, row) in found.iter_mut().zip(rows) {
            let left = row[j];
            for (found, right) in found.iter_mut().zip(right) {
                *found += left * right;
            }
        }
    }
    found
}

#[inline(always)]
fn multiply_simd<S: Simd>(
    simd: S,
    plus: &mut [f64],
    minus: &mut [f64],
    first: &[Vec<f64>],
    second: &[Vec<f64>],
    nodes: usize,
    width: usize,
) {
    simd.vectorize(
        #[inline(always)]
        || {
            for (left, right) in first.iter().zip(second) {
                let means = plus.len() / width;
                for row in (0..means).step_by(ROWS) {
                    for column in (0..width).step_by(BLOCK) {
                        let of = |from: usize| from..from + nodes;
                        let rows: [&[f64]; ROWS] = [0, 1, 2, 3].map(|r| &left[(row + r).min(means - 1) * 2 * nodes..]);
                        let sums = products(&rows, right, of(0), width, column);
                        let differences = products(&rows, right, of(nodes), width, column);
                        for r in 0..ROWS.min(means - row) {
                            let at = (row + r) * width + column;
                            for c in 0..BLOCK {
                                let (sum, difference) = (sums[r][c], differences[r][c]);
                                plus[at + c] *= sum + difference;
                                // Rounding may leave less than nothing.
                                minus[at + c] *= (sum - difference).max(0.0);
                            }
                        }
                    }
                }
            }
        },
    );
}

/// Exponentials of all of them.
fn exponentials(values: &mut [f64]) {
    dispatch!(Level::new(), simd => exponentials_simd(simd, values));
}

#[inline(always)]
fn exponentials_simd<S: Simd>(simd: S, values: &mut [f64]) {
    simd.vectorize(
        #[inline(always)]
        || {
            for part in values.chunks_mut(WIDTH) {
                let at: [f64; WIDTH] = std::array::from_fn(|lane| part.get(lane).copied().unwrap_or_default());
                let found = exp(Lanes::from_slice(simd, &at));
                part.iter_mut().enumerate().for_each(|(lane, value)| *value = found[lane]);
            }
        },
    );
}
