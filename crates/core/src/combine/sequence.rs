//! Tests one after the other: what the next one would tell, and when to stop.

use serde::Serialize;

use super::rules::{PatternResult, TestAccuracy};
use crate::Probability;
use crate::likelihood::{Thresholds, Zone};

/// Expected information of a test at a probability, in bits: the mutual information of condition and result,
/// `H(p) - P(+) H(p|+) - P(-) H(p|-)` with `H(p) = -p log2 p - (1 - p) log2(1 - p)` (Metz, Goodenough and Rossmann 1973).
///
/// 0 for a test that tells nothing, and never more than `H(p)`.
#[must_use]
pub fn expected_information(pre_test: Probability, test: TestAccuracy) -> f64 {
    let (p, se, sp) = (pre_test.get(), test.sensitivity.get(), test.specificity.get());
    information(p, [se, 1.0 - se], [1.0 - sp, sp])
}

fn information(p: f64, diseased: [f64; 2], others: [f64; 2]) -> f64 {
    let after: f64 = (0..2)
        .map(|result| {
            let chance = p * diseased[result] + (1.0 - p) * others[result];
            if chance > 0.0 { chance * entropy(p * diseased[result] / chance) } else { 0.0 }
        })
        .sum();
    (entropy(p) - after).max(0.0)
}

fn entropy(p: f64) -> f64 {
    let part = |p: f64| if p > 0.0 { -p * p.log2() } else { 0.0 };
    part(p) + part(1.0 - p)
}

/// One test of a sequence.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct SequenceStep {
    /// How often it is still needed.
    pub needed: Probability,
    /// Information expected of it when it is needed, in bits.
    pub information: f64,
}

/// What becomes of patients who are tested until a threshold is crossed.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Sequence {
    /// Tests in the order in which they are made.
    pub steps: Vec<SequenceStep>,
    /// Mean number of tests made.
    pub expected_tests: f64,
    /// How often it ends below the threshold for reassuring.
    pub reassured: Probability,
    /// How often no threshold has been crossed after the last test.
    pub undecided: Probability,
    /// How often it ends above the threshold for treating.
    pub treated: Probability,
    /// Chance of the condition among the reassured; `None` when nobody is.
    pub condition_if_reassured: Option<Probability>,
    /// Chance of the condition among the treated; `None` when nobody is.
    pub condition_if_treated: Option<Probability>,
    /// After how many negative results in a row enough is known to reassure; `None` when not even after all of them.
    pub enough_negative: Option<usize>,
    /// After how many positive results in a row enough is known to treat; `None` when not even after all of them.
    pub enough_positive: Option<usize>,
}

/// Follows every pattern of results until the probability crosses a threshold; further tests are then not made.
///
/// `patterns` are all results of the tests in their order, from [`super::pattern_results`] or, with dependence, from
/// [`super::pattern_results_latent`]. A pre-test probability beyond a threshold needs no test. `None` unless the number of patterns
/// is a power of two.
#[must_use]
pub fn sequence(patterns: &[PatternResult], pre_test: Probability, thresholds: &Thresholds) -> Option<Sequence> {
    let n = patterns.first()?.positive.len();
    if patterns.len() != 1_usize.checked_shl(n as u32)? {
        return None;
    }
    let mut walk = Walk::new(pre_test, thresholds, n);
    walk.visit(patterns, 0);
    // All patterns that begin with so many results of one kind: those with a negative next result stand first.
    let enough = |positive: bool, zone: Zone| {
        (0..=n).find(|made| {
            let count = patterns.len() >> made;
            let run = if positive { &patterns[patterns.len() - count..] } else { &patterns[..count] };
            reach(run, walk.pre_test).1.is_some_and(|p| thresholds.zone(p) == zone)
        })
    };
    let (enough_negative, enough_positive) = (enough(false, Zone::Reassure), enough(true, Zone::Treat));
    let share = |end: [f64; 2]| Probability::rounded(end[0] + end[1]);
    let condition = |end: [f64; 2]| (end[0] + end[1] > 0.0).then(|| Probability::rounded(end[0] / (end[0] + end[1])));
    let [reassured, undecided, treated] = walk.ends;
    Some(Sequence {
        expected_tests: walk.steps.iter().map(|[needed, _]| needed).sum(),
        steps: walk
            .steps
            .iter()
            .map(|[needed, bits]| SequenceStep {
                needed: Probability::rounded(*needed),
                information: if *needed > 0.0 { bits / needed } else { 0.0 },
            })
            .collect(),
        reassured: share(reassured),
        undecided: share(undecided),
        treated: share(treated),
        condition_if_reassured: condition(reassured),
        condition_if_treated: condition(treated),
        enough_negative,
        enough_positive,
    })
}

