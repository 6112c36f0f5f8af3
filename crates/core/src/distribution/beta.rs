//! The beta distribution over the whole range of shapes that counts of people lead to.
//!
//! Why not the library's: its continued fraction stops after a fixed number of terms, far too few for shapes above a million, and a
//! quantile that refines it can then go on for ever. Here the terms grow with the shapes, and the search is bracketed.

use std::f64::consts::TAU;

use statrs::function::gamma::ln_gamma;

/// A quantile together with what is left to 1, so that neither loses its digits near an end.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct Quantile {
    /// The quantile `x`.
    pub at: f64,
    /// `1 - x`.
    pub complement: f64,
}

/// Lower-tail quantile of `Beta(a, b)`: the `x` with `I_x(a, b) = p`.
///
/// Newton's method on `ln I` over the logit of `x`, where the distribution function is close to a straight line in its lower tail and
/// both ends keep their digits, inside a bracket that every evaluation narrows; a step that leaves the bracket is replaced by its middle.
/// So it ends after at most [`MAX_STEPS`] evaluations whatever is asked; it has met 12 at most.
///
/// A shape `a` of 0 puts all mass at 0, a shape `b` of 0 at 1; `p` at or below 0 answers 0, at or above 1 answers 1.
/// Accuracy: relative 1e-12 in both numbers for shapes up to 10^9.
pub(crate) fn beta_quantile(p: f64, a: f64, b: f64) -> Quantile {
    if a <= 0.0 || p <= 0.0 {
        return Quantile { at: 0.0, complement: 1.0 };
    }
    if b <= 0.0 || p >= 1.0 {
        return Quantile { at: 1.0, complement: 0.0 };
    }
    let (mut low, mut high) = (-LOGIT_LIMIT, LOGIT_LIMIT);
    // The mean: never far in the scale of the spread, whatever the shapes.
    let mut logit = (a / b).ln();
    for _ in 0..MAX_STEPS {
        let here = Tails::at(logit, a, b);
        let gap = if p <= 0.5 { (here.lower / p).ln() } else { ((1.0 - p) / here.upper).ln() };
        if gap > 0.0 {
            high = logit
        } else {
            low = logit
        }
        // d ln I / d logit = density x (1 - x) / I, and likewise for the upper tail.
        let slope = here.density / if p <= 0.5 { here.lower } else { here.upper };
        let newton = logit - gap / slope;
        let next = if newton > low && newton < high { newton } else { 0.5 * (low + high) };
        let done = (next - logit).abs() <= 1e-15 * logit.abs().max(1.0);
        logit = next;
        if done {
            break;
        }
    }
    Quantile { at: expit(logit), complement: expit(-logit) }
}

/// Halvings of the widest bracket until its ends are neighbours, were every Newton step refused.
const MAX_STEPS: usize = 80;
/// Beyond this a proportion is no longer a number above zero.
const LOGIT_LIMIT: f64 = 700.0;

fn expit(x: f64) -> f64 {
    if x < 0.0 { x.exp() / (1.0 + x.exp()) } else { 1.0 / (1.0 + (-x).exp()) }
}

/// Both tails at a point, the smaller computed by itself and never as one minus the other.
struct Tails {
    lower: f64,
    upper: f64,
    /// `x^a (1-x)^b / B(a, b)`: the density on the scale of the logit.
    density: f64,
}

impl Tails {
    fn at(logit: f64, a: f64, b: f64) -> Self {
        let (x, y) = (expit(logit), expit(-logit));
        let density = density(x, y, a, b);
        if x < (a + 1.0) / (a + b + 2.0) {
            let lower = (density / continued_fraction(x, y, a, b)).min(1.0);
            Self { lower, upper: 1.0 - lower, density }
        } else {
            let upper = (density / continued_fraction(y, x, b, a)).min(1.0);
            Self { lower: 1.0 - upper, upper, density }
        }
    }
}

