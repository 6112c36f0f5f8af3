//! Where a new study's true values are expected, and the shapes of both distributions in ROC space.
//!
//! A new study's logits are the means plus an effect that is normal given the spreads: each arm's distribution is the mixture of those, over the posterior
//! of mean and spread. Two arms hang together by their correlation, that of the means and of the studies: as normal scores of the two distributions
//! (a normal copula), which is exact where the posterior is normal.

use serde::{Deserialize, Serialize};
use statrs::distribution::{ContinuousCDF, Normal};

use super::Quantiles;
use super::arm::SinhGrid;
use super::quantiles::{Cumulative, EXACT, solve};
use crate::Level;

/// A new study's true values.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Ahead {
    /// Logit of its sensitivity.
    pub logit_sens: Option<Quantiles>,
    /// Logit of its specificity.
    pub logit_spec: Option<Quantiles>,
    /// Natural logarithm of its LR+.
    pub log_lr_pos: Option<Quantiles>,
    /// Natural logarithm of its LR-.
    pub log_lr_neg: Option<Quantiles>,
}

/// The joint distribution of a logit sensitivity and a logit specificity: quantiles of each at the normal scores -4, -3, … 4, and the correlation of
/// their scores. Regions in ROC space are drawn of it.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct JointShape {
    /// Of logit sensitivity.
    pub sens: [f64; 9],
    /// Of logit specificity.
    pub spec: [f64; 9],
    /// Correlation of the two.
    pub correlation: f64,
}

impl JointShape {
    /// Normal logits with these means and this covariance; `None` where that is no covariance.
    pub(crate) fn normal(means: [f64; 2], [[a, b], [_, d]]: [[f64; 2]; 2]) -> Option<Self> {
        let sd = [a.sqrt(), d.sqrt()];
        let at = |arm: usize| std::array::from_fn(|j| means[arm] + sd[arm] * (j as f64 - 4.0));
        let correlation = (b / (sd[0] * sd[1])).clamp(-0.999, 0.999);
        (sd[0] > 0.0 && sd[1] > 0.0 && !correlation.is_nan()).then(|| Self { sens: at(0), spec: at(1), correlation })
    }

    /// The normal score of a logit specificity, by straight lines between the scores known.
    fn score(&self, logit: f64) -> f64 {
        let known = &self.spec;
        let after = known.partition_point(|it| *it < logit).clamp(1, 8);
        let (low, high) = (known[after - 1], known[after]);
        after as f64 - 5.0 + (logit - low) / (high - low).max(f64::MIN_POSITIVE)
    }

    /// Equal-tailed bounds of something that rises with both, known to lie between `ends`: `below` answers up to which logit specificity it is below
    /// a value, given a logit sensitivity. To a thousandth of the ends' distance.
    pub(crate) fn bounds(&self, level: Level, ends: [f64; 2], below: impl Fn(f64, f64) -> f64) -> [f64; 2] {
        const STEP: f64 = 0.5;
        let normal = Normal::standard();
        let own = (1.0 - self.correlation * self.correlation).sqrt();
        let nodes: [(f64, f64, f64); 17] = std::array::from_fn(|j| {
            let score = STEP * (j as f64 - 8.0);
            (score, self.at([score, 0.0])[0], (-0.5 * score * score).exp())
        });
        let total: f64 = nodes.iter().map(|(.., weight)| weight).sum();
        let distribution = |value: f64| {
            let of = |(score, logit, weight): &(f64, f64, f64)| {
                weight * normal.cdf((self.score(below(value, *logit)) - self.correlation * score) / own)
            };
            nodes.iter().map(of).sum::<f64>() / total
        };
        let tail = level.tail();
        solve([tail, 1.0 - tail], ends, 1e-3 * (ends[1] - ends[0]), distribution)
    }

    /// The two logits at these normal scores, by a cubic through the four scores around.
    pub(crate) fn at(&self, scores: [f64; 2]) -> [f64; 2] {
        let of = |quantiles: &[f64; 9], score: f64| {
            let place = (score + 4.0).clamp(0.0, 8.0);
            let first = (place as usize).saturating_sub(1).min(5);
            let weight = |j: usize| {
                let others = (0..4).filter(|k| *k != j);
                others.map(|k| (place - (first + k) as f64) / (j as f64 - k as f64)).product::<f64>()
            };
            (0..4).map(|j| weight(j) * quantiles[first + j]).sum()
        };
        [of(&self.sens, scores[0]), of(&self.spec, scores[1])]
    }
}

