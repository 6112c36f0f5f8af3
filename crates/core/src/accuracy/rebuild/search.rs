//! The complete search over all tables of a size.

use super::rounded::{Rounded, Rules};
use super::{Fact, Figure, MAX_N, MAX_UNKNOWN_ARM, RebuildError, RebuiltTable, Total};
use crate::Level;
use crate::accuracy::{ProportionMethod, proportion_interval};

/// The report, sorted for the search.
pub(super) struct Search<'a> {
    facts: &'a [Fact],
    /// Of each statement the values that are printed like it; looked up millions of times.
    ranges: Vec<(f64, f64)>,
    n: Option<u32>,
    diseased: Option<u32>,
    non_diseased: Option<u32>,
    max_per_arm: u32,
}

impl<'a> Search<'a> {
    pub(super) fn new(facts: &'a [Fact], max_per_arm: u32) -> Result<Self, RebuildError> {
        let total = |wanted: Total| {
            facts.iter().find_map(|fact| match fact {
                Fact::Total { total, value } if *total == wanted => Some(*value),
                _ => None,
            })
        };
        let (diseased, non_diseased) = (total(Total::Diseased), total(Total::NonDiseased));
        let by_results = total(Total::TestPositive).zip(total(Total::TestNegative)).map(|(a, b)| a.saturating_add(b));
        let by_groups = diseased.zip(non_diseased).map(|(a, b)| a.saturating_add(b));
        let n = total(Total::N).or(by_groups).or(by_results);
        let range = |fact: &Fact| match fact {
            Fact::Figure { value, .. } => value.range(),
            Fact::Interval { .. } | Fact::Total { .. } => (0.0, f64::INFINITY),
        };
        let (ranges, max_per_arm) = (facts.iter().map(range).collect(), max_per_arm.min(MAX_UNKNOWN_ARM));
        let search = Self { facts, ranges, n, diseased, non_diseased, max_per_arm };
        match n {
            Some(n) if n > MAX_N => Err(RebuildError::TooLarge(n)),
            None if !(search.reports(Figure::Sensitivity) && search.reports(Figure::Specificity)) => {
                Err(RebuildError::TooOpen)
            }
            _ => Ok(search),
        }
    }

    /// The largest group that is tried, where N is unknown.
    pub(super) fn limit(&self) -> Option<u32> {
        self.n.is_none().then_some(self.max_per_arm)
    }

    /// Whether an arm's own figure or interval is given.
    fn reports(&self, wanted: Figure) -> bool {
        self.facts.iter().any(|fact| fact.is_about(wanted))
    }

    /// All tables, or the error [`RebuildError::TooMany`] beyond `limit`; with a limit of 0 the first one found is enough.
    pub(super) fn run(&self, limit: usize) -> Result<Vec<RebuiltTable>, RebuildError> {
        let sizes = |fixed: Option<u32>, figure: Figure| match (fixed, self.n) {
            (Some(size), _) => size..=size,
            (None, Some(n)) => 0..=n,
            (None, None) => u32::from(self.reports(figure))..=self.max_per_arm,
        };
        let mut tables = Vec::new();
        // Without N every size of the second group meets every size of the first: keep what fits each.
        let second = |n0: u32| self.arm(n0, Figure::Specificity);
        let all_second: Vec<(u32, Vec<Part>)> = if self.n.is_none() {
            sizes(self.non_diseased, Figure::Specificity).map(|n0| (n0, second(n0))).collect()
        } else {
            Vec::new()
        };
        for n1 in sizes(self.diseased, Figure::Sensitivity).filter(|n1| self.prevalent(*n1)) {
            let first = self.arm(n1, Figure::Sensitivity);
            if first.is_empty() {
                continue;
            }
            let fitting: Vec<(u32, Vec<Part>)> = match self.n {
                Some(n) => match n.checked_sub(n1) {
                    Some(n0) if self.non_diseased.is_none_or(|given| given == n0) => vec![(n0, second(n0))],
                    _ => continue,
                },
                None => Vec::new(),
            };
            let groups = if self.n.is_some() { &fitting } else { &all_second };
            for (n0, cells) in groups {
                for one in &first {
                    self.join(n1, *n0, *one, cells, &mut tables);
                    if limit == 0 && !tables.is_empty() {
                        return Ok(tables);
                    }
                    if limit > 0 && tables.len() > limit {
                        return Err(RebuildError::TooMany);
                    }
                }
            }
        }
        Ok(tables)
    }

    /// Whether a printed prevalence lets so many people have the condition; when their number in all is open it says nothing yet.
    fn prevalent(&self, n1: u32) -> bool {
        let Some(n) = self.n.map(f64::from) else { return true };
        self.facts.iter().zip(&self.ranges).all(|(fact, (from, to))| match fact {
            Fact::Figure { figure: Figure::Prevalence, .. } => {
                f64::from(n1) >= from * n - SLACK && f64::from(n1) <= to * n + SLACK
            }
            _ => true,
        })
    }

    /// What an arm of `n` people may hold by its own figures.
    fn arm(&self, n: u32, figure: Figure) -> Vec<Part> {
        own_cells(self.facts, n, figure)
    }

    /// Tries one first arm with all second arms, narrowed by the figures that join both.
    fn join(&self, n1: u32, n0: u32, one: Part, cells: &[Part], tables: &mut Vec<RebuiltTable>) {
        let (low, high) = self.joint_range(n1, n0, one.correct);
        // Mostly there is no whole number between the bounds.
        if low.ceil() > high {
            return;
        }
        let start = cells.partition_point(|cell| f64::from(cell.correct) < low);
        for cell in cells[start..].iter().take_while(|cell| f64::from(cell.correct) <= high) {
            let rules = one.rules.and(cell.rules).and(self.joint_rules(n1, n0, one.correct, cell.correct));
            if rules.any() {
                let (tp, tn) = (one.correct, cell.correct);
                tables.push(RebuiltTable { tp, fp: n0 - tn, fn_: n1 - tp, tn, rules });
            }
        }
    }

