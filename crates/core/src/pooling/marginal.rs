//! The exact marginal likelihood of the bivariate model, with its gradient and Hessian.
//!
//! Study `i` has `y1 ~ Bin(n1, expit(m1 + l11 u1))` correct among the diseased and
//! `y2 ~ Bin(n2, expit(m2 + l21 u1 + l22 u2))` among the others, `u1, u2` independent standard normal. So the
//! covariance between studies is `L L'`, `L = [[l11, 0], [l21, l22]]`.
//!
//! Why these parameters and not variances and a correlation: the likelihood is smooth and even in `l22`, hence a
//! maximum at correlation ±1 is an ordinary stationary point at `l22 = 0`, and Newton's method needs no bounds.
//!
//! With a categorical covariate each level has its own two means: those of the first level are `m1, m2`, those of level
//! `g > 0` follow the scales in pairs; the covariance is common.
//!
//! The quadrature is adaptive with a lower-triangular scale, so that the first arm depends on the first
//! coordinate alone and every exponential of the inner loop is a product of tabulated ones.

use nalgebra::{DMatrix, DVector};
use statrs::function::factorial::ln_binomial;

use super::quadrature::{EXACT_FOR_SQUARES, Rule, rule};
use crate::accuracy::Counts;

/// Order of the parameters: m1, m2, l11, l21, l22, then the two means of every further level.
pub(super) type Theta = DVector<f64>;
pub(super) type Hessian = DMatrix<f64>;

pub(super) const M1: usize = 0;
pub(super) const M2: usize = 1;
pub(super) const L11: usize = 2;
pub(super) const L21: usize = 3;
pub(super) const L22: usize = 4;

/// Where the mean of an arm stands for a level of the covariate.
pub(super) fn mean_at(arm: usize, level: usize) -> usize {
    if level == 0 { arm } else { L22 - 1 + 2 * level + arm }
}

/// How many parameters there are with so many levels.
pub(super) fn parameters(levels: usize) -> usize {
    mean_at(1, levels.max(1) - 1).max(L22) + 1
}

/// The arm that a mean or a scale belongs to; `l21` belongs to both.
pub(super) fn arm_of(parameter: usize) -> Option<usize> {
    match parameter {
        M1 | L11 => Some(0),
        M2 | L22 => Some(1),
        L21 => None,
        extra => Some((extra + 1) % 2),
    }
}

/// A point of the parameter space without a covariate.
#[cfg(test)]
pub(super) fn theta5(values: [f64; 5]) -> Theta {
    Theta::from_row_slice(&values)
}

/// Correct and total people per arm; a missing arm has `n = 0` and drops out of every formula.
#[derive(Debug, Clone, Copy, Default)]
pub(super) struct StudyData {
    pub y: [f64; 2],
    pub n: [f64; 2],
    /// Level of the covariate in each arm; 0 without one.
    pub level: [usize; 2],
    /// Logarithm of the binomial coefficients, which no parameter changes.
    pub log_binomial: f64,
}

impl StudyData {
    /// `keep` says which arms take part.
    pub fn new(counts: &Counts, keep: [bool; 2]) -> Self {
        let mut data = Self::default();
        for (index, arm) in [counts.diseased(), counts.non_diseased()].into_iter().enumerate() {
            if let Some(arm) = arm.filter(|_| keep[index]) {
                data.y[index] = arm.correct as f64;
                data.n[index] = arm.n as f64;
                data.log_binomial += ln_binomial(arm.n, arm.correct);
            }
        }
        data
    }

    /// Where this study's m1, m2, l11, l21 and l22 stand among the parameters.
    fn places(&self) -> [usize; 5] {
        [mean_at(0, self.level[0]), mean_at(1, self.level[1]), L11, L21, L22]
    }
}

/// The log-likelihood (binomial coefficients included) and its derivatives at one point.
#[derive(Debug, Clone)]
pub(super) struct Evaluation {
    pub value: f64,
    pub gradient: Theta,
    pub hessian: Hessian,
}

