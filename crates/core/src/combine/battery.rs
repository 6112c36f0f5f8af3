//! A battery: several tests for one condition that are read together, each with what is not known of it.

use serde::Serialize;

use super::dependence::{covariance_range, two_dependent_tests};
use super::error::CombineError;
use super::latent::{LatentCorrelation, check_correlation, latent_counts};
use super::rules::{Shares, TestAccuracy, check_number, check_rule, poisson_binomial, ratio};
use crate::likelihood::supported_share;
use crate::quantity::expit;
use crate::{Estimate, Probability, Ratio};

/// A test of a battery.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct BatteryTest {
    /// Sensitivity with its interval.
    pub sensitivity: Estimate<Probability>,
    /// Specificity with its interval.
    pub specificity: Estimate<Probability>,
    /// Correlation of the two as they were estimated, on the logit scale; 0 of a single study.
    pub correlation: f64,
}

impl BatteryTest {
    /// Its accuracy as estimated.
    #[must_use]
    pub fn accuracy(&self) -> TestAccuracy {
        TestAccuracy { sensitivity: self.sensitivity.estimate, specificity: self.specificity.estimate }
    }
}

/// How the results of the tests depend on each other, given the condition.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum BatteryDependence {
    /// Not at all.
    Independent,
    /// Two tests with these conditional covariances (see [`super::covariance_bounds`]).
    Covariance {
        /// In people with the condition.
        diseased: f64,
        /// In people without it.
        non_diseased: f64,
    },
    /// By a shared factor behind all of them (see [`super::count_results_latent`]).
    Latent(LatentCorrelation),
}

/// A number of positive tests.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct BatteryCount {
    /// Positive tests.
    pub positive: usize,
    /// How often, with the condition.
    pub diseased: Probability,
    /// How often, without it.
    pub non_diseased: Probability,
    /// Likelihood ratio of just this number; `None` when it can happen to nobody.
    pub lr: Option<Estimate<Ratio>>,
}

/// The rule "at least `k` positive".
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct BatteryRule {
    /// Positive tests from which on the rule is positive.
    pub k: usize,
    /// Sensitivity of the rule.
    pub sensitivity: Estimate<Probability>,
    /// Specificity of the rule.
    pub specificity: Estimate<Probability>,
    /// LR+ of the rule.
    pub lr_positive: Option<Estimate<Ratio>>,
    /// LR- of the rule.
    pub lr_negative: Option<Estimate<Ratio>>,
}

/// What a battery is worth.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Battery {
    /// Each number of positive tests, none first.
    pub counts: Vec<BatteryCount>,
    /// Each rule, "any positive" first.
    pub rules: Vec<BatteryRule>,
}

/// Accuracy of every rule over a battery, and what every number of positive tests is worth, with intervals.
///
/// **Intervals** by squaring and adding (Newcombe 2001; Zou and Donner 2008): each figure of each test is moved to the end of its interval that
/// lowers the answer, the others kept; the distances `d` this makes, on the logit scale for shares and on the log scale for ratios, are put together as
/// `L = estimate - sqrt(sum over tests of (d_Se^2 + d_Sp^2 + 2 r s d_Se d_Sp))`, with `r` the correlation of the test's own two figures and `s` the sign
/// of their effects, and upwards alike. Tests are estimated apart, so that nothing is added between them. Intervals of the tests that are not
/// symmetrical stay so, and to first order this is the delta method with each test's own covariance. The dependence itself is taken as known: what it
/// does is seen by changing it. Where an estimate stands at 0 or 1, distances are taken from the bound that the data support, and the end that cannot
/// be told is left at 0, 1 or infinity.
///
/// # Errors
/// [`CombineError`] for the number of tests or the dependence.
pub fn battery(tests: &[BatteryTest], dependence: BatteryDependence) -> Result<Battery, CombineError> {
    check_number(tests.len())?;
    check_dependence(tests, dependence)?;
    let laws = Laws::of(tests, dependence);
    let n = tests.len();
    let counts = (0..=n).map(|positive| {
        let point = |group: usize| laws.estimate[group][positive];
        BatteryCount {
            positive,
            diseased: Probability::rounded(point(0)),
            non_diseased: Probability::rounded(point(1)),
            lr: laws.ratio(|[diseased, others]| [diseased[positive], others[positive]]),
        }
    });
    let rule = |k: usize| BatteryRule {
        k,
        sensitivity: laws.share(|law| Shares::of(law, k).se, |law| Shares::of(law, k).miss),
        specificity: laws.share(|law| Shares::of(law, k).sp, |law| Shares::of(law, k).alarm),
        lr_positive: laws.ratio(|law| [Shares::of(law, k).se, Shares::of(law, k).alarm]),
        lr_negative: laws.ratio(|law| [Shares::of(law, k).miss, Shares::of(law, k).sp]),
    };
    Ok(Battery { counts: counts.collect(), rules: (1..=n).map(rule).collect() })
}

