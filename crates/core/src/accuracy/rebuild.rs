//! Rebuilding the 2x2 table behind a report that gives only rounded figures: a complete search, not a guess.
//!
//! Rounding is decided on exact fractions, never on binary floats: 0.125 is a tie, and whether it is written 0.12 or
//! 0.13 tells half-even from half-up. One rule holds for all figures of a report.

use serde::{Deserialize, Serialize};

use super::{ProportionMethod, proportion_interval};
use crate::Level;

/// A figure that a report may give.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Figure {
    /// TP / (TP + FN).
    Sensitivity,
    /// TN / (TN + FP).
    Specificity,
    /// TP / (TP + FP).
    Ppv,
    /// TN / (TN + FN).
    Npv,
    /// (TP + TN) / N.
    Accuracy,
    /// (TP + FN) / N.
    Prevalence,
    /// Se / (1 - Sp).
    LrPositive,
    /// (1 - Se) / Sp.
    LrNegative,
    /// TP TN / (FP FN).
    Dor,
}

/// A whole number that a report may give.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Total {
    /// Everybody.
    N,
    /// People with the condition.
    Diseased,
    /// People without it.
    NonDiseased,
    /// Positive results.
    TestPositive,
    /// Negative results.
    TestNegative,
}

/// A number as it was printed: its decimals count.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Rounded {
    mantissa: u64,
    decimals: u32,
    percent: bool,
}

impl Rounded {
    /// Reads `0.78`, or `78` and `77.4` with `percent`. `None` for anything else than digits with one point.
    #[must_use]
    pub fn parse(text: &str, percent: bool) -> Option<Self> {
        let (whole, fraction) = text.trim().split_once('.').unwrap_or((text.trim(), ""));
        let digits = format!("{whole}{fraction}");
        let plain = !whole.is_empty() && digits.len() <= 15 && digits.bytes().all(|b| b.is_ascii_digit());
        let mantissa = digits.parse().ok().filter(|_| plain)?;
        Some(Self { mantissa, decimals: fraction.len() as u32, percent })
    }

    /// The factor that turns a value into units of the last printed digit.
    fn scale(self) -> u128 {
        10_u128.pow(self.decimals) * if self.percent { 100 } else { 1 }
    }

    /// Whether `num / den` is printed like this by rounding halves up, and by rounding them to even.
    fn matches(self, num: u128, den: u128) -> Rules {
        if den == 0 {
            return Rules::NONE;
        }
        let scaled = num * self.scale();
        let (whole, twice) = (scaled / den, 2 * (scaled % den));
        let up = whole + u128::from(twice >= den);
        let even = whole + u128::from(twice > den || (twice == den && whole % 2 == 1));
        let printed = u128::from(self.mantissa);
        Rules { half_up: up == printed, half_even: even == printed }
    }

    /// Bounds of the values printed like this, a little wide.
    fn range(self) -> (f64, f64) {
        let (value, scale) = (self.mantissa as f64, self.scale() as f64);
        ((value - 0.500_001) / scale, (value + 0.500_001) / scale)
    }
}

/// Rounding rules under which a figure, or all of them, come out as printed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Rules {
    /// Halves away from zero.
    pub half_up: bool,
    /// Halves to the even digit.
    pub half_even: bool,
}

impl Rules {
    const NONE: Self = Self { half_up: false, half_even: false };
    const ALL: Self = Self { half_up: true, half_even: true };

    fn and(self, other: Self) -> Self {
        Self { half_up: self.half_up && other.half_up, half_even: self.half_even && other.half_even }
    }

    fn any(self) -> bool {
        self.half_up || self.half_even
    }
}

/// One statement of a report.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Fact {
    /// A rounded figure.
    Figure {
        /// Which.
        figure: Figure,
        /// As printed.
        value: Rounded,
    },
    /// A rounded 95 % interval of sensitivity or specificity.
    Interval {
        /// [`Figure::Sensitivity`] or [`Figure::Specificity`]; other figures are ignored.
        figure: Figure,
        /// Lower bound as printed.
        lower: Rounded,
        /// Upper bound as printed.
        upper: Rounded,
        /// How the report made it.
        method: ProportionMethod,
    },
    /// A number of people.
    Total {
        /// Which.
        total: Total,
        /// How many.
        value: u32,
    },
}