/// Evaluates the model at `theta` with `rule` in each dimension.
///
/// `modes` holds each study's mode of the integrand and is the start of the next search for it.
/// Derivatives are exact for the integral (Fisher's identity and Louis 1982), taken as posterior means over the
/// same nodes; with few nodes they are as approximate as the value.
pub(super) fn evaluate(studies: &[StudyData], theta: &Theta, rule: &Rule, modes: &mut [[f64; 2]]) -> Evaluation {
    let mut total = Evaluation {
        value: 0.0,
        gradient: Theta::zeros(theta.len()),
        hessian: Hessian::zeros(theta.len(), theta.len()),
    };
    let mut scratch = Scratch::default();
    for (study, mode) in studies.iter().zip(modes) {
        add_study(study, theta, rule, mode, &mut scratch, &mut total);
    }
    total
}

#[derive(Debug, Default)]
struct Scratch {
    /// `exp(-(B node))` and `B node` of the inner dimension.
    inner: Vec<(f64, f64)>,
}

fn add_study(
    study: &StudyData,
    theta: &Theta,
    rule_wanted: &Rule,
    mode: &mut [f64; 2],
    scratch: &mut Scratch,
    total: &mut Evaluation,
) {
    let [y1, y2] = study.y;
    let [n1, n2] = study.n;
    let place = study.places();
    let [m1, m2, l11, l21, l22] = place.map(|i| theta[i]);
    // A dimension on which nothing but the normal density depends needs its second moment only.
    let square = rule(EXACT_FOR_SQUARES);
    let flat2 = l22 == 0.0 || n2 == 0.0;
    let flat1 = (l11 == 0.0 || n1 == 0.0) && (l21 == 0.0 || n2 == 0.0);
    let (outer, inner) = (if flat1 { square } else { rule_wanted }, if flat2 { square } else { rule_wanted });
    let (peak, [h11, h21, h22]) = find_mode(study, theta, mode);
    // Scale C with C C' the inverse of the negative Hessian, C lower triangular.
    let determinant = (h11 * h22 - h21 * h21).max(f64::MIN_POSITIVE);
    let c11 = (h22 / determinant).sqrt();
    let c21 = -h21 / determinant / c11;
    let c22 = (1.0 / h22).sqrt();
    let [mode1, mode2] = *mode;

    let across = l21 * c11 + l22 * c21;
    let along = l22 * c22;
    scratch.inner.clear();
    scratch.inner.extend(inner.nodes.iter().map(|node| ((-along * node).exp(), along * node)));

    let (mut mass, mut g) = (0.0, [0.0; 5]);
    let mut m = [[0.0; 5]; 5];
    for (node1, weight1) in outer.nodes.iter().zip(&outer.weights) {
        let u1 = mode1 + c11 * node1;
        let eta1 = m1 + l11 * u1;
        let (p1, softplus1) = expit_and_softplus(eta1);
        let s1 = y1 - n1 * p1;
        let d1 = n1 * p1 * (1.0 - p1);
        let base1 = y1 * eta1 - n1 * softplus1 - 0.5 * u1 * u1 - peak;
        let eta2_base = m2 + l21 * mode1 + l22 * mode2 + across * node1;
        let e_base = (-eta2_base).exp();
        let u2_base = mode2 + c21 * node1;

        let (mut w0, mut sum_s, mut sum_su, mut a, mut b, mut c) = (0.0, 0.0, 0.0, 0.0, 0.0, 0.0);
        for ((node2, weight2), (e_inner, eta_inner)) in inner.nodes.iter().zip(&inner.weights).zip(&scratch.inner) {
            let u2 = u2_base + c22 * node2;
            let eta2 = eta2_base + eta_inner;
            let one_plus_e = 1.0 + e_base * e_inner;
            let p2 = 1.0 / one_plus_e;
            // ln Bin up to its constant: (y - n) eta - n ln(1 + e^-eta).
            let log_weight = base1 + (y2 - n2) * eta2 - n2 * one_plus_e.ln() - 0.5 * u2 * u2;
            let w = weight2 * log_weight.exp();
            let s2 = y2 - n2 * p2;
            let curvature = w * (s2 * s2 - n2 * p2 * (1.0 - p2));
            w0 += w;
            sum_s += w * s2;
            sum_su += w * s2 * u2;
            a += curvature;
            b += curvature * u2;
            c += curvature * u2 * u2;
        }
        let (w0, sum_s, sum_su, a, b, c) =
            (weight1 * w0, weight1 * sum_s, weight1 * sum_su, weight1 * a, weight1 * b, weight1 * c);
        let k1 = (s1 * s1 - d1) * w0;
        mass += w0;
        g[M1] += s1 * w0;
        g[L11] += s1 * u1 * w0;
        g[M2] += sum_s;
        g[L21] += u1 * sum_s;
        g[L22] += sum_su;
        m[M1][M1] += k1;
        m[M1][L11] += k1 * u1;
        m[L11][L11] += k1 * u1 * u1;
        m[M1][M2] += s1 * sum_s;
        m[M1][L21] += s1 * u1 * sum_s;
        m[M1][L22] += s1 * sum_su;
        m[M2][L11] += s1 * u1 * sum_s;
        m[L11][L21] += s1 * u1 * u1 * sum_s;
        m[L11][L22] += s1 * u1 * sum_su;
        m[M2][M2] += a;
        m[M2][L21] += u1 * a;
        m[M2][L22] += b;
        m[L21][L21] += u1 * u1 * a;
        m[L21][L22] += u1 * b;
        m[L22][L22] += c;
    }
    if !(mass > 0.0 && mass.is_finite()) {
        // Only far outside any sensible parameter region: make the step there unattractive instead of NaN.
        total.value = f64::NEG_INFINITY;
        return;
    }
    total.value += study.log_binomial + peak + (c11 * c22 * mass / std::f64::consts::PI).ln();
    for i in 0..5 {
        let gi = g[i] / mass;
        total.gradient[place[i]] += gi;
        for j in i..5 {
            let value = m[i][j] / mass - gi * g[j] / mass;
            total.hessian[(place[i], place[j])] += value;
            if i != j {
                total.hessian[(place[j], place[i])] += value;
            }
        }
    }
}

