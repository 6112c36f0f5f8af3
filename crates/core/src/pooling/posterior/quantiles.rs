//! Quantiles of a mass on evenly spaced points, and of what is calculated from two.

use super::arm::SinhGrid;

/// A natural cubic spline through a mass on evenly spaced points, with its integral. Lengths are in steps.
pub(super) struct Cumulative {
    values: Vec<f64>,
    curvatures: Vec<f64>,
    /// The integral up to each point.
    sums: Vec<f64>,
}

impl Cumulative {
    pub fn of(values: &[f64]) -> Self {
        let n = values.len();
        // Second derivatives: M[j-1] + 4 M[j] + M[j+1] = 6 (y[j-1] - 2 y[j] + y[j+1]), with none at the ends.
        let mut curvatures = vec![0.0; n];
        let mut above = vec![0.0; n];
        for j in 1..n - 1 {
            let pivot = 4.0 - above[j - 1];
            above[j] = 1.0 / pivot;
            let right = 6.0 * (values[j - 1] - 2.0 * values[j] + values[j + 1]);
            curvatures[j] = (right - curvatures[j - 1]) / pivot;
        }
        for j in (1..n - 1).rev() {
            curvatures[j] -= above[j] * curvatures[j + 1];
        }
        let mut sums = vec![0.0; n];
        for j in 1..n {
            let bend = (curvatures[j - 1] + curvatures[j]) / 24.0;
            sums[j] = sums[j - 1] + 0.5 * (values[j - 1] + values[j]) - bend;
        }
        Self { values: values.to_vec(), curvatures, sums }
    }

    pub fn total(&self) -> f64 {
        self.sums[self.sums.len() - 1]
    }

    /// The integral up to a place in steps from the first point.
    pub fn up_to(&self, place: f64) -> f64 {
        let last = self.values.len() - 1;
        if place <= 0.0 {
            return 0.0;
        }
        if place >= last as f64 {
            return self.total();
        }
        let j = (place as usize).min(last - 1);
        let t = place - j as f64;
        let [y0, y1] = [self.values[j], self.values[j + 1]];
        let [m0, m1] = [self.curvatures[j], self.curvatures[j + 1]];
        // y(t) = (1-t) y0 + t y1 + ((1-t)³ - (1-t)) m0 / 6 + (t³ - t) m1 / 6
        let s = 1.0 - t;
        let line = t * y0 + 0.5 * t * t * (y1 - y0);
        let bend0 = (0.25 * (1.0 - s.powi(4)) - 0.5 * (1.0 - s * s)) * m0;
        let bend1 = (0.25 * t.powi(4) - 0.5 * t * t) * m1;
        self.sums[j] + line + (bend0 + bend1) / 6.0
    }
}

/// Where a function that rises from 0 to 1 between `low` and `high` reaches each share, to about this share of the value.
pub(super) fn solve<const N: usize>(
    shares: [f64; N],
    [low, high]: [f64; 2],
    precision: f64,
    distribution: impl Fn(f64) -> f64,
) -> [f64; N] {
    shares.map(|share| {
        let (mut low, mut high) = (low, high);
        let (mut below, mut above) = (-share, 1.0 - share);
        for round in 0..200 {
            // The secant where it helps, the middle in every third round.
            let secant = low + (high - low) * below / (below - above);
            let at = if round % 3 == 2 || !secant.is_finite() { 0.5 * (low + high) } else { secant };
            let found = distribution(at) - share;
            if found < 0.0 {
                (low, below) = (at, found)
            } else {
                (high, above) = (at, found)
            }
            if high - low < precision * (1.0 + low.abs()) || found.abs() < 1e-3 * precision {
                return at;
            }
        }
        0.5 * (low + high)
    })
}

/// As good as numbers are.
pub(super) const EXACT: f64 = 1e-10;

/// Quantiles of one mean.
pub(super) fn of_mean<const N: usize>(mass: &[f64], grid: &SinhGrid, shares: [f64; N]) -> [f64; N] {
    let cumulative = Cumulative::of(mass);
    let total = cumulative.total();
    let ends = [grid.points[0], grid.points[grid.points.len() - 1]];
    solve(shares, ends, EXACT, |x| cumulative.up_to(grid.place(x)) / total)
}

/// Quantiles of something that rises with the mean of the inner arm: `inner` answers up to which of its means it is below a value, given the
/// other arm's mean. `mass` is by the outer mean, then the inner one.
pub(super) fn of_both<const N: usize>(
    mass: &[Vec<f64>],
    outer: &SinhGrid,
    inner: &SinhGrid,
    ends: [f64; 2],
    shares: [f64; N],
    below: impl Fn(f64, f64) -> f64,
) -> [f64; N] {
    let rows: Vec<Cumulative> = mass.iter().map(|row| Cumulative::of(row)).collect();
    let total = Cumulative::of(&rows.iter().map(Cumulative::total).collect::<Vec<f64>>()).total();
    let distribution = |value: f64| {
        let of = |(row, mean): (&Cumulative, &f64)| row.up_to(inner.place(below(value, *mean)));
        let sums: Vec<f64> = rows.iter().zip(&outer.points).map(of).collect();
        Cumulative::of(&sums).total() / total
    };
    solve(shares, ends, EXACT, distribution)
}

#[cfg(test)]
mod tests {
    use super::super::arm::SinhGrid;
    use super::{Cumulative, of_both, of_mean};
    use crate::Level;

    fn normal(x: f64) -> f64 {
        (-0.5 * x * x).exp()
    }

    #[test]
    fn quantiles_of_a_normal_mass_are_the_normal_ones() {
        let grid = SinhGrid::new(2.0, 1.5, [-4.5, 8.5], 40);
        let mass: Vec<f64> = grid.points.iter().enumerate().map(|(a, x)| normal(x - 2.0) * grid.cell(a)).collect();
        let z = Level::default().z();
        for (found, expected) in of_mean(&mass, &grid, [0.025, 0.5, 0.975]).into_iter().zip([2.0 - z, 2.0, 2.0 + z]) {
            assert!((found - expected).abs() < 1e-4, "{found} {expected}");
        }
        let whole = Cumulative::of(&mass);
        assert_eq!((whole.up_to(-1.0), whole.up_to(1e9)), (0.0, whole.total()));
        assert!((whole.total() - std::f64::consts::TAU.sqrt()).abs() < 1e-4);
    }

    #[test]
    fn the_sum_of_two_correlated_means_has_its_variance() {
        let [outer, inner] = [2.0, 1.0].map(|sd| SinhGrid::new(0.0, 1.5 * sd, [-6.0 * sd, 6.0 * sd], 40));
        let rho: f64 = -0.6;
        let row = |(a, x): (usize, &f64)| {
            let of = |(b, y): (usize, &f64)| {
                let x = x / 2.0;
                normal(x) * normal((y - rho * x) / (1.0 - rho * rho).sqrt()) * outer.cell(a) * inner.cell(b)
            };
            inner.points.iter().enumerate().map(of).collect()
        };
        let mass: Vec<Vec<f64>> = outer.points.iter().enumerate().map(row).collect();
        let sd = (4.0 + 1.0 + 2.0 * rho * 2.0_f64).sqrt();
        let [low, middle, high] = of_both(&mass, &outer, &inner, [-18.0, 18.0], [0.025, 0.5, 0.975], |c, x| c - x);
        let z = Level::default().z() * sd;
        assert!((low + z).abs() < 1e-3 && middle.abs() < 1e-3 && (high - z).abs() < 1e-3, "{low} {middle} {high} {z}");
    }
}