    /// Bounds of TN given the first arm, from figures that grow or fall with it; a little wide.
    fn joint_range(&self, n1: u32, n0: u32, tp: u32) -> (f64, f64) {
        let (n1, n0, tp) = (f64::from(n1), f64::from(n0), f64::from(tp));
        let fn_ = n1 - tp;
        let (mut low, mut high) = (0.0_f64, n0);
        let mut within = |from: f64, to: f64| {
            // NaN bounds (0/0) say nothing.
            if from > low {
                low = from;
            }
            if to < high {
                high = to;
            }
        };
        for (fact, &(from, to)) in self.facts.iter().zip(&self.ranges) {
            match fact {
                Fact::Figure { figure, .. } => match figure {
                    Figure::Accuracy => within(from * (n1 + n0) - tp, to * (n1 + n0) - tp),
                    Figure::Ppv if from > 0.0 => within(n0 - tp * (1.0 / from - 1.0), n0 - tp * (1.0 / to - 1.0)),
                    Figure::Npv if to < 1.0 => within(fn_ * from / (1.0 - from), fn_ * to / (1.0 - to)),
                    Figure::LrPositive if from > 0.0 => {
                        within(n0 - tp * n0 / (n1 * from), n0 - tp * n0 / (n1 * to));
                    }
                    Figure::LrNegative if from > 0.0 => within(fn_ * n0 / (n1 * to), fn_ * n0 / (n1 * from)),
                    // TP TN / (FN (n0 - TN)) grows with TN.
                    Figure::Dor if from > 0.0 => {
                        let at = |odds: f64| odds * fn_ * n0 / (tp + odds * fn_);
                        within(at(from), at(to));
                    }
                    _ => {}
                },
                Fact::Total { total: Total::TestPositive, value } => {
                    let tn = n0 - (f64::from(*value) - tp);
                    within(tn, tn);
                }
                Fact::Total { total: Total::TestNegative, value } => {
                    let tn = f64::from(*value) - fn_;
                    within(tn, tn);
                }
                _ => {}
            }
        }
        (low - SLACK, high + SLACK)
    }

    fn joint_rules(&self, n1: u32, n0: u32, tp: u32, tn: u32) -> Rules {
        let [n1, n0, tp, tn] = [n1, n0, tp, tn].map(u128::from);
        let (fn_, fp) = (n1 - tp, n0 - tn);
        self.facts.iter().fold(Rules::ALL, |rules, fact| {
            let holds = match fact {
                Fact::Figure { figure, value } => match figure {
                    Figure::Sensitivity | Figure::Specificity => Rules::ALL,
                    Figure::Ppv => value.matches(tp, tp + fp),
                    Figure::Npv => value.matches(tn, tn + fn_),
                    Figure::Accuracy => value.matches(tp + tn, n1 + n0),
                    Figure::Prevalence => value.matches(n1, n1 + n0),
                    Figure::LrPositive => value.matches(tp * n0, fp * n1),
                    Figure::LrNegative => value.matches(fn_ * n0, tn * n1),
                    Figure::Dor => value.matches(tp * tn, fp * fn_),
                },
                Fact::Interval { .. } => Rules::ALL,
                Fact::Total { total, value } => {
                    let counted = match total {
                        Total::N => n1 + n0,
                        Total::Diseased => n1,
                        Total::NonDiseased => n0,
                        Total::TestPositive => tp + fp,
                        Total::TestNegative => tn + fn_,
                    };
                    if counted == u128::from(*value) { Rules::ALL } else { Rules::NONE }
                }
            };
            rules.and(holds)
        })
    }
}

/// Counts are whole numbers below 10^4: bounds of them are off by less than this, and what is kept wrongly is tried exactly.
const SLACK: f64 = 1e-6;

/// A part of a group, and the rules under which the group's own figures come out.
#[derive(Debug, Clone, Copy)]
pub(super) struct Part {
    pub correct: u32,
    pub rules: Rules,
}

/// How many of a group of `n` people may be in the part of which a figure tells the share, by the figure itself and its interval.
pub(super) fn own_cells(facts: &[Fact], n: u32, figure: Figure) -> Vec<Part> {
    let own = || facts.iter().filter(|fact| fact.is_about(figure));
    let (mut low, mut high) = (0, n);
    for fact in own() {
        if let Fact::Figure { value, .. } = fact {
            let (from, to) = value.range();
            low = low.max((from * f64::from(n)).floor().max(0.0) as u32);
            high = high.min((to * f64::from(n)).ceil() as u32);
        }
    }
    let rules = |correct: u32| {
        own().fold(Rules::ALL, |rules, fact| match fact {
            Fact::Figure { value, .. } => rules.and(value.matches(u128::from(correct), u128::from(n))),
            Fact::Interval { lower, upper, method, .. } => {
                rules.and(interval_matches(correct, n, *lower, *upper, *method))
            }
            Fact::Total { .. } => rules,
        })
    };
    (low..=high).map(|correct| Part { correct, rules: rules(correct) }).filter(|part| part.rules.any()).collect()
}

fn interval_matches(correct: u32, n: u32, lower: Rounded, upper: Rounded, method: ProportionMethod) -> Rules {
    let interval = proportion_interval(u64::from(correct), u64::from(n), Level::default(), method);
    match interval {
        Some(ci) if lower.is(ci.lower.get()) && upper.is(ci.upper.get()) => Rules::ALL,
        _ => Rules::NONE,
    }
}