/// A distribution as a table of values and their normal scores, both rising.
pub(super) struct Scores(Vec<[f64; 2]>);

/// Points of a table.
const POINTS: usize = 40;
/// Scores beyond which a table says nothing: a chance of a hundred thousandth.
const FAR: f64 = 4.3;

impl Scores {
    fn of(grid: &SinhGrid, distribution: impl Fn(f64) -> f64) -> Self {
        let normal = Normal::standard();
        let mut table: Vec<[f64; 2]> = Vec::with_capacity(POINTS);
        for x in &grid.points {
            let share = distribution(*x);
            if share > 0.0 && share < 1.0 {
                let score = normal.inverse_cdf(share);
                if score.abs() < FAR && table.last().is_none_or(|[_, last]| score > last + 1e-9) {
                    table.push([*x, score]);
                }
            }
        }
        Self(table)
    }

    /// Of a mean, from its mass.
    pub fn of_mean(mass: &[f64], grid: &SinhGrid) -> Self {
        let cumulative = Cumulative::of(mass);
        let total = cumulative.total();
        let ends = [grid.points[0], grid.points[grid.points.len() - 1]];
        let points = SinhGrid::new(grid.centre, grid.scale, ends, POINTS);
        Self::of(&points, |x| cumulative.up_to(grid.place(x)) / total)
    }

    /// Of a new study, from the mass by spread and mean, gathered in cells. Gathering widens a distribution by a twelfth of the cell's width squared (Sheppard),
    /// which the normal gives back, as far as it is not narrower itself.
    pub fn of_new_study(by_spread: &[Vec<f64>], spreads: &[f64], grid: &SinhGrid) -> Self {
        const PARTS: usize = 3;
        let normal = Normal::standard();
        let whole: f64 = by_spread.iter().flatten().sum();
        let mut cells: Vec<[f64; 3]> = Vec::new();
        let mut widest: f64 = 0.0;
        for (row, spread) in by_spread.iter().zip(spreads) {
            if row.iter().sum::<f64>() < 1e-5 * whole {
                continue;
            }
            widest = widest.max(*spread);
            let cumulative = Cumulative::of(row);
            let mut before = [0.0, grid.points[0]];
            for part in 1..=PARTS * (row.len() - 1) {
                let place = part as f64 / PARTS as f64;
                let here = [cumulative.up_to(place), grid.value(place)];
                let width = here[1] - before[1];
                let weight = (here[0] - before[0]).max(0.0);
                let cell = width * width / 12.0;
                cells.push([weight, 0.5 * (here[1] + before[1]), (spread * spread - cell).max(cell).sqrt()]);
                before = here;
            }
        }
        let total: f64 = cells.iter().map(|[weight, ..]| weight).sum();
        cells.retain(|[weight, ..]| *weight > 1e-7 * total);
        let reach = 4.5 * widest;
        let ends = [grid.points[0] - reach, grid.points[grid.points.len() - 1] + reach];
        let points = SinhGrid::new(grid.centre, grid.scale, ends, POINTS);
        let share = |x: f64| cells.iter().map(|[weight, mean, sd]| weight * normal.cdf((x - mean) / sd)).sum::<f64>();
        Self::of(&points, |x| share(x) / total)
    }

    /// The value of a score, or the score of a value: a cubic through the four points around, a straight line beyond the ends.
    fn read(&self, from: usize, x: f64) -> f64 {
        let (table, to) = (&self.0, 1 - from);
        let count = table.len();
        if !x.is_finite() || count < 4 {
            return x;
        }
        let line = |a: [f64; 2], b: [f64; 2]| a[to] + (x - a[from]) * (b[to] - a[to]) / (b[from] - a[from]);
        if x <= table[0][from] {
            return line(table[0], table[1]);
        }
        if x >= table[count - 1][from] {
            return line(table[count - 2], table[count - 1]);
        }
        let first = table.partition_point(|point| point[from] < x).saturating_sub(2).min(count - 4);
        let four = &table[first..first + 4];
        let weight = |j: usize| {
            let others = (0..4).filter(|k| *k != j);
            others.map(|k| (x - four[k][from]) / (four[j][from] - four[k][from])).product::<f64>()
        };
        (0..4).map(|j| weight(j) * four[j][to]).sum()
    }

    fn value(&self, score: f64) -> f64 {
        self.read(1, score)
    }

    fn score(&self, value: f64) -> f64 {
        self.read(0, value)
    }

    /// Median and bounds.
    pub fn quantiles(&self, level: Level) -> Quantiles {
        let z = level.z();
        Quantiles { median: self.value(0.0), lower: self.value(-z), upper: self.value(z) }
    }
}

