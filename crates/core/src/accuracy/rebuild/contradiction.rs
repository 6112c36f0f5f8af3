//! Which statements of a report cannot all be true.

use super::search::{Search, own_cells};
use super::{Fact, Figure, Total};

/// Statements that contradict each other, as few as suffice: none can be left out without losing the proof, and where one or two are enough, one
/// or two are named. `None` when the report is not known to contradict itself.
pub(super) fn smallest_contradiction(facts: &[Fact]) -> Option<Vec<usize>> {
    let impossible = |kept: &[usize]| impossible(&kept.iter().map(|index| facts[*index]).collect::<Vec<_>>());
    let all: Vec<usize> = (0..facts.len()).collect();
    let single = all.iter().map(|one| vec![*one]);
    let pairs = all.iter().flat_map(|one| (0..*one).map(move |other| vec![other, *one]));
    if let Some(few) = single.chain(pairs).find(|few| impossible(few)) {
        return Some(few);
    }
    if !impossible(&all) {
        return None;
    }
    let mut kept = all;
    for candidate in 0..facts.len() {
        let without: Vec<usize> = kept.iter().copied().filter(|index| *index != candidate).collect();
        if impossible(&without) {
            kept = without;
        }
    }
    Some(kept)
}

/// Whether no table at all, of whatever size, gives these statements. With the number of people known the complete search tells; without it
/// there are proofs that need no size. `false` means "not known to be impossible".
fn impossible(facts: &[Fact]) -> bool {
    if let Ok(search) = Search::new(facts, 0)
        && search.limit().is_none()
    {
        return search.run(0).is_ok_and(|tables| tables.is_empty());
    }
    two_numbers_for_one(facts) || no_share_of_a_known_group(facts) || figures_out_of_reach(facts)
}

/// One number of people stated twice, differently.
fn two_numbers_for_one(facts: &[Fact]) -> bool {
    let totals = || {
        facts
            .iter()
            .filter_map(|fact| if let Fact::Total { total, value } = fact { Some((total, value)) } else { None })
    };
    totals().any(|(total, value)| totals().any(|(other, stated)| other == total && stated != value))
}

/// A share of a group of known size that no whole number of its people gives: 85 % of 3.
fn no_share_of_a_known_group(facts: &[Fact]) -> bool {
    let size = |wanted: Total| {
        facts.iter().find_map(|fact| match fact {
            Fact::Total { total, value } if *total == wanted => Some(*value),
            _ => None,
        })
    };
    [
        (Total::Diseased, Figure::Sensitivity),
        (Total::NonDiseased, Figure::Specificity),
        (Total::TestPositive, Figure::Ppv),
        (Total::TestNegative, Figure::Npv),
    ]
    .into_iter()
    .any(|(total, figure)| {
        let stated = facts.iter().any(|fact| fact.is_about(figure));
        stated && size(total).is_some_and(|size| own_cells(facts, size, figure).is_empty())
    })
}

/// Figures that no sensitivity, specificity and prevalence within what is stated of them can give. Every figure grows or falls throughout with each of
/// the three, so that its extremes lie at the corners of what is possible.
fn figures_out_of_reach(facts: &[Fact]) -> bool {
    let stated = |wanted: Figure| {
        let ranges = facts.iter().filter_map(|fact| match fact {
            Fact::Figure { figure, value } if *figure == wanted => Some(value.range()),
            _ => None,
        });
        ranges.fold((0.0_f64, f64::INFINITY), |(low, high), (from, to)| (low.max(from), high.min(to)))
    };
    let share = |figure: Figure| {
        let (low, high) = stated(figure);
        (low, high.min(1.0))
    };
    let [(se0, se1), (sp0, sp1), (p0, p1)] = [Figure::Sensitivity, Figure::Specificity, Figure::Prevalence].map(share);
    let corners = || {
        [(se0, sp0), (se0, sp1), (se1, sp0), (se1, sp1)].into_iter().flat_map(|(se, sp)| [(se, sp, p0), (se, sp, p1)])
    };
    let reached = |of: FromShares| {
        // A corner where the figure is 0/0 says nothing: then everything is within reach.
        corners().map(|(se, sp, p)| of(se, sp, p)).fold((f64::INFINITY, f64::NEG_INFINITY), |(low, high), value| {
            if value.is_nan() { (f64::NEG_INFINITY, f64::INFINITY) } else { (low.min(value), high.max(value)) }
        })
    };
    let apart = |(a0, a1): (f64, f64), (b0, b1): (f64, f64)| a0 > b1 + REACH || b0 > a1 + REACH;
    let derived: [(Figure, FromShares); 6] = [
        (Figure::LrPositive, |se, sp, _| se / (1.0 - sp)),
        (Figure::LrNegative, |se, sp, _| (1.0 - se) / sp),
        (Figure::Dor, |se, sp, _| se * sp / ((1.0 - se) * (1.0 - sp))),
        (Figure::Accuracy, |se, sp, p| p * se + (1.0 - p) * sp),
        (Figure::Ppv, |se, sp, p| p * se / (p * se + (1.0 - p) * (1.0 - sp))),
        (Figure::Npv, |se, sp, p| (1.0 - p) * sp / ((1.0 - p) * sp + p * (1.0 - se))),
    ];
    let empty = [(se0, se1), (sp0, sp1), (p0, p1)].into_iter().any(|(low, high)| low > high);
    empty
        || derived.into_iter().any(|(figure, of)| {
            let (low, high) = stated(figure);
            low > high || apart((low, high), reached(of))
        })
}

/// A figure by sensitivity, specificity and prevalence.
type FromShares = fn(f64, f64, f64) -> f64;

/// Rounding of these few operations stays far below.
const REACH: f64 = 1e-9;