/// `expit(x)` and `ln(1 + e^x)` from one exponential.
fn expit_and_softplus(x: f64) -> (f64, f64) {
    let e = (-x.abs()).exp();
    let tail = e / (1.0 + e);
    // An absolute error of one rounding is all that a log-likelihood feels, so the faster logarithm will do.
    let log = (1.0 + e).ln();
    if x > 0.0 { (1.0 - tail, x + log) } else { (tail, log) }
}

/// Mode of the integrand by damped Newton from the previous mode; the logarithm is strictly concave with
/// curvature of at least 1, so it always exists. Returns the height there and the negative Hessian (11, 21, 22).
fn find_mode(study: &StudyData, theta: &Theta, mode: &mut [f64; 2]) -> (f64, [f64; 3]) {
    /// Newton's decrement below which the step is taken without looking again: it then misses the mode by about a hundredth
    /// of a standard deviation, and a centre that far beside it changes nothing that more nodes would not.
    const NEAR_ENOUGH: f64 = 1e-2;
    let [y1, y2] = study.y;
    let [n1, n2] = study.n;
    let [m1, m2, l11, l21, l22] = study.places().map(|i| theta[i]);
    let at = |u: [f64; 2]| {
        let (eta1, eta2) = (m1 + l11 * u[0], m2 + l21 * u[0] + l22 * u[1]);
        let ((p1, softplus1), (p2, softplus2)) = (expit_and_softplus(eta1), expit_and_softplus(eta2));
        let height = y1 * eta1 - n1 * softplus1 + y2 * eta2 - n2 * softplus2 - 0.5 * (u[0] * u[0] + u[1] * u[1]);
        (height, p1, p2)
    };
    let mut now = at(*mode);
    if !now.0.is_finite() {
        *mode = [0.0, 0.0];
        now = at(*mode);
    }
    // Newton steps and halvings together stay far below this in the worst case met.
    for _ in 0..60 {
        let (height, p1, p2) = now;
        let (s1, s2) = (y1 - n1 * p1, y2 - n2 * p2);
        let (d1, d2) = (n1 * p1 * (1.0 - p1), n2 * p2 * (1.0 - p2));
        let (g1, g2) = (s1 * l11 + s2 * l21 - mode[0], s2 * l22 - mode[1]);
        let (h11, h21, h22) = (d1 * l11 * l11 + d2 * l21 * l21 + 1.0, d2 * l21 * l22, d2 * l22 * l22 + 1.0);
        let determinant = h11 * h22 - h21 * h21;
        let mut step = [(h22 * g1 - h21 * g2) / determinant, (h11 * g2 - h21 * g1) / determinant];
        let decrement = g1 * step[0] + g2 * step[1];
        if decrement <= NEAR_ENOUGH {
            *mode = [mode[0] + step[0], mode[1] + step[1]];
            return (height + 0.5 * decrement, [h11, h21, h22]);
        }
        loop {
            let next = [mode[0] + step[0], mode[1] + step[1]];
            let there = at(next);
            if there.0.is_finite() && there.0 > height {
                (*mode, now) = (next, there);
                break;
            }
            if step[0].abs() + step[1].abs() < 1e-9 {
                return (height, [h11, h21, h22]);
            }
            step = [0.5 * step[0], 0.5 * step[1]];
        }
    }
    (now.0, [1.0, 0.0, 1.0])
}

