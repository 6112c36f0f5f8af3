//! Two raters, categories: kappa and what stands beside it, since kappa alone misleads when one category is rare.

use serde::{Deserialize, Serialize};

use crate::accuracy::{ProportionMethod, proportion_interval};
use crate::{Count, Estimate, Level, Probability};

/// Why a table of ratings was refused.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum RatingError {
    /// Fewer than two or more than fifty categories.
    #[error("{0} categories are given; between 2 and 50 are needed")]
    Categories(usize),
    /// Rows of different length.
    #[error("row {row} has {found} cells instead of {expected}")]
    Ragged {
        /// Row, from 1.
        row: usize,
        /// Its cells.
        found: usize,
        /// Cells of the others.
        expected: usize,
    },
    /// A cell that is too large.
    #[error("row {row}, column {column}: {value} is more than {max}", max = Count::MAX)]
    TooLarge {
        /// Row, from 1.
        row: usize,
        /// Column, from 1.
        column: usize,
        /// Its value.
        value: u32,
    },
    /// Subjects that were rated by different numbers of raters, or by fewer than two.
    #[error("row {row} counts {found} ratings; every subject needs the same number, two at least")]
    Raters {
        /// Row, from 1.
        row: usize,
        /// Its ratings.
        found: u32,
    },
    /// Nothing was rated, or too little to estimate anything.
    #[error("{found} subjects are given; at least {needed} are needed")]
    Subjects {
        /// Subjects given.
        found: usize,
        /// Subjects needed.
        needed: usize,
    },
    /// A subject that a rater did not rate.
    #[error("row {row}, column {column}: no rating is given; every rater must have rated every subject")]
    Missing {
        /// Row, from 1.
        row: usize,
        /// Column, from 1.
        column: usize,
    },
    /// A measurement that is no finite number.
    #[error("row {row}, column {column}: the value is not a finite number")]
    NotFinite {
        /// Row, from 1.
        row: usize,
        /// Column, from 1.
        column: usize,
    },
}

/// A square table of counts: rows are the first rater's categories, columns the second's.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct RatingTable {
    cells: Vec<Vec<u32>>,
    n: u64,
}

impl RatingTable {
    /// Checked constructor.
    ///
    /// # Errors
    /// [`RatingError`] for tables that are not square, too small, too large or empty.
    pub fn new(cells: Vec<Vec<u32>>) -> Result<Self, RatingError> {
        let q = cells.len();
        if !(2..=50).contains(&q) {
            return Err(RatingError::Categories(q));
        }
        for (i, row) in cells.iter().enumerate() {
            if row.len() != q {
                return Err(RatingError::Ragged { row: i + 1, found: row.len(), expected: q });
            }
            if let Some(j) = row.iter().position(|value| *value > Count::MAX) {
                return Err(RatingError::TooLarge { row: i + 1, column: j + 1, value: row[j] });
            }
        }
        let n = cells.iter().flatten().map(|value| u64::from(*value)).sum();
        if n == 0 {
            return Err(RatingError::Subjects { found: 0, needed: 1 });
        }
        Ok(Self { cells, n })
    }

    fn share(&self, i: usize, j: usize) -> f64 {
        f64::from(self.cells[i][j]) / self.n as f64
    }

    fn margins(&self) -> (Vec<f64>, Vec<f64>) {
        let q = self.cells.len();
        let row = (0..q).map(|i| (0..q).map(|j| self.share(i, j)).sum()).collect();
        let column = (0..q).map(|j| (0..q).map(|i| self.share(i, j)).sum()).collect();
        (row, column)
    }
}

/// Agreement weights of kappa.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Weights {
    /// Agreement counts, anything else does not.
    #[default]
    None,
    /// `1 - |i - j| / (q - 1)`.
    Linear,
    /// `1 - ((i - j) / (q - 1))²`.
    Quadratic,
}

impl Weights {
    fn weight(self, i: usize, j: usize, q: usize) -> f64 {
        let distance = i.abs_diff(j) as f64 / (q as f64 - 1.0);
        match self {
            Self::None => f64::from(u8::from(i == j)),
            Self::Linear => 1.0 - distance,
            Self::Quadratic => 1.0 - distance * distance,
        }
    }
}

