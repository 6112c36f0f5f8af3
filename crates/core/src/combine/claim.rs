//! What somebody claims of several tests read together: whether it can be true at all, given the single tests.

use serde::Serialize;

use super::bounds::at_least_bounds;
use super::error::CombineError;
use super::latent::RulesAt;
use super::rules::{RuleAccuracy, check_number, check_rule};
use crate::Probability;
use crate::accuracy::Rounded;

/// Closer than this, two chances are one: what differs is rounding in the computation.
const SAME: f64 = 1e-12;

/// What is known of a single test, as ranges from the least to the largest value: a point where it is taken as exact, the values that are printed
/// alike where it was read in print, a confidence interval where it was estimated.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct SingleRange {
    /// Of its sensitivity.
    pub sensitivity: [f64; 2],
    /// Of its specificity.
    pub specificity: [f64; 2],
}

/// What is claimed of the rule "at least `k` are positive"; a figure that is not claimed is left out.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Claim {
    /// Positive tests from which on the rule is positive.
    pub k: usize,
    /// Sensitivity, as written.
    pub sensitivity: Option<Rounded>,
    /// Specificity, as written.
    pub specificity: Option<Rounded>,
}

/// Why a claimed figure cannot be.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum ClaimFault {
    /// No dependence between the tests brings the rule so high.
    TooHigh,
    /// No dependence brings it so low.
    TooLow,
}

/// One claimed figure beside what is possible.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct FigureCheck {
    /// The values that are written like this, both ends included; not cut to 0 and 1.
    pub window: [f64; 2],
    /// Least and largest value that any dependence gives.
    pub possible: [Probability; 2],
    /// Why it cannot be; `None` when it can.
    pub fault: Option<ClaimFault>,
    /// It is possible only at the upper end of the window, which rounds to this figure to the even digit and not upwards.
    pub only_half_even: bool,
    /// How much higher (or, below 0, lower) this figure of every single test would have to be for the claim; `None` when it is possible, or when no
    /// such shift makes it so.
    pub shift: Option<f64>,
}

/// One claim.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ClaimCheck {
    /// Positive tests from which on the rule is positive.
    pub k: usize,
    /// Its sensitivity, when one is claimed.
    pub sensitivity: Option<FigureCheck>,
    /// Its specificity.
    pub specificity: Option<FigureCheck>,
    /// Both figures can be true; they can be so at once, since one class tells nothing of the other.
    pub possible: bool,
}

/// All claims of the same tests.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ClaimsCheck {
    /// Each for itself.
    pub claims: Vec<ClaimCheck>,
    /// By how much all windows of sensitivity would have to be wider for one group of people to show all of them; 0 when they fit together.
    pub sensitivity_slack: f64,
    /// The same of specificity.
    pub specificity_slack: f64,
    /// One group with the condition and one without it can show all claims at once.
    pub together_possible: bool,
}

/// Checks claims about rules of the same tests under any dependence.
///
/// Each figure is compared with the sharp bounds of its rule ([`super::rule_bounds`]), taken at the most favourable values in the ranges of the
/// single tests. All claims together ask for one law of the number of positive tests in each class: with `t_k = P(at least k)`, the laws that the
/// chances `p` of the single tests allow are exactly the falling `t` in [0, 1] that majorise `p` (the sum of all `t` is that of all `p`, the sum of the
/// first `m` at least that of the `m` largest `p`; Rueger 1978). For them the single figures are taken at the middle of their ranges.
///
/// # Errors
/// [`CombineError`] for the number of tests, a rule, or a range that is none.
pub fn check_claims(tests: &[SingleRange], claims: &[Claim]) -> Result<ClaimsCheck, CombineError> {
    check_number(tests.len())?;
    for [low, high] in tests.iter().flat_map(|it| [it.sensitivity, it.specificity]) {
        if !(0.0 <= low && low <= high && high <= 1.0) {
            return Err(CombineError::Range(low, high));
        }
    }
    let n = tests.len();
    let sensitivity: Vec<[f64; 2]> = tests.iter().map(|it| it.sensitivity).collect();
    let specificity: Vec<[f64; 2]> = tests.iter().map(|it| it.specificity).collect();
    let mut checks = Vec::with_capacity(claims.len());
    for claim in claims {
        check_rule(claim.k, n)?;
        let sens = claim.sensitivity.map(|figure| check_figure(&sensitivity, claim.k, figure));
        // Negative are those with at least n - k + 1 negative tests.
        let spec = claim.specificity.map(|figure| check_figure(&specificity, n - claim.k + 1, figure));
        let possible = [sens, spec].into_iter().flatten().all(|it| it.fault.is_none());
        checks.push(ClaimCheck { k: claim.k, sensitivity: sens, specificity: spec, possible });
    }
    let windows = |figure: fn(&ClaimCheck) -> Option<FigureCheck>, place: &dyn Fn(usize) -> usize| {
        checks.iter().filter_map(|it| Some((place(it.k), figure(it)?.window))).collect::<Vec<_>>()
    };
    let middle = |ranges: &[[f64; 2]]| ranges.iter().map(|[low, high]| f64::midpoint(*low, *high)).collect::<Vec<_>>();
    let sensitivity_slack = slack(&middle(&sensitivity), &windows(|it| it.sensitivity, &|k| k));
    let specificity_slack = slack(&middle(&specificity), &windows(|it| it.specificity, &|k| n - k + 1));
    Ok(ClaimsCheck {
        claims: checks,
        sensitivity_slack,
        specificity_slack,
        together_possible: sensitivity_slack == 0.0 && specificity_slack == 0.0,
    })
}