/// A table that gives every figure of the report.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct RebuiltTable {
    /// True positives.
    pub tp: u32,
    /// False positives.
    pub fp: u32,
    /// False negatives.
    #[serde(rename = "fn")]
    pub fn_: u32,
    /// True negatives.
    pub tn: u32,
    /// The rounding rules under which it does.
    pub rules: Rules,
}

/// From the smallest to the largest value over the candidate tables; `None` where no candidate has one.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Spread {
    /// Of sensitivity.
    pub sensitivity: Option<[f64; 2]>,
    /// Of specificity.
    pub specificity: Option<[f64; 2]>,
    /// Of LR+, infinite ones left out.
    pub lr_positive: Option<[f64; 2]>,
    /// Of LR-, infinite ones left out.
    pub lr_negative: Option<[f64; 2]>,
}

/// What the search found.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[serde(tag = "outcome", rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Rebuilt {
    /// One table: it can be filled in.
    Unique {
        /// The table.
        table: RebuiltTable,
    },
    /// Several, and how far they differ.
    Several {
        /// All of them.
        tables: Vec<RebuiltTable>,
        /// Their range.
        spread: Spread,
    },
    /// None: these statements, by their positions in the report, contradict each other; without any one of them the
    /// rest does not.
    Contradiction {
        /// Positions.
        facts: Vec<usize>,
    },
}

/// Why no search was made.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum RebuildError {
    /// Neither the number of people nor a figure of each group is given.
    #[error("give the number of people, or at least one figure of each group of patients")]
    TooOpen,
    /// More people than a complete search can cover.
    #[error("{0} people are more than the {max} that a complete search covers", max = MAX_N)]
    TooLarge(u32),
    /// So many tables that a list helps nobody.
    #[error("more than {max} tables fit; add another figure of the report", max = MAX_TABLES)]
    TooMany,
}

/// Largest N searched completely.
pub const MAX_N: u32 = 5_000;
/// Largest arm tried when the number of people is unknown.
pub const MAX_UNKNOWN_ARM: u32 = 300;
/// Longest list of candidates.
pub const MAX_TABLES: usize = 20_000;

/// Finds all integer tables that give every statement of a report; see [`Rebuilt`].
///
/// When N is unknown each group is tried up to `max_per_arm` people (at most [`MAX_UNKNOWN_ARM`]); a group without
/// anybody is then only possible when nothing is reported of it. Intervals of level 95 %, their bounds rounded half-up.
///
/// # Errors
/// [`RebuildError`] when the report leaves too much open.
pub fn rebuild(facts: &[Fact], max_per_arm: u32) -> Result<Rebuilt, RebuildError> {
    let tables = Search::new(facts, max_per_arm)?.run(MAX_TABLES)?;
    Ok(match tables[..] {
        [] => Rebuilt::Contradiction { facts: contradiction(facts, max_per_arm) },
        [table] => Rebuilt::Unique { table },
        _ => Rebuilt::Several { spread: spread(&tables), tables },
    })
}

/// A minimal conflicting subset: statements are left out one by one as long as the rest still contradicts itself.
fn contradiction(facts: &[Fact], max_per_arm: u32) -> Vec<usize> {
    let mut kept: Vec<usize> = (0..facts.len()).collect();
    for candidate in 0..facts.len() {
        let without: Vec<usize> = kept.iter().copied().filter(|index| *index != candidate).collect();
        let rest: Vec<Fact> = without.iter().map(|index| facts[*index]).collect();
        // A rest that cannot be searched completely is not known to contradict itself: the statement stays.
        let still = Search::new(&rest, max_per_arm).and_then(|search| search.run(0));
        if still == Ok(Vec::new()) {
            kept = without;
        }
    }
    kept
}

/// The report, sorted for the search.
struct Search<'a> {
    facts: &'a [Fact],
    /// Of each statement the values that are printed like it; looked up millions of times.
    ranges: Vec<(f64, f64)>,
    n: Option<u32>,
    diseased: Option<u32>,
    non_diseased: Option<u32>,
    max_per_arm: u32,
}