/// What a rule becomes without one of its tests: "all" stays all of the others, and another rule asks for as many positive tests as before.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct WithoutTest {
    /// Place of the test that is left out.
    pub test: usize,
    /// The rule over the others.
    pub rule: BatteryRule,
}

/// Leaves each test out in turn, to show what it adds. Nothing for a single test. With covariances, which are of both tests, the one that stays has
/// its own accuracy.
///
/// # Errors
/// As [`battery`], and for the rule.
pub fn each_test_left_out(
    tests: &[BatteryTest],
    k: usize,
    dependence: BatteryDependence,
) -> Result<Vec<WithoutTest>, CombineError> {
    check_number(tests.len())?;
    check_rule(k, tests.len())?;
    check_dependence(tests, dependence)?;
    if tests.len() == 1 {
        return Ok(Vec::new());
    }
    let dependence = match dependence {
        BatteryDependence::Covariance { .. } => BatteryDependence::Independent,
        other => other,
    };
    let without = |test: usize| {
        let others: Vec<BatteryTest> = [&tests[..test], &tests[test + 1..]].concat();
        let rules = battery(&others, dependence)?.rules;
        Ok(WithoutTest { test, rule: rules[k.min(others.len()) - 1] })
    };
    (0..tests.len()).map(without).collect()
}

fn check_dependence(tests: &[BatteryTest], dependence: BatteryDependence) -> Result<(), CombineError> {
    match dependence {
        BatteryDependence::Independent => Ok(()),
        BatteryDependence::Latent(correlation) => {
            check_correlation(correlation.diseased)?;
            check_correlation(correlation.non_diseased)
        }
        BatteryDependence::Covariance { diseased, non_diseased } => match tests {
            [first, second] => {
                let checked = two_dependent_tests(first.accuracy(), second.accuracy(), diseased, non_diseased);
                checked.map(|_| ()).map_err(CombineError::Covariance)
            }
            _ => Err(CombineError::CovarianceOf(tests.len())),
        },
    }
}

/// Laws of the number of positive tests, with the condition and without it.
struct Laws {
    /// At the estimates.
    estimate: [Vec<f64>; 2],
    /// At the estimates, but where one is 0 or 1 at the bound that the data support.
    supported: [Vec<f64>; 2],
    /// Per test and group, with its chance at both ends of its interval and the others supported; and the same with the others estimated.
    moved: Vec<[[Moved; 2]; 2]>,
    /// Per test, the correlation of its two figures.
    correlations: Vec<f64>,
}

struct Moved {
    /// The other tests at their estimates.
    estimate: Vec<f64>,
    /// The other tests as far as the data support them.
    supported: Vec<f64>,
}

/// A law in both groups.
type Law<'a> = [&'a [f64]; 2];

impl Laws {
    fn of(tests: &[BatteryTest], dependence: BatteryDependence) -> Self {
        let chance = |group: usize, share: Probability| if group == 0 { share.get() } else { 1.0 - share.get() };
        let figure = |test: &BatteryTest, group: usize| [test.sensitivity, test.specificity][group];
        let at = |group: usize, share: &dyn Fn(Estimate<Probability>) -> Probability| -> Vec<f64> {
            tests.iter().map(|test| chance(group, share(figure(test, group)))).collect()
        };
        let estimates = [0, 1].map(|group| at(group, &|it| it.estimate));
        let supported = [0, 1].map(|group| at(group, &supported_share));
        let law = |group: usize, chances: &[f64]| law(group, chances, dependence);
        let differ = [0, 1].map(|group| estimates[group] != supported[group]);
        let moved = |place: usize, test: &BatteryTest| {
            [0, 1].map(|group| {
                let end = |share: Probability| {
                    let with = |others: &[f64]| {
                        let mut chances = others.to_vec();
                        chances[place] = chance(group, share);
                        law(group, &chances)
                    };
                    let estimate = with(&estimates[group]);
                    // The same, unless an estimate stands at 0 or 1.
                    let supported = if differ[group] { with(&supported[group]) } else { estimate.clone() };
                    Moved { estimate, supported }
                };
                let it = figure(test, group);
                [end(it.lower), end(it.upper)]
            })
        };
        Self {
            moved: tests.iter().enumerate().map(|(place, test)| moved(place, test)).collect(),
            correlations: tests.iter().map(|test| test.correlation).collect(),
            estimate: [0, 1].map(|group| law(group, &estimates[group])),
            supported: [0, 1].map(|group| law(group, &supported[group])),
        }
    }

