//! Three raters or more: Fleiss' kappa and Gwet's AC1 from how many raters chose each category.

use serde::Serialize;

use super::categorical::{Coefficient, RatingError};
use crate::Level;

/// Per subject, how many raters chose each category; every subject has the same number of raters.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct RatingCounts {
    rows: Vec<Vec<u32>>,
    raters: u32,
}

impl RatingCounts {
    /// Checked constructor.
    ///
    /// # Errors
    /// [`RatingError`] for ragged tables, unequal or too few raters, fewer than two subjects.
    pub fn new(rows: Vec<Vec<u32>>) -> Result<Self, RatingError> {
        if rows.len() < 2 {
            return Err(RatingError::Subjects { found: rows.len(), needed: 2 });
        }
        let q = rows[0].len();
        if !(2..=50).contains(&q) {
            return Err(RatingError::Categories(q));
        }
        let raters = rows[0].iter().fold(0, |sum: u32, value| sum.saturating_add(*value));
        for (i, row) in rows.iter().enumerate() {
            if row.len() != q {
                return Err(RatingError::Ragged { row: i + 1, found: row.len(), expected: q });
            }
            let found = row.iter().fold(0, |sum: u32, value| sum.saturating_add(*value));
            if found != raters || !(2..=1_000_000).contains(&found) {
                return Err(RatingError::Raters { row: i + 1, found });
            }
        }
        Ok(Self { rows, raters })
    }
}

/// Agreement of several raters.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct SeveralRaterAgreement {
    /// Subjects.
    pub subjects: usize,
    /// Ratings of each.
    pub raters: u32,
    /// Fleiss' kappa (1971); its standard error is the linearisation over subjects with divisor `N (N - 1)`, its null
    /// standard error that of Fleiss, Nee and Landis (1979). `None` when only one category was used.
    pub kappa: Option<Coefficient>,
    /// Kappa of each category against the rest (Fleiss 1971); `None` for an unused one.
    pub category_kappa: Vec<Option<f64>>,
    /// Gwet's AC1, linearised likewise.
    pub ac1: Coefficient,
}

/// Fleiss' kappa and AC1.
///
/// With `x_ij` the raters of subject `i` who chose `j`, `m` raters: `po` is the mean of
/// `(Σ_j x_ij² - m) / (m (m - 1))`, `p_j` the share of category `j`, `pe = Σ p_j²` for kappa and
/// `Σ p_j (1 - p_j) / (q - 1)` for AC1. Linearised variance: `Σ (c_i - c)² / (N (N - 1))` with
/// `c_i = (po_i - pe)/(1 - pe) - 2 (1 - c) (pe_i - pe) / (1 - pe)`, `pe_i` the chance agreement with subject `i`'s own shares
/// in place of one factor.
#[must_use]
pub fn several_rater_agreement(counts: &RatingCounts, level: Level) -> SeveralRaterAgreement {
    let (subjects, m) = (counts.rows.len(), f64::from(counts.raters));
    let (n, q) = (subjects as f64, counts.rows[0].len());
    let shares: Vec<f64> =
        (0..q).map(|j| counts.rows.iter().map(|row| f64::from(row[j])).sum::<f64>() / (n * m)).collect();
    let agreement: Vec<f64> = counts
        .rows
        .iter()
        .map(|row| (row.iter().map(|x| f64::from(*x).powi(2)).sum::<f64>() - m) / (m * (m - 1.0)))
        .collect();
    let po = agreement.iter().sum::<f64>() / n;
    let linearised = |pe: f64, factor: &dyn Fn(usize) -> f64| {
        let c = (po - pe) / (1.0 - pe);
        let own = |row: &Vec<u32>| row.iter().enumerate().map(|(j, x)| f64::from(*x) / m * factor(j)).sum::<f64>();
        let squares = counts.rows.iter().zip(&agreement).map(|(row, agreement)| {
            let part = (agreement - pe) / (1.0 - pe) - 2.0 * (1.0 - c) * (own(row) - pe) / (1.0 - pe);
            (part - c).powi(2)
        });
        squares.sum::<f64>() / (n * (n - 1.0))
    };
    let pe = shares.iter().map(|p| p * p).sum::<f64>();
    let kappa = (1.0 - pe > 1e-14).then(|| {
        let pq: f64 = shares.iter().map(|p| p * (1.0 - p)).sum();
        let skew: f64 = shares.iter().map(|p| p * (1.0 - p) * (1.0 - 2.0 * p)).sum();
        let null = 2.0 / (n * m * (m - 1.0)) * (pq * pq - skew) / (pq * pq);
        Coefficient::new(po, pe, linearised(pe, &|j| shares[j]), Some(null.max(0.0).sqrt()), level)
    });
    let category = |j: usize| {
        let p = shares[j];
        let apart: f64 = counts.rows.iter().map(|row| f64::from(row[j]) * (m - f64::from(row[j]))).sum();
        (p > 0.0 && p < 1.0).then(|| 1.0 - apart / (n * m * (m - 1.0) * p * (1.0 - p)))
    };
    let chance = shares.iter().map(|p| p * (1.0 - p)).sum::<f64>() / (q as f64 - 1.0);
    let ac1_variance = linearised(chance, &|j| (1.0 - shares[j]) / (q as f64 - 1.0));
    SeveralRaterAgreement {
        subjects,
        raters: counts.raters,
        kappa,
        category_kappa: (0..q).map(category).collect(),
        ac1: Coefficient::new(po, chance, ac1_variance, None, level),
    }
}