#[cfg(test)]
mod tests {
    use super::super::quadrature::{NODE_COUNTS, rule};
    use super::{Evaluation, StudyData, Theta, evaluate, expit_and_softplus, theta5};
    use crate::accuracy::Counts;

    fn studies() -> Vec<StudyData> {
        [[20.0, 4.0, 5.0, 24.0], [3.0, 0.0, 9.0, 40.0], [14.0, 30.0, 0.0, 2.0]]
            .map(|[tp, fp, fn_, tn]| StudyData::new(&Counts::full(tp, fp, fn_, tn).unwrap(), [true, true]))
            .to_vec()
    }

    fn at(theta: Theta) -> Evaluation {
        evaluate(&studies(), &theta, rule(NODE_COUNTS.len() - 1), &mut [[0.0; 2]; 3])
    }

    const POINTS: [[f64; 5]; 3] = [[1.2, 0.8, 0.7, -0.4, 0.5], [0.3, 1.5, 0.2, 0.9, 0.0], [2.0, -0.5, 1.4, 0.3, 1.1]];

    #[test]
    fn derivatives_equal_finite_differences() {
        // Two levels: the second study has its own mean sensitivity, the third both of its own.
        let mut studies = studies();
        (studies[1].level, studies[2].level) = ([1, 0], [1, 1]);
        let at = |theta: Theta| evaluate(&studies, &theta, rule(NODE_COUNTS.len() - 1), &mut [[0.0; 2]; 3]);
        for point in POINTS {
            let theta = Theta::from_iterator(7, point.into_iter().chain([0.4, -0.2]));
            let exact = at(theta.clone());
            let step = 1e-4;
            for i in 0..7 {
                let mut away = Theta::zeros(7);
                away[i] = step;
                let (up, down) = (at(&theta + &away), at(&theta - &away));
                let slope = (up.value - down.value) / (2.0 * step);
                assert!((slope - exact.gradient[i]).abs() < 1e-5 * (1.0 + slope.abs()), "gradient {i} at {point:?}");
                let curve = (up.gradient - down.gradient) / (2.0 * step);
                for j in 0..7 {
                    let hessian = exact.hessian[(i, j)];
                    assert!((curve[j] - hessian).abs() < 1e-4 * (1.0 + hessian.abs()), "hessian {i} {j} at {point:?}");
                }
            }
        }
    }

    #[test]
    fn the_integral_equals_a_plain_sum_over_a_fine_grid() {
        for [m1, m2, l11, l21, l22] in POINTS {
            let mut expected = 0.0;
            let softplus = |x: f64| expit_and_softplus(x).1;
            for study in studies() {
                // Trapezoid over ±9 standard deviations; for a smooth integrand that vanishes at the ends it
                // converges faster than any power of the step.
                let (step, half) = (0.05, 180);
                let mut sum = 0.0;
                for (i, j) in (-half..=half).flat_map(|i| (-half..=half).map(move |j| (i, j))) {
                    let (u1, u2) = (f64::from(i) * step, f64::from(j) * step);
                    let (eta1, eta2) = (m1 + l11 * u1, m2 + l21 * u1 + l22 * u2);
                    let log = study.y[0] * eta1 - study.n[0] * softplus(eta1) + study.y[1] * eta2
                        - study.n[1] * softplus(eta2)
                        - 0.5 * (u1 * u1 + u2 * u2);
                    sum += log.exp();
                }
                expected += study.log_binomial + (sum * step * step / std::f64::consts::TAU).ln();
            }
            let value = at(theta5([m1, m2, l11, l21, l22])).value;
            assert!((value - expected).abs() < 1e-7, "{value} against {expected}");
        }
    }
}
