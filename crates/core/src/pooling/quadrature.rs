//! Gauss-Hermite rules for the adaptive quadrature over a study's two random effects.

use std::sync::OnceLock;

use nalgebra::DMatrix;

/// Nodes per dimension. The first serves the search over starts; each study then climbs from the second on until
/// more nodes change nothing. 61 is what the reference values were made with; 91 serves data with arms that are
/// all right in one study and all wrong in the next, where the integrand is a step.
pub(super) const NODE_COUNTS: [usize; 9] = [3, 7, 11, 15, 21, 29, 41, 61, 91];

/// The most of them.
pub(super) const MOST_NODES: usize = NODE_COUNTS[NODE_COUNTS.len() - 1];

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

/// Nodes: the eigenvalues of the Jacobi matrix of the Hermite polynomials, `sqrt(j/2)` beside its diagonal (Golub and Welsch 1969). Weights:
/// with the orthonormal Hermite functions `psi_j(z) = p_j(z) exp(-z²/2)`, `w exp(z²) = 1 / sum psi_j(z)²`, which keeps its digits in
/// the far tails where the eigenvectors lose theirs.
fn compute(n: usize) -> Rule {
    let beside = |j: usize| (j as f64 / 2.0).sqrt();
    let jacobi = DMatrix::from_fn(n, n, |i, j| if i.abs_diff(j) == 1 { beside(i.max(j)) } else { 0.0 });
    let mut roots: Vec<f64> = jacobi.symmetric_eigenvalues().iter().copied().collect();
    roots.sort_by(|a, b| b.total_cmp(a));
    // The rule is symmetric; what the eigenvalues miss of that is rounding.
    let symmetric: Vec<f64> = roots.iter().zip(roots.iter().rev()).map(|(a, b)| 0.5 * (a - b)).collect();
    let weight = |z: &f64| {
        let (mut before, mut now) = (0.0, std::f64::consts::PI.powf(-0.25) * (-0.5 * z * z).exp());
        let mut sum = now * now;
        for j in 1..n {
            (before, now) = (now, (z * now - beside(j - 1) * before) / beside(j));
            sum += now * now;
        }
        1.0 / sum
    };
    let weights = symmetric.iter().map(weight).collect();
    let nodes = symmetric.iter().map(|z| z * std::f64::consts::SQRT_2).collect();
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
