//! The four cells of a study, with either arm possibly missing.

use serde::{Deserialize, Serialize};

use crate::field::Checker;
use crate::{Count, FieldError, FieldErrorCode};

/// One arm of a 2x2 table: of `n` people, `correct` were classified correctly
/// (true positives among the diseased, true negatives among the others).
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Arm {
    /// People classified correctly.
    pub correct: u64,
    /// People in the arm.
    pub n: u64,
}

impl std::ops::Add for Arm {
    type Output = Self;

    /// Both arms' people counted together.
    fn add(self, other: Self) -> Self {
        Self { correct: self.correct + other.correct, n: self.n + other.n }
    }
}

/// Cells as a person or a file wrote them, before any check. An absent cell is `None`.
#[derive(Debug, Clone, Copy, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct RawCounts {
    /// True positives.
    pub tp: Option<f64>,
    /// False positives.
    pub fp: Option<f64>,
    /// False negatives.
    #[serde(rename = "fn")]
    pub fn_: Option<f64>,
    /// True negatives.
    pub tn: Option<f64>,
}

/// A checked 2x2 table. An arm has both of its cells or neither: a report of sensitivity alone is a one-armed
/// study, which still contributes what it measured.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Hash)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Counts {
    tp: Option<Count>,
    fp: Option<Count>,
    #[serde(rename = "fn")]
    fn_: Option<Count>,
    tn: Option<Count>,
}

impl Counts {
    /// A full table.
    ///
    /// # Errors
    /// As [`Counts::check`].
    pub fn full(tp: f64, fp: f64, fn_: f64, tn: f64) -> Result<Self, Vec<FieldError>> {
        Self::check(RawCounts { tp: Some(tp), fp: Some(fp), fn_: Some(fn_), tn: Some(tn) })
    }

    /// Checks every cell and the table as a whole.
    ///
    /// # Errors
    /// All faults found: cells that are no counts, an arm with only one of its cells, a table without an arm
    /// or without a single patient.
    pub fn check(raw: RawCounts) -> Result<Self, Vec<FieldError>> {
        let mut checker = Checker::default();
        let mut cell = |field: &str, value: Option<f64>| {
            value.and_then(|v| match Count::new(v) {
                Ok(count) => Some(count),
                Err(_) => {
                    checker.push(FieldError::new(
                        field,
                        FieldErrorCode::NotACount,
                        v,
                        format!("{v} is not a number of people."),
                        "Enter a whole number from 0 to ten million.",
                    ));
                    None
                }
            })
        };
        let counts =
            Self { tp: cell("tp", raw.tp), fp: cell("fp", raw.fp), fn_: cell("fn", raw.fn_), tn: cell("tn", raw.tn) };
        let mut arm = |a: (&str, Option<f64>), b: (&str, Option<f64>), who: &str| {
            let (missing, given) = match (a.1, b.1) {
                (None, Some(_)) => (a.0, b.0),
                (Some(_), None) => (b.0, a.0),
                _ => return,
            };
            checker.push(FieldError::new(
                missing,
                FieldErrorCode::Missing,
                "",
                format!("This cell is empty while {} is filled: people {who} need both.", given.to_uppercase()),
                "Fill it in (0 counts), or clear both when the study reports only the other group.",
            ));
        };
        arm(("tp", raw.tp), ("fn", raw.fn_), "with the condition");
        arm(("tn", raw.tn), ("fp", raw.fp), "without the condition");
        if [raw.tp, raw.fp, raw.fn_, raw.tn].iter().all(Option::is_none) {
            checker.push(FieldError::new(
                "tp",
                FieldErrorCode::Missing,
                "",
                "All four cells are empty.",
                "Fill in the cells of at least one group of patients.",
            ));
        } else if [raw.tp, raw.fp, raw.fn_, raw.tn].into_iter().flatten().all(|v| v == 0.0) {
            checker.push(FieldError::new(
                "tp",
                FieldErrorCode::EmptyTable,
                0,
                "The table counts no patient at all.",
                "Enter the numbers the study reports; leave cells empty when it does not report them.",
            ));
        }
        checker.finish(Some(counts))
    }

