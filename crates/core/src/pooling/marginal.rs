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

use fearless_simd::prelude::*;
use fearless_simd::{Level, Simd, dispatch};
use nalgebra::{DMatrix, DVector};
use rayon::prelude::*;
use statrs::function::factorial::ln_binomial;

use super::lanes::{Lanes, WIDTH, exp, expit_and_softplus, ln};
use super::quadrature::{EXACT_FOR_SQUARES, MOST_NODES, Rule, rule};
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
    pub log_binomial: [f64; 2],
}

impl StudyData {
    /// `keep` says which arms take part.
    pub fn new(counts: &Counts, keep: [bool; 2]) -> Self {
        let mut data = Self::default();
        for (index, arm) in [counts.diseased(), counts.non_diseased()].into_iter().enumerate() {
            if let Some(arm) = arm.filter(|_| keep[index]) {
                data.y[index] = arm.correct as f64;
                data.n[index] = arm.n as f64;
                data.log_binomial[index] = ln_binomial(arm.n, arm.correct);
            }
        }
        data
    }

    /// Each study as two, of one arm each. Without a correlation the likelihood is a product over the arms, and two integrals over one effect
    /// take the place of one over two.
    pub fn apart(studies: &[Self]) -> Vec<Self> {
        let only = |study: &Self, arm: usize| {
            let mut one = Self { level: study.level, ..Self::default() };
            (one.y[arm], one.n[arm], one.log_binomial[arm]) = (study.y[arm], study.n[arm], study.log_binomial[arm]);
            one
        };
        studies.iter().flat_map(|study| [only(study, 0), only(study, 1)]).collect()
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
    /// What each study adds to the value.
    pub studies: Vec<f64>,
}

/// The likelihood of a set of studies, evaluated point by point.
///
/// It remembers the mode of each study's integrand, where the next search for it starts, and how many nodes each study needs: most are
/// integrated exactly by a few, arms that are all right or all wrong by many.
#[derive(Debug, Clone)]
pub(super) struct Marginal<'a> {
    studies: &'a [StudyData],
    /// Position in [`NODE_COUNTS`] of each study's rule.
    pub rules: Vec<usize>,
    modes: Vec<[f64; 2]>,
}

/// Newton's decrement below which the step to a mode is taken without looking again: it then misses the mode by about a hundredth of a
/// standard deviation, and a centre that far beside it changes nothing that more nodes would not.
const NEAR_ENOUGH: f64 = 1e-2;
/// Newton steps and halvings together; the worst case met takes a third of them.
const MODE_STEPS: usize = 100;
/// From so many studies on they are shared out between processors; below, handing over takes longer than it saves.
const SHARED_FROM: usize = 100;

impl<'a> Marginal<'a> {
    /// With the same rule for every study, given by its position in [`NODE_COUNTS`].
    pub fn new(studies: &'a [StudyData], rule: usize) -> Self {
        Self::with_rules(studies, vec![rule; studies.len()])
    }

    /// With a rule for each study.
    pub fn with_rules(studies: &'a [StudyData], rules: Vec<usize>) -> Self {
        Self { studies, rules, modes: vec![[0.0; 2]; studies.len()] }
    }

    /// The likelihood at `theta`.
    ///
    /// Derivatives are exact for the integral (Fisher's identity and Louis 1982), taken as posterior means over the same nodes; with few
    /// nodes they are as approximate as the value. A study whose integrand has no mass that a number can hold, or whose mode is not found,
    /// makes the value minus infinity: no search stays there.
    pub fn at(&mut self, theta: &Theta) -> Evaluation {
        let size = theta.len();
        let (gradient, hessian) = (Theta::zeros(size), Hessian::zeros(size, size));
        let mut total = Evaluation { value: 0.0, gradient, hessian, studies: vec![0.0; self.studies.len()] };
        let batches = self.batches(theta);
        let evaluate = |batch: &Vec<usize>| self.evaluate(batch, theta);
        // The order of the sums does not depend on who computes them.
        let parts: Vec<Part> = if self.studies.len() < SHARED_FROM {
            batches.iter().map(evaluate).collect()
        } else {
            batches.par_iter().with_min_len(batches.len().div_ceil(8)).map(evaluate).collect()
        };
        for (batch, part) in batches.iter().zip(parts) {
            for (lane, study) in batch.iter().enumerate() {
                (total.studies[*study], self.modes[*study]) = (part.values[lane], part.modes[lane]);
            }
            part.add_to(&mut total, self.studies[batch[0]].places());
        }
        total.value = total.studies.iter().sum();
        if total.value.is_nan() {
            total.value = f64::NEG_INFINITY;
        }
        total
    }