/// Two distributions that hang together.
pub(super) struct Pair {
    pub scores: [Scores; 2],
    pub correlation: f64,
}

impl Pair {
    /// What regions are drawn of.
    pub fn shape(&self) -> JointShape {
        let [sens, spec] = [0, 1].map(|side| std::array::from_fn(|j| self.scores[side].value(j as f64 - 4.0)));
        JointShape { sens, spec, correlation: self.correlation }
    }

    /// Quantiles of something that rises with both: `below` answers up to which value of the other arm it is below a value, given that of `outer`.
    pub fn of_both<const N: usize>(
        &self,
        outer: usize,
        shares: [f64; N],
        whole: impl Fn(f64, f64) -> f64,
        below: impl Fn(f64, f64) -> f64,
    ) -> [f64; N] {
        const STEP: f64 = 0.25;
        let normal = Normal::standard();
        let inner = &self.scores[1 - outer];
        let own = (1.0 - self.correlation * self.correlation).max(1e-9).sqrt();
        let nodes: Vec<(f64, f64, f64)> = (-18..=18_i32)
            .map(|j| {
                let score = STEP * f64::from(j);
                (score, self.scores[outer].value(score), STEP * (-0.5 * score * score).exp())
            })
            .collect();
        let total: f64 = nodes.iter().map(|(.., weight)| weight).sum();
        let distribution = |value: f64| {
            let of = |(score, x, weight): &(f64, f64, f64)| {
                weight * normal.cdf((inner.score(below(value, *x)) - self.correlation * score) / own)
            };
            nodes.iter().map(of).sum::<f64>() / total
        };
        let [low, high] = [-6.0, 6.0].map(|score| whole(self.scores[outer].value(score), inner.value(score)));
        solve(shares, [low, high], EXACT, distribution)
    }
}

#[cfg(test)]
mod tests {
    use super::{Pair, Scores, SinhGrid};
    use crate::Level;

    /// A normal mean with this standard deviation and one spread.
    fn normal_arm(centre: f64, sd: f64, spread: f64) -> (Scores, Scores) {
        let grid = SinhGrid::new(centre, 1.5 * sd, [centre - 5.0 * sd, centre + 5.0 * sd], 16);
        let density = |(a, x): (usize, &f64)| (-0.5 * ((x - centre) / sd).powi(2)).exp() * grid.cell(a);
        let mass: Vec<f64> = grid.points.iter().enumerate().map(density).collect();
        (Scores::of_mean(&mass, &grid), Scores::of_new_study(&[mass], &[spread], &grid))
    }

    #[test]
    fn of_a_normal_posterior_a_new_study_is_normal_with_both_variances() {
        let z = Level::default().z();
        for spread in [0.0, 0.1, 0.9, 4.0] {
            let (mean, ahead) = normal_arm(1.2, 0.4, spread);
            let sd = f64::hypot(0.4, spread);
            for (scores, sd) in [(mean, 0.4), (ahead, sd)] {
                let found = scores.quantiles(Level::default());
                assert!((found.median - 1.2).abs() < 2e-3 * sd, "{spread}: {found:?}");
                assert!((found.upper - 1.2 - z * sd).abs() < 5e-3 * sd, "{spread}: {found:?} {sd}");
            }
        }
    }

    #[test]
    fn the_sum_of_both_has_the_variance_of_a_sum() {
        let scores = [normal_arm(0.5, 0.3, 0.8).1, normal_arm(-1.0, 0.2, 0.5).1];
        let (sd, correlation) = ([f64::hypot(0.3, 0.8), f64::hypot(0.2, 0.5)], -0.7);
        let pair = Pair { scores, correlation };
        let total = (sd[0] * sd[0] + sd[1] * sd[1] + 2.0 * correlation * sd[0] * sd[1]).sqrt();
        let z = Level::default().z();
        for outer in [0, 1] {
            let [low, middle, high] = pair.of_both(outer, [0.025, 0.5, 0.975], |x, y| x + y, |c, x| c - x);
            for (found, expected) in [(low, -0.5 - z * total), (middle, -0.5), (high, -0.5 + z * total)] {
                assert!((found - expected).abs() < 0.01 * total, "{outer}: {found} {expected}");
            }
        }
        let [sens, spec] = pair.shape().at([1.5, -0.5]);
        assert!((sens - 0.5 - 1.5 * sd[0]).abs() < 0.01 && (spec + 1.0 + 0.5 * sd[1]).abs() < 0.01);
    }
}