/// How the tests would have to depend on each other for a claimed figure that is possible.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[serde(tag = "code", rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum NeededDependence {
    /// By a correlation of the latent variables from one to another; from 0 where independent tests do it, too.
    Correlation {
        /// The least that does it.
        from: f64,
        /// The largest of those in a row with it.
        to: f64,
    },
    /// By none from 0 to 0.95: their results would have to exclude each other more often than by chance, or to depend otherwise than by one shared
    /// factor.
    Otherwise,
}

/// How dependent the tests would have to be for a figure of the rule "at least `k`" to come out as claimed, by the rules along the correlation
/// ([`super::rules_by_correlation`]); between two of its correlations a figure is taken to change in a straight line.
///
/// # Errors
/// [`CombineError::Rule`].
pub fn needed_dependence(
    along: &[RulesAt],
    k: usize,
    claimed: Rounded,
    of: fn(&RuleAccuracy) -> Probability,
) -> Result<NeededDependence, CombineError> {
    let n = along.first().map_or(0, |it| it.rules.len());
    check_rule(k, n)?;
    let [low, high] = claimed.window();
    let points: Vec<[f64; 2]> = along.iter().map(|it| [it.correlation, of(&it.rules[k - 1]).get()]).collect();
    let mut found: Option<[f64; 2]> = None;
    for pair in points.windows(2) {
        let [[r1, v1], [r2, v2]] = [pair[0], pair[1]];
        // Where on the way from one value to the other the window begins and ends.
        let share = |value: f64| if v1 == v2 { 0.0 } else { ((value - v1) / (v2 - v1)).clamp(0.0, 1.0) };
        let meets = v1.min(v2) <= high + SAME && v1.max(v2) >= low - SAME;
        if meets {
            let (one, other) = if v1 == v2 { (0.0, 1.0) } else { (share(low), share(high)) };
            let at = |share: f64| r1 + share * (r2 - r1);
            let (from, to) = (at(one.min(other)), at(one.max(other)));
            let [first, _] = *found.get_or_insert([from, to]);
            found = Some([first, to]);
        } else if found.is_some() {
            break;
        }
    }
    Ok(found.map_or(NeededDependence::Otherwise, |[from, to]| NeededDependence::Correlation { from, to }))
}

/// A claimed chance that at least `k` of events happen, whose own chances lie in `ranges`.
fn check_figure(ranges: &[[f64; 2]], k: usize, figure: Rounded) -> FigureCheck {
    let [low, high] = figure.window();
    let bounds = |shift: f64| {
        let at = |end: usize| ranges.iter().map(|range| (range[end] + shift).clamp(0.0, 1.0)).collect::<Vec<_>>();
        [at_least_bounds(&at(0), k)[0], at_least_bounds(&at(1), k)[1]]
    };
    let fault = |[least, largest]: [f64; 2]| {
        if low > largest + SAME {
            Some(ClaimFault::TooHigh)
        } else {
            (high < least - SAME).then_some(ClaimFault::TooLow)
        }
    };
    let [least, largest] = bounds(0.0);
    let found = fault([least, largest]);
    let shift = found.and_then(|fault_now| {
        // The bounds rise with the shift, so that the least one is found by halving.
        let sign = if fault_now == ClaimFault::TooHigh { 1.0 } else { -1.0 };
        let enough = |by: f64| fault(bounds(sign * by)) != found;
        enough(1.0).then(|| sign * halve(enough))
    });
    FigureCheck {
        window: [low, high],
        possible: [least, largest].map(Probability::rounded),
        fault: found,
        only_half_even: found.is_none() && least >= high - SAME,
        shift,
    }
}

/// The least number in [0, 1] from which on something holds; it must hold at 1.
fn halve(holds: impl Fn(f64) -> bool) -> f64 {
    let (mut low, mut high) = (0.0, 1.0);
    for _ in 0..60 {
        let middle = f64::midpoint(low, high);
        if holds(middle) {
            high = middle;
        } else {
            low = middle;
        }
    }
    high
}

/// How much wider all windows must be for one law of the number of events: windows stand with the number of events that they are about.
fn slack(chances: &[f64], windows: &[(usize, [f64; 2])]) -> f64 {
    if law_exists(chances, windows, 0.0) { 0.0 } else { 2.0 * halve(|half| law_exists(chances, windows, 2.0 * half)) }
}

/// Whether a falling `t` within the windows majorises the chances. Windows narrow each other, since `t` falls; of all `t` within them with the right
/// sum, the one that is as high as it can be first and as low as it can be last has the largest partial sums of all.
fn law_exists(chances: &[f64], windows: &[(usize, [f64; 2])], wider: f64) -> bool {
    let n = chances.len();
    let (mut least, mut largest) = (vec![0.0_f64; n], vec![1.0_f64; n]);
    for (k, [low, high]) in windows {
        for at_least in &mut least[..*k] {
            *at_least = at_least.max(low - wider);
        }
        for at_most in &mut largest[k - 1..] {
            *at_most = at_most.min(high + wider);
        }
    }
    let total: f64 = chances.iter().sum();
    let mut falling = chances.to_vec();
    falling.sort_by(|one, other| other.total_cmp(one));
    least.iter().zip(&largest).all(|(least, largest)| *least <= largest + SAME)
        && least.iter().sum::<f64>() <= total + SAME
        && total <= largest.iter().sum::<f64>() + SAME
        && (1..n).all(|m| {
            let most = largest[..m].iter().sum::<f64>().min(total - least[m..].iter().sum::<f64>());
            falling[..m].iter().sum::<f64>() <= most + SAME
        })
}