    /// Studies that have the same rules and the same means, at most [`WIDTH`] together.
    fn batches(&self, theta: &Theta) -> Vec<Vec<usize>> {
        let key = |study: usize| (self.dimensions(study, theta), self.studies[study].level);
        let mut order: Vec<usize> = (0..self.studies.len()).collect();
        order.sort_by_key(|study| key(*study));
        order.chunk_by(|a, b| key(*a) == key(*b)).flat_map(|alike| alike.chunks(WIDTH).map(<[usize]>::to_vec)).collect()
    }

    /// The rules of the outer and the inner dimension. One on which nothing but the normal density depends needs its second moment only.
    fn dimensions(&self, study: usize, theta: &Theta) -> [usize; 2] {
        let [with, without] = self.studies[study].n.map(|n| n > 0.0);
        let outer = (theta[L11] != 0.0 && with) || (theta[L21] != 0.0 && without);
        let inner = theta[L22] != 0.0 && without;
        [outer, inner].map(|needed| if needed { self.rules[study] } else { EXACT_FOR_SQUARES })
    }

    fn evaluate(&self, batch: &[usize], theta: &Theta) -> Part {
        let dimensions = self.dimensions(batch[0], theta).map(rule);
        dispatch!(Level::new(), simd => integrate(simd, self, batch, theta, dimensions))
    }
}

/// What a batch of studies adds to the whole.
struct Part {
    values: [f64; WIDTH],
    modes: [[f64; 2]; WIDTH],
    gradient: [f64; 5],
    hessian: [[f64; 5]; 5],
}

impl Part {
    fn add_to(&self, total: &mut Evaluation, place: [usize; 5]) {
        for i in 0..5 {
            total.gradient[place[i]] += self.gradient[i];
            for j in i..5 {
                total.hessian[(place[i], place[j])] += self.hessian[i][j];
                if i != j {
                    total.hessian[(place[j], place[i])] += self.hessian[i][j];
                }
            }
        }
    }
}

/// Studies side by side, and the parameters they share.
struct Side<S: Simd> {
    y: [Lanes<S>; 2],
    n: [Lanes<S>; 2],
    theta: [f64; 5],
}

/// Where the logarithm of an integrand is highest, its height there and its negative Hessian (11, 21, 22).
struct Mode<S: Simd> {
    at: [Lanes<S>; 2],
    height: Lanes<S>,
    curvature: [Lanes<S>; 3],
}