/// `x^a y^b / B(a, b)` with `y = 1 - x`, as a binomial probability in saddle-point form (Loader 2000, *Fast and accurate computation
/// of binomial probabilities*): logarithms of gamma functions of shapes near 10^9 would cancel to a few digits.
///
/// With `n = a + b`: `a b / n · C(n, a) x^a y^b = sqrt(a b / (2 pi n)) exp(S(n) - S(a) - S(b) - D(a, n x) - D(b, n y))`.
fn density(x: f64, y: f64, a: f64, b: f64) -> f64 {
    let n = a + b;
    let exponent = stirling_error(n) - stirling_error(a) - stirling_error(b) - deviance(a, n * x) - deviance(b, n * y);
    (a / n * b / TAU).sqrt() * exponent.exp()
}

/// `S(z) = ln Γ(z + 1) - (z + 1/2) ln z + z - ln sqrt(2 pi)`, what Stirling's formula leaves out.
fn stirling_error(z: f64) -> f64 {
    if z < 16.0 {
        return ln_gamma(z + 1.0) - (z + 0.5) * z.ln() + z - 0.5 * TAU.ln();
    }
    let z2 = z * z;
    (1.0 / 12.0 - (1.0 / 360.0 - (1.0 / 1260.0 - (1.0 / 1680.0 - (1.0 / 1188.0) / z2) / z2) / z2) / z2) / z
}

/// `D(v, m) = v ln(v/m) + m - v >= 0`, by its series where `v` and `m` are close and the terms would cancel.
fn deviance(v: f64, m: f64) -> f64 {
    let gap = v - m;
    if gap.abs() >= 0.1 * (v + m) {
        return v * (v / m).ln() - gap;
    }
    // v ln(v/m) = v (ln(1 + r) - ln(1 - r)) with r = (v - m) / (v + m).
    let r = gap / (v + m);
    let r2 = r * r;
    let (mut sum, mut term) = (gap * r, 2.0 * v * r);
    for odd in (3..).step_by(2) {
        term *= r2;
        let next = sum + term / f64::from(odd);
        if next == sum {
            break;
        }
        sum = next;
    }
    sum
}

/// `x^a y^b / B(a, b)` divided by `I_x(a, b)`, for `x` below the mean and `y = 1 - x`: the even part of the continued fraction of the
/// incomplete beta function (DLMF 8.17.22; DiDonato and Morris 1992) by the modified Lentz method. In this form `x` and `y` enter by
/// `a y - b x`, which keeps the digits of whichever is small.
///
/// It needs of the order of `sqrt(max(a, b))` terms; the limit leaves tenfold room and makes it end.
fn continued_fraction(x: f64, y: f64, a: f64, b: f64) -> f64 {
    const TINY: f64 = 1e-300;
    let limit = 200.0 + 10.0 * a.max(b).sqrt();
    let away = |v: f64| if v.abs() < TINY { TINY } else { v };
    let lead = a * y - b * x + 1.0;
    let mut value = away(a * lead / (a + 1.0));
    let (mut c, mut d) = (value, 0.0);
    let mut m = 1.0;
    while m < limit {
        let middle = a + 2.0 * m - 1.0;
        let over = m * (b - m) * x / middle;
        let numerator = (a + m - 1.0) / middle * (a + b + m - 1.0) * x * over;
        let denominator = m + over + (a + m) / (middle + 2.0) * (lead + m * (1.0 + y));
        d = 1.0 / away(denominator + numerator * d);
        c = away(denominator + numerator / c);
        let factor = c * d;
        value *= factor;
        if (factor - 1.0).abs() < 4.0 * f64::EPSILON {
            break;
        }
        m += 1.0;
    }
    value
}

#[cfg(test)]
mod tests {
    use super::beta_quantile;

    #[test]
    fn quantiles_equal_the_reference_up_to_shapes_of_a_thousand_million() {
        let mut rows =
            csv::Reader::from_path(format!("{}/tests/reference/beta.csv", env!("CARGO_MANIFEST_DIR"))).unwrap();
        let mut compared = 0;
        for row in rows.deserialize::<[f64; 5]>() {
            let [p, a, b, x, complement] = row.unwrap();
            let got = beta_quantile(p, a, b);
            for (got, expected) in [(got.at, x), (got.complement, complement)] {
                let error = (got / expected - 1.0).abs();
                assert!(error < 1e-12, "p {p}, shapes {a} and {b}: {got} against {expected}, off by {error:e}");
            }
            compared += 1;
        }
        assert_eq!(compared, 120);
    }
}
