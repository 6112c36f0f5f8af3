//! Quantiles to full precision, which the library's own inverses do not reach for large shapes or far tails.

mod beta;

use statrs::function::erf::erfc;
use statrs::function::gamma::{gamma_ur, ln_gamma};

pub(crate) use beta::beta_quantile;

/// The value that an F variate with `d1, d2` degrees of freedom (not necessarily whole) exceeds with probability
/// `tail`: with `x` the quantile of `Beta(d2/2, d1/2)` at `tail`, it is `d2 (1 - x) / (d1 x)`.
pub(crate) fn f_upper(tail: f64, d1: f64, d2: f64) -> f64 {
    let x = beta_quantile(tail, d2 / 2.0, d1 / 2.0);
    d2 * x.complement / (d1 * x.at)
}

/// The value that Student's t with `df` degrees of freedom exceeds with probability `tail`, for `tail <= 1/2`:
/// the square root of the F quantile with 1 and `df` degrees at twice the tail.
pub(crate) fn t_upper(tail: f64, df: f64) -> f64 {
    f_upper(2.0 * tail, 1.0, df).max(0.0).sqrt()
}

/// `P(X > x)` for chi-square with `df > 0` degrees of freedom: the regularised upper incomplete gamma function of `df/2` and `x/2`. 1 at and below
/// 0, 0 at infinity.
pub(crate) fn chi_square_upper(x: f64, df: f64) -> f64 {
    if x <= 0.0 {
        1.0
    } else if x.is_infinite() {
        0.0
    } else {
        gamma_ur(0.5 * df, 0.5 * x)
    }
}

/// Standard normal distribution function.
pub(crate) fn normal_cdf(z: f64) -> f64 {
    0.5 * erfc(-z / std::f64::consts::SQRT_2)
}

/// Quantile of the noncentral t distribution with `df` degrees of freedom and noncentrality `delta`: the `t` at which
/// `P(T <= t) = integral of Phi(t x - delta) f(x) dx` is `p`, `f` the density of `x = sqrt(chi²(df) / df)`.
///
/// The integral is a trapezoid sum over `ln x`, where the integrand is smooth and vanishes at both ends, so that it converges
/// faster than any power of the step.
pub(crate) fn noncentral_t_quantile(p: f64, df: f64, delta: f64) -> f64 {
    const NODES: usize = 800;
    let spread = 1.0 / (2.0 * df).sqrt();
    let (from, to) = (-(40.0 / df + 10.0 * spread), (1.0 + 10.0 * spread).ln() + 0.5 * spread);
    let step = (to - from) / NODES as f64;
    let constant = std::f64::consts::LN_2 + 0.5 * df * (0.5 * df).ln() - ln_gamma(0.5 * df);
    let nodes: Vec<(f64, f64)> = (0..=NODES)
        .map(|i| from + step * i as f64)
        .map(|log_x| (log_x.exp(), (constant + df * log_x - 0.5 * df * (2.0 * log_x).exp()).exp() * step))
        .collect();
    let cdf = |t: f64| nodes.iter().map(|(x, weight)| weight * normal_cdf(t * x - delta)).sum::<f64>();
    let (mut low, mut high) = (delta - 1.0, delta + 1.0);
    let mut reach = 1.0;
    while cdf(low) > p && reach < 1e12 {
        reach *= 2.0;
        low = delta - reach;
    }
    while cdf(high) < p && reach < 1e12 {
        reach *= 2.0;
        high = delta + reach;
    }
    while high - low > 1e-13 * (1.0 + high.abs()) {
        let middle = 0.5 * (low + high);
        if middle <= low || middle >= high {
            break;
        }
        if cdf(middle) < p { low = middle } else { high = middle }
    }
    0.5 * (low + high)
}

#[cfg(test)]
mod tests {
    use super::{f_upper, noncentral_t_quantile, t_upper};

    #[test]
    fn without_noncentrality_the_noncentral_t_is_student_s() {
        for df in [1.0, 2.0, 7.0, 40.0, 5_000.0] {
            let expected = t_upper(0.025, df);
            let value = noncentral_t_quantile(0.975, df, 0.0);
            assert!((value - expected).abs() < 1e-8 * expected, "{df}: {value} {expected}");
        }
    }

    #[test]
    fn quantiles_equal_tabled_values() {
        for (value, expected) in [
            (t_upper(0.025, 1.0), 12.706_204_736_174_698),
            (t_upper(0.025, 9.0), 2.262_157_162_740_992),
            (t_upper(0.025, 1e6), 1.959_966_357_208_14),
            (f_upper(0.05, 5.0, 18.0), 2.772_853_153_0),
            (f_upper(0.5, 7.3, 7.3), 1.0),
        ] {
            assert!((value - expected).abs() < 1e-9 * expected, "{value} {expected}");
        }
    }
}
