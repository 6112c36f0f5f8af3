//! Rebuilding the 2x2 table behind a report that gives only rounded figures: a complete search, not a guess.
//!
//! Rounding is decided on exact fractions, never on binary floats: 0.125 is a tie, and whether it is written 0.12 or
//! 0.13 tells half-even from half-up. One rule holds for all figures of a report.

mod contradiction;
mod rounded;
mod search;

use serde::{Deserialize, Serialize};

use self::contradiction::smallest_contradiction;
pub use self::rounded::{Rounded, Rules};
use self::search::Search;
use super::ProportionMethod;

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

impl Fact {
    /// Whether it states this figure, or an interval of it.
    fn is_about(&self, wanted: Figure) -> bool {
        match self {
            Self::Figure { figure, .. } | Self::Interval { figure, .. } => *figure == wanted,
            Self::Total { .. } => false,
        }
    }
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
        /// Largest group that was tried, where the number of people is not given; larger groups may give more tables.
        limit: Option<u32>,
    },
    /// Several, and how far they differ.
    Several {
        /// All of them.
        tables: Vec<RebuiltTable>,
        /// Their range.
        spread: Spread,
        /// As above.
        limit: Option<u32>,
    },
    /// None, whatever the size of the groups: these statements, by their positions in the report, contradict each other; without any one of
    /// them the rest is not known to.
    Contradiction {
        /// Positions.
        facts: Vec<usize>,
    },
    /// None among the groups that were tried; larger ones may give some. The number of people would tell.
    NotFound {
        /// Largest group that was tried.
        limit: u32,
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
    /// An interval whose lower bound is the larger one.
    #[error("the bounds of the interval are in the wrong order; write the lower one first")]
    BoundsOrder {
        /// Position of the statement.
        fact: usize,
    },
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
/// When N is unknown each group is tried up to `max_per_arm` people (at most [`MAX_UNKNOWN_ARM`]), and the answer says so; a group without
/// anybody is then only possible when nothing is reported of it. Intervals of level 95 %, their bounds rounded half-up.
///
/// # Errors
/// [`RebuildError`] when the report leaves too much open, or an interval is written from top to bottom.
pub fn rebuild(facts: &[Fact], max_per_arm: u32) -> Result<Rebuilt, RebuildError> {
    let reversed = |fact: &Fact| matches!(fact, Fact::Interval { lower, upper, .. } if lower.exceeds(*upper));
    if let Some(fact) = facts.iter().position(reversed) {
        return Err(RebuildError::BoundsOrder { fact });
    }
    let search = Search::new(facts, max_per_arm)?;
    let limit = search.limit();
    let tables = search.run(MAX_TABLES)?;
    Ok(match (&tables[..], limit) {
        ([], limit) => match (smallest_contradiction(facts), limit) {
            (Some(facts), _) => Rebuilt::Contradiction { facts },
            (None, limit) => Rebuilt::NotFound { limit: limit.unwrap_or(MAX_N) },
        },
        ([table], _) => Rebuilt::Unique { table: *table, limit },
        _ => Rebuilt::Several { spread: spread(&tables), tables, limit },
    })
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
