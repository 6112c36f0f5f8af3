//! A finding of more than two levels: counts per level, a likelihood ratio for each, and the 2x2 tables that cuts between levels make.

use serde::{Deserialize, Serialize};

use super::{
    Counts, Methods, ProportionMethod, StudyAccuracy, proportion_interval, score_ratio_interval, study_accuracy,
};
use crate::field::Checker;
use crate::name::name_key;
use crate::{Count, Estimate, FieldError, FieldErrorCode, Level, Probability, Ratio};

/// Counts of one level as a person or a file wrote them.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct LevelInput {
    /// Name of the level.
    pub name: String,
    /// People with the condition.
    pub with: Option<f64>,
    /// People without it.
    pub without: Option<f64>,
}

/// Checked counts of one level.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct LevelCounts {
    /// Name of the level.
    pub name: String,
    /// People with the condition.
    pub with: Count,
    /// People without it.
    pub without: Count,
}

/// What a level is worth.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct LevelAccuracy {
    /// The counts.
    #[serde(flatten)]
    pub counts: LevelCounts,
    /// Share of the people with the condition at this level.
    pub share_with: Option<Estimate<Probability>>,
    /// Share of the others.
    pub share_without: Option<Estimate<Probability>>,
    /// The first divided by the second; none where nobody is at this level.
    pub ratio: Option<Estimate<Ratio>>,
}

/// Levels, and what becomes of them when a yes or no is wanted.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct LevelTable {
    /// Each level, the most normal first.
    pub levels: Vec<LevelAccuracy>,
    /// Each cut: this level and all that follow count as positive, those before as negative.
    pub cuts: Vec<LevelCut>,
}

/// A cut between two levels.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct LevelCut {
    /// The first level that counts as positive.
    pub from: String,
    /// What the table is worth that it makes.
    pub accuracy: StudyAccuracy,
}

/// More levels than these are no levels.
const MOST: usize = 20;

/// Checks counts per level against the four cells of the same result: the last levels together are its positives, the first its negatives;
/// levels between them, which are equivocal, may be in neither.
///
/// # Errors
/// Every fault found, under `levels`. Where the cells themselves are at fault (`None`) they are not compared.
pub fn check_levels(given: &[LevelInput], cells: Option<&Counts>) -> Result<Vec<LevelCounts>, Vec<FieldError>> {
    let mut c = Checker::default();
    // Empty lines of a form say nothing.
    let filled: Vec<(usize, &LevelInput)> =
        given.iter().enumerate().filter(|(_, it)| **it != LevelInput::default()).collect();
    if filled.is_empty() {
        return Ok(Vec::new());
    }
    if filled.len() > MOST || filled.len() == 1 {
        let message = format!("There are {} levels; from 2 to {MOST} can be told apart.", filled.len());
        c.invalid("levels", filled.len(), message, "Add the others, or leave the levels out.");
        return c.finish(None);
    }
    let mut levels: Vec<LevelCounts> = Vec::new();
    for (index, level) in filled {
        let name = c.required(&format!("levels[{index}].name"), &level.name, 160, "Name the level.");
        if levels.iter().any(|it| name_key(&it.name) == name_key(&name)) {
            let (field, message) = (format!("levels[{index}].name"), "Another level has this name.");
            c.push(FieldError::new(field, FieldErrorCode::Duplicate, &name, message, "Give each its own name."));
        }
        let mut count = |field: &str, value: Option<f64>| {
            let field = format!("levels[{index}].{field}");
            let Some(value) = value else {
                let remedy = "Fill it in; 0 if nobody was at this level.";
                c.push(FieldError::new(field, FieldErrorCode::Missing, "", "This number is empty.", remedy));
                return None;
            };
            let count = Count::new(value).ok();
            if count.is_none() {
                let message = format!("{value} is not a number of people.");
                let remedy = "Enter a whole number from 0 to ten million.";
                c.push(FieldError::new(field, FieldErrorCode::NotACount, value, message, remedy));
            }
            count
        };
        let counts = (count("with", level.with), count("without", level.without));
        if let (Some(with), Some(without)) = counts {
            levels.push(LevelCounts { name, with, without });
        }
    }
    if let (Some(cells), true) =
        (cells, levels.len() == given.iter().filter(|it| **it != LevelInput::default()).count())
        && !adds_up(&levels, cells)
    {
        let [with, without] = totals(&levels);
        let message = format!(
            "The levels hold {with} people with the condition and {without} without it, but no cut between them gives the four cells."
        );
        let remedy =
            "Compare both with the report: the last levels together are the positives, the first the negatives.";
        c.invalid("levels", format!("{with}, {without}"), message, remedy);
    }
    c.finish(Some(levels))
}

fn totals(levels: &[LevelCounts]) -> [u64; 2] {
    let sum = |of: fn(&LevelCounts) -> Count| levels.iter().map(|it| u64::from(of(it).get())).sum();
    [sum(|it| it.with), sum(|it| it.without)]
}

/// Whether some first levels are the negatives of the table and some last ones its positives.
fn adds_up(levels: &[LevelCounts], cells: &Counts) -> bool {
    let [Some(tp), Some(fp), Some(fn_), Some(tn)] = cells.cells().map(|cell| cell.map(u64::from)) else { return false };
    let first = (1..levels.len()).filter(|end| totals(&levels[..*end]) == [fn_, tn]).min();
    let last = (1..levels.len()).filter(|begin| totals(&levels[*begin..]) == [tp, fp]).max();
    first.zip(last).is_some_and(|(end, begin)| end <= begin)
}

/// The 2x2 table in which the level at this place and all that follow count as positive; none at the first level, where all would.
#[must_use]
pub fn collapse(levels: &[LevelCounts], from: usize) -> Option<Counts> {
    if from == 0 || from >= levels.len() {
        return None;
    }
    let [fn_, tn] = totals(&levels[..from]);
    let [tp, fp] = totals(&levels[from..]);
    Counts::full(tp as f64, fp as f64, fn_ as f64, tn as f64).ok()
}

/// Likelihood ratio of each level, and each cut.
///
/// `LR_j = (x_j / n) / (y_j / m)` with `x_j` of `n` people with the condition and `y_j` of `m` others at level `j` (Simel, Samsa and Matchar 1991 for
/// ratios of levels); its interval is the score interval for a ratio of two independent proportions (Koopman 1984), that of a share Wilson's.
/// With two levels these are LR- and LR+. Infinite where only people with the condition are at a level; none where nobody is, or an arm is empty.
#[must_use]
pub fn level_table(levels: &[LevelCounts], level: Level) -> LevelTable {
    let [n, m] = totals(levels);
    let share = |x: u64, n: u64| proportion_interval(x, n, level, ProportionMethod::default());
    let of = |counts: &LevelCounts| {
        let (x, y) = (u64::from(counts.with.get()), u64::from(counts.without.get()));
        LevelAccuracy {
            counts: counts.clone(),
            share_with: share(x, n),
            share_without: share(y, m),
            ratio: score_ratio_interval((x, n), (y, m), level),
        }
    };
    let methods = Methods { level, ..Methods::default() };
    let cut = |from: usize| {
        let accuracy = study_accuracy(&collapse(levels, from)?, methods);
        Some(LevelCut { from: levels[from].name.clone(), accuracy })
    };
    LevelTable { levels: levels.iter().map(of).collect(), cuts: (0..levels.len()).filter_map(cut).collect() }
}
