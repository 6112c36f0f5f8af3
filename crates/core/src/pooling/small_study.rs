//! Do small studies report better accuracy? Deeks' regression, and the correlation that a varying threshold leaves.

use serde::{Deserialize, Serialize};
use statrs::function::beta::beta_reg;
use statrs::statistics::{Data, OrderStatistics, RankTieBreaker};

use crate::accuracy::Counts;

/// Where 0.5 is added before logarithms are taken.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Correction {
    /// To the four cells of studies with a zero cell.
    #[default]
    ZeroStudies,
    /// To every cell of every study.
    AllStudies,
}

/// Deeks' regression of `ln DOR` on `1 / sqrt(ESS)`.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct SmallStudyTest {
    /// Studies with both arms.
    pub k: usize,
    /// Slope; a negative one means that smaller studies report worse accuracy, a positive one better.
    pub slope: f64,
    /// Its standard error.
    pub se_slope: f64,
    /// Intercept.
    pub intercept: f64,
    /// `slope / se_slope`; `None` when all points lie on the line.
    pub t: Option<f64>,
    /// Two-sided, `t(k - 2)`.
    pub p: Option<f64>,
}

/// Spearman's correlation between `ln(TP/FN)` and `ln(FP/TN)`: positive when studies differ by their threshold.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ThresholdCorrelation {
    /// Studies with both arms.
    pub k: usize,
    /// The correlation of mid-ranks.
    pub rho: f64,
    /// Two-sided, by `t(k - 2)`; `None` at a correlation of ±1.
    pub p: Option<f64>,
}

/// Why small-study effects are not tested.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum SmallStudyError {
    /// Too few studies for the test to be relied on.
    #[error("{0} studies report both groups; below {min} the test has too little power to be offered", min = MIN_STUDIES)]
    TooFew(usize),
    /// All studies are equally large.
    #[error("all studies are equally large, so size can explain nothing")]
    NoSpread,
}

/// Studies from which on the test is offered.
pub const MIN_STUDIES: usize = 10;

/// Tests for small-study effects (Deeks 2005), with its guard. Even so its power is low when accuracy varies: a large p is
/// no proof of absence.
///
/// # Errors
/// [`SmallStudyError`].
pub fn small_study_effects(studies: &[Counts], correction: Correction) -> Result<SmallStudyTest, SmallStudyError> {
    let k = full_tables(studies, correction).len();
    if k < MIN_STUDIES {
        return Err(SmallStudyError::TooFew(k));
    }
    deeks_regression(studies, correction).ok_or(SmallStudyError::NoSpread)
}

/// The regression itself, without the guard: `ln DOR = intercept + slope / sqrt(ESS)`, weights
/// `ESS = 4 n1 n0 / (n1 + n0)` from uncorrected sizes. `None` below three studies or when all are equally large.
#[must_use]
pub fn deeks_regression(studies: &[Counts], correction: Correction) -> Option<SmallStudyTest> {
    let points: Vec<[f64; 3]> = full_tables(studies, correction)
        .iter()
        .map(|table| {
            let ([tp, fp, fn_, tn], ess) = (table.cells, table.effective_size);
            [1.0 / ess.sqrt(), (tp / fp).ln() + (tn / fn_).ln(), ess]
        })
        .collect();
    let k = points.len();
    if k < 3 {
        return None;
    }
    let total: f64 = points.iter().map(|[_, _, w]| w).sum();
    let mean = |of: usize| points.iter().map(|point| point[2] * point[of]).sum::<f64>() / total;
    let (x_mean, y_mean) = (mean(0), mean(1));
    let sum = |f: &dyn Fn(f64, f64) -> f64| points.iter().map(|[x, y, w]| w * f(x - x_mean, y - y_mean)).sum::<f64>();
    let (sxx, sxy) = (sum(&|x, _| x * x), sum(&|x, y| x * y));
    if sxx <= 1e-12 * x_mean * x_mean * total {
        return None;
    }
    let slope = sxy / sxx;
    let residual = sum(&|x, y| (y - slope * x).powi(2)) / (k as f64 - 2.0);
    let se_slope = (residual / sxx).sqrt();
    // On the line up to rounding there is nothing to test.
    let scale = sum(&|_, y| y * y).max(total * y_mean * y_mean);
    let t = (residual > 1e-24 * scale).then(|| slope / se_slope);
    Some(SmallStudyTest {
        k,
        slope,
        se_slope,
        intercept: y_mean - slope * x_mean,
        t,
        p: t.map(|t| two_sided_p(t, k as f64 - 2.0)),
    })
}

/// Spearman's correlation of the studies' logits. `None` below three studies or when one of them does not vary.
#[must_use]
pub fn threshold_correlation(studies: &[Counts], correction: Correction) -> Option<ThresholdCorrelation> {
    let tables = full_tables(studies, correction);
    // Logarithms of quotients: equal proportions tie exactly.
    let of = |f: fn([f64; 4]) -> f64| ranks(&tables.iter().map(|table| f(table.cells)).collect::<Vec<_>>());
    let (a, b) = (of(|[tp, _, fn_, _]| (tp / fn_).ln()), of(|[_, fp, _, tn]| (fp / tn).ln()));
    let k = tables.len();
    if k < 3 {
        return None;
    }
    let middle = (k as f64 + 1.0) / 2.0;
    let sum = |x: &[f64], y: &[f64]| x.iter().zip(y).map(|(x, y)| (x - middle) * (y - middle)).sum::<f64>();
    let (saa, sbb) = (sum(&a, &a), sum(&b, &b));
    if saa <= 0.0 || sbb <= 0.0 {
        return None;
    }
    let rho = (sum(&a, &b) / (saa * sbb).sqrt()).clamp(-1.0, 1.0);
    let df = k as f64 - 2.0;
    let p = (rho.abs() < 1.0).then(|| two_sided_p(rho * (df / (1.0 - rho * rho)).sqrt(), df));
    Some(ThresholdCorrelation { k, rho, p })
}

struct FullTable {
    cells: [f64; 4],
    effective_size: f64,
}

fn full_tables(studies: &[Counts], correction: Correction) -> Vec<FullTable> {
    let table = |counts: &Counts| {
        let (diseased, others) = (counts.diseased()?, counts.non_diseased()?);
        let (n1, n0) = (diseased.n as f64, others.n as f64);
        let cells = counts.cells().map(|cell| f64::from(cell.unwrap_or_default()));
        let add = correction == Correction::AllStudies || cells.contains(&0.0);
        let effective_size = 4.0 * n1 * n0 / (n1 + n0);
        Some(FullTable { cells: cells.map(|c| if add { c + 0.5 } else { c }), effective_size })
    };
    studies.iter().filter_map(table).collect()
}

/// Ranks from 1, tied values sharing the mean of theirs.
fn ranks(values: &[f64]) -> Vec<f64> {
    Data::new(values.to_vec()).ranks(RankTieBreaker::Average)
}

/// `P(|T| > |t|)` for Student's t, as the incomplete beta function of `df / (df + t²)`, which keeps small tails.
fn two_sided_p(t: f64, df: f64) -> f64 {
    beta_reg(df / 2.0, 0.5, df / (df + t * t))
}
