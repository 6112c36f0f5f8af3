//! Gauss-Hermite rules for the adaptive quadrature over a study's two random effects.

use std::sync::OnceLock;

/// Nodes per dimension. The first serves the search over starts; a fit then climbs from the second on until
/// more nodes change nothing. 61 is what the reference values were made with; 91 serves data with arms that are
/// all right in one study and all wrong in the next, where the integrand is a step.
pub(super) const NODE_COUNTS: [usize; 9] = [3, 7, 11, 17, 25, 35, 47, 61, 91];

/// Position of the rule that suffices where a dimension holds nothing but the normal density: three nodes are exact up to
/// the fifth power.
pub(super) const EXACT_FOR_SQUARES: usize = 0;

/// A rule for the integral of `f(z)` over the real line, written as `sum(weight * f(node))`:
/// the factor `exp(z²)` that the integrand of Gauss-Hermite lacks is already in `weight`.
#[derive(Debug)]
pub(super) struct Rule {
    /// Abscissae with the square root of two multiplied in, so that `u = mode + scale * node`.
    pub nodes: Vec<f64>,
    /// Weights times `exp(z²)`.
    pub weights: Vec<f64>,
}

/// The rule with `NODE_COUNTS[index]` nodes, computed once.
pub(super) fn rule(index: usize) -> &'static Rule {
    static RULES: [OnceLock<Rule>; NODE_COUNTS.len()] = [const { OnceLock::new() }; NODE_COUNTS.len()];
    let index = index.min(NODE_COUNTS.len() - 1);
    RULES[index].get_or_init(|| compute(NODE_COUNTS[index]))
}

/// Roots of the Hermite polynomial `H_n` by Newton's method on the orthonormal recurrence (Press et al.,
/// *Numerical Recipes*, section 4.6), largest root first, mirrored. The derivative of the orthonormal
/// polynomial gives the weight `2 / H'²`.
fn compute(n: usize) -> Rule {
    let nf = n as f64;
    let mut roots: Vec<f64> = Vec::with_capacity(n.div_ceil(2));
    let mut weights = Vec::with_capacity(n.div_ceil(2));
    for i in 0..n.div_ceil(2) {
        let mut z = match i {
            0 => (2.0 * nf + 1.0).sqrt() - 1.85575 * (2.0 * nf + 1.0).powf(-1.0 / 6.0),
            1 => roots[0] - 1.14 * nf.powf(0.426) / roots[0],
            2 => 1.86 * roots[1] - 0.86 * roots[0],
            3 => 1.91 * roots[2] - 0.91 * roots[1],
            _ => 2.0 * roots[i - 1] - roots[i - 2],
        };
        let mut derivative = 1.0;
        for _ in 0..100 {
            let (mut p1, mut p2) = (std::f64::consts::PI.powf(-0.25), 0.0);
            for j in 0..n {
                let jf = j as f64;
                let p3 = p2;
                p2 = p1;
                p1 = z * (2.0 / (jf + 1.0)).sqrt() * p2 - (jf / (jf + 1.0)).sqrt() * p3;
            }
            derivative = (2.0 * nf).sqrt() * p2;
            let step = p1 / derivative;
            z -= step;
            if step.abs() < 1e-15 * (1.0 + z.abs()) {
                break;
            }
        }
        roots.push(z);
        weights.push(2.0 / (derivative * derivative) * (z * z).exp());
    }
    let mirrored = n / 2;
    let root2 = std::f64::consts::SQRT_2;
    let nodes = roots.iter().map(|z| z * root2).chain(roots[..mirrored].iter().rev().map(|z| -z * root2)).collect();
    let weights = weights.iter().copied().chain(weights[..mirrored].iter().rev().copied()).collect();
    Rule { nodes, weights }
}

#[cfg(test)]
mod tests {
    use super::{NODE_COUNTS, rule};

    #[test]
    fn every_rule_integrates_the_normal_density_and_its_moments() {
        for (index, count) in NODE_COUNTS.iter().enumerate() {
            let rule = rule(index);
            assert_eq!(rule.nodes.len(), *count);
            let moment = |power: i32| -> f64 {
                let density = |u: f64| (-0.5 * u * u).exp() / std::f64::consts::PI.sqrt();
                rule.nodes.iter().zip(&rule.weights).map(|(u, w)| w * density(*u) * u.powi(power)).sum()
            };
            for (power, expected) in [(0, 1.0), (1, 0.0), (2, 1.0), (4, 3.0)] {
                assert!((moment(power) - expected).abs() < 1e-12, "{count} nodes, moment {power}: {}", moment(power));
            }
        }
    }
}