/// A chance-corrected coefficient `(po - pe) / (1 - pe)`.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Coefficient {
    /// Point and interval `± z se`, not cut at ±1.
    pub value: Estimate<f64>,
    /// Observed (weighted) agreement.
    pub po: f64,
    /// Agreement expected by chance.
    pub pe: f64,
    /// Large-sample standard error.
    pub se: f64,
    /// Standard error if there were no agreement beyond chance: for testing only.
    pub se_null: Option<f64>,
}

impl Coefficient {
    pub(super) fn new(po: f64, pe: f64, variance: f64, se_null: Option<f64>, level: Level) -> Self {
        let (value, se) = ((po - pe) / (1.0 - pe), variance.max(0.0).sqrt());
        let half = level.z() * se;
        Self { value: Estimate::around(value, value - half, value + half), po, pe, se, se_null }
    }
}

/// Something a reader of the coefficients must know.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[serde(tag = "code", rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum AgreementNote {
    /// Both raters used one and the same category throughout: kappa is 0/0.
    NoVariation,
    /// One category is so common that kappa is low although raters agree; read it with the prevalence index,
    /// positive and negative agreement.
    KappaParadox {
        /// `|a - d| / n` of a two-category table.
        prevalence_index: f64,
    },
}

/// Agreement of two raters.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct TwoRaterAgreement {
    /// Subjects.
    pub n: u64,
    /// Share of subjects on which both agree, Wilson interval.
    pub percent_agreement: Option<Estimate<Probability>>,
    /// Cohen's kappa; `None` when chance agreement is 1.
    pub kappa: Option<Coefficient>,
    /// With linear weights, for more than two categories.
    pub kappa_linear: Option<Coefficient>,
    /// With quadratic weights, for more than two categories.
    pub kappa_quadratic: Option<Coefficient>,
    /// Prevalence- and bias-adjusted kappa `(q po - 1) / (q - 1)` (Bennett, Alpert and Goldstein 1954, Brennan and Prediger 1981; Byrt 1993 for
    /// two categories).
    pub pabak: f64,
    /// `(a - d) / n`, signed; two categories only.
    pub prevalence_index: Option<f64>,
    /// `(b - c) / n`, signed; two categories only.
    pub bias_index: Option<f64>,
    /// `2 p_kk / (p_k. + p_.k)` per category; `None` for one that nobody used. With two categories these are the
    /// positive and the negative agreement (Cicchetti and Feinstein 1990).
    pub specific_agreement: Vec<Option<f64>>,
    /// The largest kappa that these margins allow.
    pub max_kappa: Option<f64>,
    /// Gwet's AC1 (2008), variance with divisor `n (n - 1)`; `None` for a single subject.
    pub ac1: Option<Coefficient>,
    /// What must be said beside the figures.
    pub notes: Vec<AgreementNote>,
}

/// From this prevalence index on kappa is shown with a warning.
const EXTREME_PREVALENCE: f64 = 0.7;
/// A paradox needs raters who do agree, and a kappa that denies it.
const PARADOX_AGREEMENT: f64 = 0.8;
const PARADOX_KAPPA: f64 = 0.6;

/// Kappa with weights `w_ij`: `po = Σ w p`, `pe = Σ w p_i. p_.j`, `kappa = (po - pe) / (1 - pe)`.
///
/// Standard error of Fleiss, Cohen and Everitt (1969), divisor `n`:
/// `var = {Σ p_ij [w_ij - (w_i. + w_.j)(1 - kappa)]² - [kappa - pe (1 - kappa)]²} / (n (1 - pe)²)`, where `w_i.` and
/// `w_.j` are the weights' means over the other rater's margin. `None` when `pe = 1` (both used one category only).
#[must_use]
pub fn weighted_kappa(table: &RatingTable, weights: Weights, level: Level) -> Option<Coefficient> {
    let q = table.cells.len();
    let (row, column) = table.margins();
    let w = |i, j| weights.weight(i, j, q);
    let sum = |f: &dyn Fn(usize, usize) -> f64| -> f64 {
        (0..q).flat_map(|i| (0..q).map(move |j| (i, j))).map(|(i, j)| f(i, j)).sum()
    };
    let po = sum(&|i, j| w(i, j) * table.share(i, j));
    let pe = sum(&|i, j| w(i, j) * row[i] * column[j]);
    if 1.0 - pe < 1e-14 {
        return None;
    }
    let kappa = (po - pe) / (1.0 - pe);
    let mean_row: Vec<f64> = (0..q).map(|i| (0..q).map(|j| column[j] * w(i, j)).sum()).collect();
    let mean_column: Vec<f64> = (0..q).map(|j| (0..q).map(|i| row[i] * w(i, j)).sum()).collect();
    let scale = table.n as f64 * (1.0 - pe).powi(2);
    let spread = sum(&|i, j| table.share(i, j) * (w(i, j) - (mean_row[i] + mean_column[j]) * (1.0 - kappa)).powi(2));
    let spread_null = sum(&|i, j| row[i] * column[j] * (w(i, j) - (mean_row[i] + mean_column[j])).powi(2));
    let variance = (spread - (kappa - pe * (1.0 - kappa)).powi(2)) / scale;
    let null = ((spread_null - pe * pe) / scale).max(0.0).sqrt();
    Some(Coefficient::new(po, pe, variance, Some(null), level))
}