    /// A share and its complement, summed apart.
    fn share(&self, of: impl Fn(Law) -> f64, rest: impl Fn(Law) -> f64) -> Estimate<Probability> {
        let logit = self.bounds(|law| log_ratio(of(law), rest(law)));
        let share = |logit: f64| Probability::rounded(expit(logit));
        let point = Probability::rounded(of([&self.estimate[0], &self.estimate[1]]));
        Estimate::around(point, share(logit.lower), share(logit.upper))
    }

    fn ratio(&self, of: impl Fn(Law) -> [f64; 2]) -> Option<Estimate<Ratio>> {
        let [with, without] = of([&self.estimate[0], &self.estimate[1]]);
        let estimate = ratio(with, without)?;
        let log = self.bounds(|law| {
            let [with, without] = of(law);
            log_ratio(with, without)
        });
        let ratio = |log: f64| Ratio::rounded(log.exp());
        Some(Estimate::around(estimate, ratio(log.lower), ratio(log.upper)))
    }

    /// Estimate and bounds of something on a scale on which distances add.
    fn bounds(&self, of: impl Fn(Law) -> f64) -> Estimate<f64> {
        let estimate = of([&self.estimate[0], &self.estimate[1]]);
        let finite = estimate.is_finite();
        let centre_law = if finite { &self.estimate } else { &self.supported };
        let centre = if finite { estimate } else { of([&self.supported[0], &self.supported[1]]) };
        let mut squares = [0.0_f64; 2];
        for (ends, correlation) in self.moved.iter().zip(&self.correlations) {
            // Per figure of the test: how far down and up it can bring the answer, and whether the answer rises with it.
            let effects = [0, 1].map(|group: usize| {
                let value = |end: usize| {
                    let Moved { estimate, supported } = &ends[group][end];
                    let law = if finite { estimate } else { supported };
                    let other = &centre_law[1 - group];
                    if group == 0 { of([law, other]) } else { of([other, law]) }
                };
                let (at_lower, at_upper) = (value(0), value(1));
                let rises = at_upper >= at_lower;
                let (low, high) = if rises { (at_lower, at_upper) } else { (at_upper, at_lower) };
                ([(centre - low).max(0.0), (high - centre).max(0.0)], if rises { 1.0 } else { -1.0 })
            });
            let [(sens, rises_sens), (spec, rises_spec)] = effects;
            for side in 0..2 {
                let both = if correlation == &0.0 {
                    0.0
                } else {
                    2.0 * correlation * rises_sens * rises_spec * sens[side] * spec[side]
                };
                let added = sens[side].powi(2) + spec[side].powi(2) + both;
                // Infinite distances with opposite signs leave nothing to tell.
                squares[side] += if added.is_nan() { f64::INFINITY } else { added.max(0.0) };
            }
        }
        let [down, up] = squares.map(f64::sqrt);
        let known = |bound: f64, end: f64| if bound.is_nan() || estimate == end { end } else { bound };
        let [lower, upper] = [known(centre - down, f64::NEG_INFINITY), known(centre + up, f64::INFINITY)];
        Estimate { estimate, lower, upper }
    }
}

/// `ln(a / b)`; infinite where one of them is 0, NaN for 0/0.
fn log_ratio(a: f64, b: f64) -> f64 {
    a.max(0.0).ln() - b.max(0.0).ln()
}

/// Law of the number of positive tests in one group.
fn law(group: usize, chances: &[f64], dependence: BatteryDependence) -> Vec<f64> {
    match dependence {
        BatteryDependence::Independent => poisson_binomial(chances.iter().copied()),
        BatteryDependence::Latent(LatentCorrelation { diseased, non_diseased }) => {
            let r = if group == 0 { diseased } else { non_diseased };
            if r == 0.0 { poisson_binomial(chances.iter().copied()) } else { latent_counts(chances, r) }
        }
        BatteryDependence::Covariance { diseased, non_diseased } => {
            let &[p, q] = chances else { return poisson_binomial(chances.iter().copied()) };
            // A figure at the end of its interval may allow less than its estimate.
            let [least, largest] = covariance_range(p, q);
            let covariance = (if group == 0 { diseased } else { non_diseased }).clamp(least, largest);
            let clean = |share: f64| if share < 1e-14 { 0.0 } else { share };
            let (both, neither) = (clean(p * q + covariance), clean((1.0 - p) * (1.0 - q) + covariance));
            vec![neither, clean(p * (1.0 - q) - covariance) + clean((1.0 - p) * q - covariance), both]
        }
    }
}