/// Where those end who cross no threshold: with which probability of the condition, and how often; the shares sum to [`Sequence::undecided`].
///
/// `patterns` as for [`sequence`]. `None` unless their number is a power of two.
#[must_use]
pub fn undecided_ends(
    patterns: &[PatternResult],
    pre_test: Probability,
    thresholds: &Thresholds,
) -> Option<Vec<[Probability; 2]>> {
    let n = patterns.first()?.positive.len();
    if patterns.len() != 1_usize.checked_shl(n as u32)? {
        return None;
    }
    let mut walk = Walk::new(pre_test, thresholds, n);
    walk.visit(patterns, 0);
    let end = |[with, chance]: [f64; 2]| [Probability::rounded(with / chance), Probability::rounded(chance)];
    Some(walk.between.into_iter().map(end).collect())
}

/// How often patients show one of these patterns, and the probability of the condition then; `None` when nobody does.
fn reach(patterns: &[PatternResult], pre_test: f64) -> (f64, Option<Probability>) {
    let sum = |of: fn(&PatternResult) -> Probability| patterns.iter().map(|it| of(it).get()).sum::<f64>();
    let with = pre_test * sum(|it| it.diseased);
    let chance = with + (1.0 - pre_test) * sum(|it| it.non_diseased);
    (chance, (chance > 0.0).then(|| Probability::rounded(with / chance)))
}

/// For each test in its order, in how many patients its result changes what is done: leads the probability into another zone than the results before
/// it had; `zone` says what is done at a probability. Every test is made, whatever those before it said; for one that is left out after a threshold see [`sequence`].
///
/// `patterns` as for [`sequence`]. `None` unless their number is a power of two.
#[must_use]
pub fn decision_changes<Z: PartialEq>(
    patterns: &[PatternResult],
    pre_test: Probability,
    zone: impl Fn(Probability) -> Z,
) -> Option<Vec<Probability>> {
    let n = patterns.first()?.positive.len();
    if patterns.len() != 1_usize.checked_shl(n as u32)? {
        return None;
    }
    let reach = |patterns: &[PatternResult]| {
        let (chance, p) = reach(patterns, pre_test.get());
        (chance, p.map(&zone))
    };
    let changes = (0..n).map(|made| {
        // Patterns that begin with the same results stand together.
        let before = patterns.chunks(1 << (n - made));
        let changed = before.map(|before| {
            let (_, at) = reach(before);
            let (negative, positive) = before.split_at(before.len() / 2);
            let moved =
                [negative, positive].map(reach).into_iter().filter(|(_, after)| after.is_some() && *after != at);
            moved.map(|(chance, _)| chance).sum::<f64>()
        });
        Probability::rounded(changed.sum())
    });
    Some(changes.collect())
}

struct Walk<'a> {
    pre_test: f64,
    thresholds: &'a Thresholds,
    /// Per test: how often it is needed, and the information it brings times that.
    steps: Vec<[f64; 2]>,
    /// Reassured, undecided, treated: how often, with the condition and without it.
    ends: [[f64; 2]; 3],
    /// Each end between the thresholds: how often with the condition, and how often at all.
    between: Vec<[f64; 2]>,
}

impl<'a> Walk<'a> {
    fn new(pre_test: Probability, thresholds: &'a Thresholds, n: usize) -> Self {
        let (steps, ends) = (vec![[0.0; 2]; n], [[0.0; 2]; 3]);
        Self { pre_test: pre_test.get(), thresholds, steps, ends, between: Vec::new() }
    }

    /// Patterns that begin with the same results stand together, those with a negative next result first.
    fn visit(&mut self, patterns: &[PatternResult], made: usize) {
        let sum = |patterns: &[PatternResult]| {
            patterns.iter().fold([0.0; 2], |[d, o], p| [d + p.diseased.get(), o + p.non_diseased.get()])
        };
        let [d, o] = sum(patterns);
        let (with, without) = (self.pre_test * d, (1.0 - self.pre_test) * o);
        let chance = with + without;
        if chance <= 0.0 {
            return;
        }
        let zone = self.thresholds.zone(Probability::rounded(with / chance));
        if zone != Zone::Between || made == self.steps.len() {
            let end = match zone {
                Zone::Reassure => 0,
                Zone::Between => 1,
                Zone::Treat => 2,
            };
            self.ends[end] = [self.ends[end][0] + with, self.ends[end][1] + without];
            if zone == Zone::Between {
                self.between.push([with, chance]);
            }
            return;
        }
        let (negative, positive) = patterns.split_at(patterns.len() / 2);
        let ([dn, on], [dp, op]) = (sum(negative), sum(positive));
        let given = |part: f64, whole: f64| if whole > 0.0 { part / whole } else { 0.0 };
        let bits = information(with / chance, [given(dp, d), given(dn, d)], [given(op, o), given(on, o)]);
        self.steps[made] = [self.steps[made][0] + chance, self.steps[made][1] + chance * bits];
        self.visit(negative, made + 1);
        self.visit(positive, made + 1);
    }
}