/// All agreement measures of two raters.
#[must_use]
pub fn two_rater_agreement(table: &RatingTable, level: Level) -> TwoRaterAgreement {
    let q = table.cells.len();
    let (row, column) = table.margins();
    let agreed: u64 = (0..q).map(|k| u64::from(table.cells[k][k])).sum();
    let po: f64 = (0..q).map(|k| table.share(k, k)).sum();
    let kappa = weighted_kappa(table, Weights::None, level);
    let weighted = |weights| (q > 2).then(|| weighted_kappa(table, weights, level)).flatten();
    let pair = (q == 2).then(|| (table.share(0, 0) - table.share(1, 1), table.share(0, 1) - table.share(1, 0)));
    let specific = |k: usize| {
        let used = row[k] + column[k];
        (used > 0.0).then(|| 2.0 * table.share(k, k) / used)
    };
    let mut notes = Vec::new();
    match (&kappa, pair) {
        (None, _) => notes.push(AgreementNote::NoVariation),
        (Some(kappa), Some((index, _)))
            if index.abs() > EXTREME_PREVALENCE && po > PARADOX_AGREEMENT && kappa.value.estimate < PARADOX_KAPPA =>
        {
            notes.push(AgreementNote::KappaParadox { prevalence_index: index.abs() });
        }
        _ => {}
    }
    TwoRaterAgreement {
        n: table.n,
        percent_agreement: proportion_interval(agreed, table.n, level, ProportionMethod::Wilson),
        max_kappa: kappa.map(|kappa| {
            let most: f64 = row.iter().zip(&column).map(|(a, b)| a.min(*b)).sum();
            (most - kappa.pe) / (1.0 - kappa.pe)
        }),
        kappa,
        kappa_linear: weighted(Weights::Linear),
        kappa_quadratic: weighted(Weights::Quadratic),
        pabak: (q as f64 * po - 1.0) / (q as f64 - 1.0),
        prevalence_index: pair.map(|(prevalence, _)| prevalence),
        bias_index: pair.map(|(_, bias)| bias),
        specific_agreement: (0..q).map(specific).collect(),
        ac1: gwet_ac1(table, &row, &column, po, level),
        notes,
    }
}

/// Gwet's AC1: `pe = Σ pi_k (1 - pi_k) / (q - 1)` with `pi_k` the mean of both margins; the variance of Gwet (2008)
/// in closed form, times `n / (n - 1)`.
fn gwet_ac1(table: &RatingTable, row: &[f64], column: &[f64], po: f64, level: Level) -> Option<Coefficient> {
    let (n, q) = (table.n as f64, row.len() as f64);
    if table.n < 2 {
        return None;
    }
    let pi: Vec<f64> = row.iter().zip(column).map(|(a, b)| 0.5 * (a + b)).collect();
    let pe = pi.iter().map(|p| p * (1.0 - p)).sum::<f64>() / (q - 1.0);
    let gamma = (po - pe) / (1.0 - pe);
    let agreed: f64 = pi.iter().enumerate().map(|(k, p)| table.share(k, k) * (1.0 - p)).sum::<f64>() / (q - 1.0);
    let mut pairs = 0.0;
    for (k, pk) in pi.iter().enumerate() {
        for (l, pl) in pi.iter().enumerate() {
            pairs += table.share(k, l) * (1.0 - 0.5 * (pk + pl)).powi(2);
        }
    }
    let slack = 1.0 - gamma;
    let spread = po * (1.0 - po) - 4.0 * slack * (agreed - po * pe)
        + 4.0 * slack * slack * (pairs / (q - 1.0).powi(2) - pe * pe);
    Some(Coefficient::new(po, pe, spread / ((n - 1.0) * (1.0 - pe).powi(2)), None, level))
}