impl<'a> Search<'a> {
    fn new(facts: &'a [Fact], max_per_arm: u32) -> Result<Self, RebuildError> {
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

    /// Whether an arm's own figure or interval is given.
    fn reports(&self, wanted: Figure) -> bool {
        self.facts.iter().any(|fact| match fact {
            Fact::Figure { figure, .. } | Fact::Interval { figure, .. } => *figure == wanted,
            Fact::Total { .. } => false,
        })
    }

    /// All tables, or the error [`RebuildError::TooMany`] beyond `limit`; with a limit of 0 the first one found is enough.
    fn run(&self, limit: usize) -> Result<Vec<RebuiltTable>, RebuildError> {
        let sizes = |fixed: Option<u32>, figure: Figure| match (fixed, self.n) {
            (Some(size), _) => size..=size,
            (None, Some(n)) => 0..=n,
            (None, None) => u32::from(self.reports(figure))..=self.max_per_arm,
        };
        let mut tables = Vec::new();
        // Without N every size of the second group meets every size of the first: keep what fits each.
        let second = |n0: u32| self.arm(n0, Figure::Specificity);
        let all_second: Vec<(u32, Vec<ArmCell>)> = if self.n.is_none() {
            sizes(self.non_diseased, Figure::Specificity).map(|n0| (n0, second(n0))).collect()
        } else {
            Vec::new()
        };
        for n1 in sizes(self.diseased, Figure::Sensitivity).filter(|n1| self.prevalent(*n1)) {
            let first = self.arm(n1, Figure::Sensitivity);
            if first.is_empty() {
                continue;
            }
            let fitting: Vec<(u32, Vec<ArmCell>)> = match self.n {
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
    fn arm(&self, n: u32, figure: Figure) -> Vec<ArmCell> {
        let (mut low, mut high) = (0, n);
        for (fact, (from, to)) in self.facts.iter().zip(&self.ranges) {
            if let Fact::Figure { figure: given, .. } = fact
                && *given == figure
            {
                low = low.max((from * f64::from(n)).floor().max(0.0) as u32);
                high = high.min((to * f64::from(n)).ceil() as u32);
            }
        }
        let of_arm = |fact: &&Fact| match fact {
            Fact::Figure { figure: given, .. } | Fact::Interval { figure: given, .. } => *given == figure,
            Fact::Total { .. } => false,
        };
        let own: Vec<&Fact> = self.facts.iter().filter(of_arm).collect();
        let rules = |correct: u32| {
            own.iter().fold(Rules::ALL, |rules, fact| match fact {
                Fact::Figure { value, .. } => rules.and(value.matches(u128::from(correct), u128::from(n))),
                Fact::Interval { lower, upper, method, .. } => {
                    rules.and(interval_matches(correct, n, *lower, *upper, *method))
                }
                Fact::Total { .. } => rules,
            })
        };
        (low..=high).map(|correct| ArmCell { correct, rules: rules(correct) }).filter(|cell| cell.rules.any()).collect()
    }

    /// Tries one first arm with all second arms, narrowed by the figures that join both.
    fn join(&self, n1: u32, n0: u32, one: ArmCell, cells: &[ArmCell], tables: &mut Vec<RebuiltTable>) {
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

/// People classified correctly in an arm, and the rules under which its own figures come out.
#[derive(Debug, Clone, Copy)]
struct ArmCell {
    correct: u32,
    rules: Rules,
}

fn interval_matches(correct: u32, n: u32, lower: Rounded, upper: Rounded, method: ProportionMethod) -> Rules {
    let interval = proportion_interval(u64::from(correct), u64::from(n), Level::default(), method);
    let printed = |bound: f64, given: Rounded| (bound * given.scale() as f64 + 0.5).floor() == given.mantissa as f64;
    match interval {
        Some(ci) if printed(ci.lower.get(), lower) && printed(ci.upper.get(), upper) => Rules::ALL,
        _ => Rules::NONE,
    }
}

fn spread(tables: &[RebuiltTable]) -> Spread {
    let over = |value: &dyn Fn([f64; 4]) -> f64| {
        let values = tables.iter().map(|t| value([t.tp, t.fp, t.fn_, t.tn].map(f64::from))).filter(|v| v.is_finite());
        values.fold(None, |range: Option<[f64; 2]>, v| {
            let [low, high] = range.unwrap_or([v, v]);
            Some([low.min(v), high.max(v)])
        })
    };
    Spread {
        sensitivity: over(&|[tp, _, fn_, _]| tp / (tp + fn_)),
        specificity: over(&|[_, fp, _, tn]| tn / (tn + fp)),
        lr_positive: over(&|[tp, fp, fn_, tn]| tp / (tp + fn_) / (fp / (fp + tn))),
        lr_negative: over(&|[tp, fp, fn_, tn]| fn_ / (tp + fn_) / (tn / (fp + tn))),
    }
}