/// Sums over the nodes of a batch, with the rules of the outer and the inner dimension. Lanes that are left over repeat the first study and
/// are not counted.
#[inline(always)]
fn integrate<S: Simd>(simd: S, of: &Marginal<'_>, batch: &[usize], theta: &Theta, [outer, inner]: [&Rule; 2]) -> Part {
    let study = |lane: usize| batch[if lane < batch.len() { lane } else { 0 }];
    let data = |lane: usize| &of.studies[study(lane)];
    let load =
        |arm: usize| [Lanes::from_fn(simd, |lane| data(lane).y[arm]), Lanes::from_fn(simd, |lane| data(lane).n[arm])];
    let ([y1, n1], [y2, n2]) = (load(0), load(1));
    let theta = data(0).places().map(|place| theta[place]);
    let [m1, m2, l11, l21, l22] = theta;
    let start =
        [Lanes::from_fn(simd, |lane| of.modes[study(lane)][0]), Lanes::from_fn(simd, |lane| of.modes[study(lane)][1])];
    let Mode { at: [mode1, mode2], height: peak, curvature: [h11, h21, h22] } =
        find_mode(simd, &Side { y: [y1, y2], n: [n1, n2], theta }, start);
    // Scale C with C C' the inverse of the negative Hessian, C lower triangular.
    let determinant = h11 * h22 - h21 * h21;
    let c11 = (h22 / determinant).sqrt();
    let c21 = -h21 / determinant / c11;
    let c22 = (Lanes::splat(simd, 1.0) / h22).sqrt();

    let across = c11 * l21 + c21 * l22;
    let along = c22 * l22;
    let zero = Lanes::splat(simd, 0.0);
    // `exp(-(B node))` and `B node` of the inner dimension.
    let mut tabled = [(zero, zero); MOST_NODES];
    let tabled = &mut tabled[..inner.nodes.len()];
    for (entry, node) in tabled.iter_mut().zip(&inner.nodes) {
        let eta = along * *node;
        *entry = (exp(-eta), eta);
    }

    let (mut mass, mut g) = (zero, [zero; 5]);
    let mut m = [[zero; 5]; 5];
    for (node1, weight1) in outer.nodes.iter().zip(&outer.weights) {
        let u1 = mode1 + c11 * *node1;
        let eta1 = u1 * l11 + m1;
        let (p1, softplus1) = expit_and_softplus(eta1);
        let s1 = y1 - n1 * p1;
        let d1 = n1 * p1 * (-p1 + 1.0);
        let base1 = y1 * eta1 - n1 * softplus1 - u1 * u1 * 0.5 - peak;
        let eta2_base = mode1 * l21 + mode2 * l22 + across * *node1 + m2;
        let e_base = exp(-eta2_base);
        let u2_base = mode2 + c21 * *node1;

        let (mut w0, mut sum_s, mut sum_su, mut a, mut b, mut c) = (zero, zero, zero, zero, zero, zero);
        for ((node2, weight2), (e_inner, eta_inner)) in inner.nodes.iter().zip(&inner.weights).zip(&*tabled) {
            let u2 = u2_base + c22 * *node2;
            let eta2 = eta2_base + *eta_inner;
            let one_plus_e = e_base * *e_inner + 1.0;
            let p2 = Lanes::splat(simd, 1.0) / one_plus_e;
            // Where e^-eta is beyond the range of numbers, ln(1 + e^-eta) is -eta.
            let log = eta2.simd_lt(-700.0).select(-eta2, ln(one_plus_e));
            // ln Bin up to its constant: (y - n) eta - n ln(1 + e^-eta).
            let log_weight = base1 + (y2 - n2) * eta2 - n2 * log - u2 * u2 * 0.5;
            let w = exp(log_weight) * *weight2;
            let expected = n2 * p2;
            let s2 = y2 - expected;
            let curvature = w * (s2 * s2 - expected * (-p2 + 1.0));
            w0 += w;
            sum_s += w * s2;
            sum_su += w * s2 * u2;
            a += curvature;
            b += curvature * u2;
            c += curvature * u2 * u2;
        }
        let weight1 = *weight1;
        let (w0, sum_s, sum_su, a, b, c) =
            (w0 * weight1, sum_s * weight1, sum_su * weight1, a * weight1, b * weight1, c * weight1);
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
    let scaled = c11 * c22 * mass;
    let mut part = Part { values: [0.0; WIDTH], modes: [[0.0; 2]; WIDTH], gradient: [0.0; 5], hessian: [[0.0; 5]; 5] };
    for lane in 0..batch.len() {
        let sound = scaled[lane] > 0.0 && scaled[lane].is_finite();
        part.values[lane] = if sound {
            data(lane).log_binomial.iter().sum::<f64>() + peak[lane] + (scaled[lane] / std::f64::consts::PI).ln()
        } else {
            f64::NEG_INFINITY
        };
        let mode = [mode1[lane], mode2[lane]];
        part.modes[lane] = if mode[0].is_finite() && mode[1].is_finite() { mode } else { [0.0; 2] };
    }
    let sum = |lanes: Lanes<S>| lanes.as_slice()[..batch.len()].iter().sum::<f64>();
    for i in 0..5 {
        let mean = g[i] / mass;
        part.gradient[i] = sum(mean);
        for j in i..5 {
            part.hessian[i][j] = sum(m[i][j] / mass - mean * (g[j] / mass));
        }
    }
    part
}

/// The mode by damped Newton from `start`. The logarithm is strictly concave with curvature of at least 1, so it always exists; were it
/// not found after [`MODE_STEPS`] evaluations, its height becomes NaN and with it the study's likelihood.
#[inline(always)]
fn find_mode<S: Simd>(simd: S, side: &Side<S>, start: [Lanes<S>; 2]) -> Mode<S> {
    let ([y1, y2], [n1, n2], [m1, m2, l11, l21, l22]) = (side.y, side.n, side.theta);
    let all = |value: f64| Lanes::splat(simd, value);
    // Begins at the start with no step behind it: whatever is there is higher than nothing.
    let ([mut best1, mut best2], [mut step1, mut step2]) = (start, [all(0.0); 2]);
    let mut height = all(f64::NEG_INFINITY);
    let (mut k11, mut k21, mut k22) = (all(1.0), all(0.0), all(1.0));
    let mut gain = all(0.0);
    let mut open = gain.simd_lt(1.0);
    for _ in 0..MODE_STEPS {
        let (u1, u2) = (best1 + step1, best2 + step2);
        let (eta1, eta2) = (u1 * l11 + m1, u1 * l21 + u2 * l22 + m2);
        let ((p1, softplus1), (p2, softplus2)) = (expit_and_softplus(eta1), expit_and_softplus(eta2));
        let there = y1 * eta1 - n1 * softplus1 + y2 * eta2 - n2 * softplus2 - (u1 * u1 + u2 * u2) * 0.5;
        let (s1, s2) = (y1 - n1 * p1, y2 - n2 * p2);
        let (d1, d2) = (n1 * p1 * (-p1 + 1.0), n2 * p2 * (-p2 + 1.0));
        let (g1, g2) = (s1 * l11 + s2 * l21 - u1, s2 * l22 - u2);
        let (h11, h21, h22) = (d1 * (l11 * l11) + d2 * (l21 * l21) + 1.0, d2 * (l21 * l22), d2 * (l22 * l22) + 1.0);
        let determinant = h11 * h22 - h21 * h21;
        let (newton1, newton2) = ((h22 * g1 - h21 * g2) / determinant, (h11 * g2 - h21 * g1) / determinant);
        let decrement = g1 * newton1 + g2 * newton2;

        let risen = height.simd_lt(there) & open;
        // A step too short to rise is as good as none: the mode is where it began.
        let stuck = (step1.abs() + step2.abs()).simd_lt(1e-9) & !risen & open;
        let near = decrement.simd_le(NEAR_ENOUGH) & risen;
        (best1, best2) = (risen.select(u1, best1), risen.select(u2, best2));
        height = risen.select(there, height);
        (k11, k21, k22) = (risen.select(h11, k11), risen.select(h21, k21), risen.select(h22, k22));
        // The last step is taken on trust.
        (best1, best2) = (near.select(best1 + newton1, best1), near.select(best2 + newton2, best2));
        gain = near.select(decrement * 0.5, gain);
        (step1, step2) = (risen.select(newton1, step1 * 0.5), risen.select(newton2, step2 * 0.5));
        open = open & !near & !stuck;
        if !open.any_true() {
            break;
        }
    }
    Mode { at: [best1, best2], height: open.select(all(f64::NAN), height + gain), curvature: [k11, k21, k22] }
}

#[cfg(test)]
mod tests {
    use super::super::quadrature::NODE_COUNTS;
    use super::{Evaluation, Marginal, StudyData, Theta, theta5};
    use crate::accuracy::Counts;

    fn studies() -> Vec<StudyData> {
        [[20.0, 4.0, 5.0, 24.0], [3.0, 0.0, 9.0, 40.0], [14.0, 30.0, 0.0, 2.0]]
            .map(|[tp, fp, fn_, tn]| StudyData::new(&Counts::full(tp, fp, fn_, tn).unwrap(), [true, true]))
            .to_vec()
    }

    fn at(theta: Theta) -> Evaluation {
        Marginal::new(&studies(), NODE_COUNTS.len() - 1).at(&theta)
    }

    const POINTS: [[f64; 5]; 3] = [[1.2, 0.8, 0.7, -0.4, 0.5], [0.3, 1.5, 0.2, 0.9, 0.0], [2.0, -0.5, 1.4, 0.3, 1.1]];

    #[test]
    fn derivatives_equal_finite_differences() {
        // Two levels: the second study has its own mean sensitivity, the third both of its own.
        let mut studies = studies();
        (studies[1].level, studies[2].level) = ([1, 0], [1, 1]);
        let at = |theta: Theta| Marginal::new(&studies, NODE_COUNTS.len() - 1).at(&theta);
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
            let softplus = |x: f64| x.max(0.0) + (-x.abs()).exp().ln_1p();
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
                expected += study.log_binomial.iter().sum::<f64>() + (sum * step * step / std::f64::consts::TAU).ln();
            }
            let value = at(theta5([m1, m2, l11, l21, l22])).value;
            assert!((value - expected).abs() < 1e-7, "{value} against {expected}");
        }
    }
}
