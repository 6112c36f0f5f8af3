//! Arithmetic on several studies at once.
//!
//! The likelihood spends its time on exponentials and logarithms. Eight studies go through every formula side by side, as many of them in
//! one instruction as the processor offers. Results are the same on every processor: nothing here is fused or summed in an order that
//! depends on it.

use fearless_simd::prelude::*;
use fearless_simd::{Simd, f64x8, u64x8};

/// One number of each of [`WIDTH`] studies.
pub(super) type Lanes<S> = f64x8<S>;
/// How many studies go side by side.
pub(super) const WIDTH: usize = 8;

/// 1.5 · 2^52: adding it leaves the nearest whole number in the lowest bits.
const ROUND: f64 = 6_755_399_441_055_744.0;
/// ln 2 in two parts, the first with trailing zeros so that its multiples are exact.
const LN2: [f64; 2] = [0.693_147_180_369_123_8, 1.908_214_929_270_587_7e-10];

/// `e^x`, relative error below 5e-16. Beyond ±708 the result stays at the end of the range instead of becoming 0 or infinite.
#[inline(always)]
pub(super) fn exp<S: Simd>(x: Lanes<S>) -> Lanes<S> {
    let x = x.max(-708.0).min(708.0);
    // x = k ln 2 + r, |r| <= ln 2 / 2; e^r by its Taylor polynomial, of which the first term left out is below 2e-16.
    let shifted = x * std::f64::consts::LOG2_E + ROUND;
    let k = shifted - ROUND;
    let r = x - k * LN2[0] - k * LN2[1];
    let r2 = r * r;
    let r4 = r2 * r2;
    let low = (r + 1.0) + r2 * (r * (1.0 / 6.0) + 0.5);
    let middle = (r * (1.0 / 120.0) + 1.0 / 24.0) + r2 * (r * (1.0 / 5_040.0) + 1.0 / 720.0);
    let high = (r * (1.0 / 362_880.0) + 1.0 / 40_320.0)
        + r2 * (r * (1.0 / 39_916_800.0) + 1.0 / 3_628_800.0)
        + r4 * (1.0 / 479_001_600.0);
    let power = (shifted.to_bits() << 52) + (1_023 << 52);
    (low + r4 * (middle + r4 * high)) * Lanes::from_bits(power)
}

/// `ln z` for `z >= 1`, absolute error of one rounding of the result (or of 1, where that is larger).
///
/// With `z = 2^e m`, `m` within sqrt(1/2) and sqrt(2), `f = m - 1` and `s = f / (2 + f)`: `ln m = ln(1 + s) - ln(1 - s)` as a polynomial in `s²`
/// (the coefficients of fdlibm's `log`).
#[inline(always)]
pub(super) fn ln<S: Simd>(z: Lanes<S>) -> Lanes<S> {
    const SQRT_HALF: u64 = 0x3FE6_A09E_667F_3BCD;
    const MANTISSA: u64 = 0x000F_FFFF_FFFF_FFFF;
    const TWO_52: f64 = 4_503_599_627_370_496.0;
    let above: u64x8<S> = z.to_bits() - SQRT_HALF;
    let mantissa = Lanes::from_bits((above & MANTISSA) + SQRT_HALF);
    let exponent = Lanes::from_bits((above >> 52) | TWO_52.to_bits()) - TWO_52;
    let f = mantissa - 1.0;
    let s = f / (f + 2.0);
    let s2 = s * s;
    let s4 = s2 * s2;
    let even = s4 * (s4 * (s4 * 0.153_138_376_992_093_73 + 0.222_221_984_321_497_84) + 0.399_999_999_994_094_2);
    let odd = s2
        * (s4 * (s4 * (s4 * 0.147_981_986_051_165_86 + 0.181_835_721_616_180_5) + 0.285_714_287_436_623_9)
            + 0.666_666_666_666_673_5);
    let half = f * f * 0.5;
    exponent * LN2[0] - ((half - (s * (half + even + odd) + exponent * LN2[1])) - f)
}

/// `1 / (1 + e^-x)` and `ln(1 + e^x)` from one exponential.
#[inline(always)]
pub(super) fn expit_and_softplus<S: Simd>(x: Lanes<S>) -> (Lanes<S>, Lanes<S>) {
    let positive = x.simd_gt(0.0);
    let e = exp(-x.abs());
    let one_plus_e = e + 1.0;
    let (tail, log) = (e / one_plus_e, ln(one_plus_e));
    (positive.select(-tail + 1.0, tail), positive.select(x + log, log))
}

#[cfg(test)]
mod tests {
    use fearless_simd::prelude::*;
    use fearless_simd::{Level, dispatch};

    use super::{Lanes, exp, expit_and_softplus, ln};

    #[inline(always)]
    fn all_four<S: Simd>(simd: S, x: f64) -> [f64; 4] {
        let at = Lanes::splat(simd, x);
        let (p, softplus) = expit_and_softplus(at);
        [exp(at)[0], ln(exp(at) + 1.0)[1], p[6], softplus[7]]
    }

    #[test]
    fn exponential_and_logarithm_equal_the_standard_library() {
        let level = Level::new();
        for i in -70_000..70_000 {
            let x = f64::from(i) * 0.0101 + 1.3e-4;
            let got = dispatch!(level, simd => all_four(simd, x));
            let log = (1.0 + x.exp()).ln();
            assert!((got[0] / x.exp() - 1.0).abs() < 5e-16, "e^{x}");
            assert!((got[1] - log).abs() <= 5e-16 * log.max(1.0), "ln(1 + e^{x})");
            assert!((got[2] * (1.0 + (-x).exp()) - 1.0).abs() < 1e-15, "expit {x}");
            assert!((got[3] - x.max(0.0) - (-x.abs()).exp().ln_1p()).abs() <= 3e-16 * x.abs().max(1.0), "softplus {x}");
        }
        let ends = [-1e9, -708.0].map(|x| dispatch!(level, simd => all_four(simd, x))[0]);
        assert_eq!(ends[0], ends[1]);
    }
}