    /// Diseased arm: sensitivity. `None` when not reported, and when nobody is in it: either way nothing was observed.
    #[must_use]
    pub fn diseased(&self) -> Option<Arm> {
        arm(self.tp, self.fn_)
    }

    /// Non-diseased arm: specificity. `None` when not reported or empty.
    #[must_use]
    pub fn non_diseased(&self) -> Option<Arm> {
        arm(self.tn, self.fp)
    }

    /// The two arms, diseased first.
    #[must_use]
    pub fn arms(&self) -> [Option<Arm>; 2] {
        [self.diseased(), self.non_diseased()]
    }

    /// Whether both arms have people in them: what a ratio, and a correlation between studies, needs.
    #[must_use]
    pub fn has_both_arms(&self) -> bool {
        self.diseased().is_some() && self.non_diseased().is_some()
    }

    /// Cells in the order TP, FP, FN, TN.
    #[must_use]
    pub fn cells(&self) -> [Option<u32>; 4] {
        self.counts().map(|cell| cell.map(Count::get))
    }

    /// The same cells, as they were checked.
    #[must_use]
    pub fn counts(&self) -> [Option<Count>; 4] {
        [self.tp, self.fp, self.fn_, self.tn]
    }

    /// With more people in the arms that are reported; a cell holds ten million at most.
    #[must_use]
    pub fn with_more(&self, diseased: Arm, others: Arm) -> Self {
        let more = |cell: Option<Count>, people: u64| {
            cell.map(|cell| {
                let all = u64::from(cell.get()).saturating_add(people).min(u64::from(Count::MAX));
                Count::new(all as f64).unwrap_or(cell)
            })
        };
        Self {
            tp: more(self.tp, diseased.correct),
            fn_: more(self.fn_, diseased.n - diseased.correct),
            tn: more(self.tn, others.correct),
            fp: more(self.fp, others.n - others.correct),
        }
    }

    /// A study that counted both sides of people, with as many independent people as its sides are worth.
    ///
    /// Two sides of one person are alike: `n` sides weigh as `n / (1 + (m - 1) r)` people, with `m` = 2 sides a person and `r` the intraclass correlation
    /// (design effect, Kish 1965). Shares stay, cells are rounded to whole people, and none that was not empty becomes so. Where some people count with one side
    /// only this takes too much away.
    #[must_use]
    pub fn as_independent(&self, correlation: f64) -> Self {
        let effect = 1.0 + correlation.clamp(0.0, 1.0);
        let shrink = |right: Option<Count>, wrong: Option<Count>| {
            let (Some(right), Some(wrong)) = (right, wrong) else { return [right, wrong] };
            let [a, b] = [right, wrong].map(|cell| f64::from(cell.get()));
            let people = ((a + b) / effect).round();
            let least = |cell: f64| if cell > 0.0 { 1.0 } else { 0.0 };
            let kept = (a * people / (a + b).max(1.0)).round().clamp(least(a), (people - least(b)).max(least(a)));
            [kept, (people - kept).max(least(b))].map(|cell| Count::new(cell).ok())
        };
        let [tp, fn_] = shrink(self.tp, self.fn_);
        let [tn, fp] = shrink(self.tn, self.fp);
        Self { tp, fp, fn_, tn }
    }

    /// The same study with the roles of the groups exchanged, so that sensitivity and specificity swap.
    #[must_use]
    pub fn swapped(&self) -> Self {
        Self { tp: self.tn, fp: self.fn_, fn_: self.fp, tn: self.tp }
    }
}

fn arm(correct: Option<Count>, wrong: Option<Count>) -> Option<Arm> {
    let (correct, wrong) = (u64::from(correct?.get()), u64::from(wrong?.get()));
    (correct + wrong > 0).then_some(Arm { correct, n: correct + wrong })
}
