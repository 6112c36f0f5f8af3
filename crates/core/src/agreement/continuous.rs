//! Measurements by several raters, or on several occasions: intraclass correlation, error of measurement, and the
//! limits of agreement of two.

use serde::{Deserialize, Serialize};

use super::categorical::RatingError;
use crate::distribution::{f_upper, noncentral_t_quantile, t_upper};
use crate::{Estimate, Level};

/// A complete matrix of measurements, a row per subject and a column per rater.
#[derive(Debug, Clone, PartialEq)]
pub struct Measurements {
    rows: Vec<Vec<f64>>,
}

impl Measurements {
    /// Checked constructor.
    ///
    /// # Errors
    /// [`RatingError`] for fewer than two subjects or raters, ragged rows, and values that are not finite.
    pub fn new(rows: Vec<Vec<f64>>) -> Result<Self, RatingError> {
        if rows.len() < 2 {
            return Err(RatingError::Subjects { found: rows.len(), needed: 2 });
        }
        let k = rows[0].len();
        if k < 2 {
            return Err(RatingError::Raters { row: 1, found: k as u32 });
        }
        for (i, row) in rows.iter().enumerate() {
            if row.len() != k {
                return Err(RatingError::Ragged { row: i + 1, found: row.len(), expected: k });
            }
            // Beyond this squares and sums of squares overflow.
            if let Some(j) = row.iter().position(|value| !value.is_finite() || value.abs() > 1e100) {
                return Err(RatingError::NotFinite { row: i + 1, column: j + 1 });
            }
        }
        Ok(Self { rows })
    }

    /// People measured.
    #[must_use]
    pub fn subjects(&self) -> usize {
        self.rows.len()
    }

    /// Raters, or occasions.
    #[must_use]
    pub fn raters(&self) -> usize {
        self.rows[0].len()
    }

    fn mean_squares(&self) -> MeanSquares {
        let (n, k) = (self.rows.len() as f64, self.rows[0].len() as f64);
        // Deviations from one of the values first: a common offset of a million must not eat the digits.
        let origin = self.rows[0][0];
        let value = |i: usize, j: usize| self.rows[i][j] - origin;
        let (subjects, raters) = (0..self.rows.len(), 0..self.rows[0].len());
        let row_mean: Vec<f64> =
            subjects.clone().map(|i| raters.clone().map(|j| value(i, j)).sum::<f64>() / k).collect();
        let column_mean: Vec<f64> =
            raters.clone().map(|j| subjects.clone().map(|i| value(i, j)).sum::<f64>() / n).collect();
        let grand = row_mean.iter().sum::<f64>() / n;
        let between_rows = k * row_mean.iter().map(|mean| (mean - grand).powi(2)).sum::<f64>();
        let between_columns = n * column_mean.iter().map(|mean| (mean - grand).powi(2)).sum::<f64>();
        let (mut within, mut residual) = (0.0, 0.0);
        for (i, row) in row_mean.iter().enumerate() {
            for (j, column) in column_mean.iter().enumerate() {
                within += (value(i, j) - row).powi(2);
                residual += (value(i, j) - row - column + grand).powi(2);
            }
        }
        MeanSquares {
            n,
            k,
            rows: between_rows / (n - 1.0),
            columns: between_columns / (k - 1.0),
            error: residual / ((n - 1.0) * (k - 1.0)),
            within: within / (n * (k - 1.0)),
        }
    }
}

/// Mean squares of the two-way table (rows are subjects, columns raters) and within rows.
#[derive(Debug, Clone, Copy)]
struct MeanSquares {
    n: f64,
    k: f64,
    rows: f64,
    columns: f64,
    error: f64,
    within: f64,
}

/// Which intraclass correlation (McGraw and Wong 1996; Shrout and Fleiss 1979).
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum IccForm {
    /// (1,1): one-way, a single rating.
    OneWaySingle,
    /// (1,k): one-way, the mean of all ratings.
    OneWayAverage,
    /// (2,1): two-way, absolute agreement, a single rating.
    AgreementSingle,
    /// (2,k): two-way, absolute agreement, the mean.
    AgreementAverage,
    /// (3,1): two-way, consistency, a single rating.
    ConsistencySingle,
    /// (3,k): two-way, consistency, the mean.
    ConsistencyAverage,
}

/// An intraclass correlation with its interval.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Icc {
    /// Which.
    pub form: IccForm,
    /// Point and interval; `None` when the measurements do not allow it (no variance, or a value outside -1 and 1
    /// which the formula gives for a few matrices).
    pub value: Option<Estimate<f64>>,
}

/// All six intraclass correlations.
///
/// With mean squares between subjects `MSR`, raters `MSC`, residual `MSE` and within subjects `MSW`, `n` subjects and
/// `k` raters: `(1,1) = (MSR - MSW)/(MSR + (k-1) MSW)`, `(3,1) = (MSR - MSE)/(MSR + (k-1) MSE)`,
/// `(2,1) = (MSR - MSE)/(MSR + (k-1) MSE + k (MSC - MSE)/n)`; the average forms drop the term in `k - 1` (and divide the
/// last by `n` only). Intervals from exact F quantiles, for (2,·) with Satterthwaite's degrees of freedom, which are not
/// rounded (McGraw and Wong 1996).
#[must_use]
pub fn intraclass_correlations(measurements: &Measurements, level: Level) -> [Icc; 6] {
    let ms = measurements.mean_squares();
    let value = |form| Icc { form, value: icc(&ms, form, level) };
    [
        value(IccForm::OneWaySingle),
        value(IccForm::OneWayAverage),
        value(IccForm::AgreementSingle),
        value(IccForm::AgreementAverage),
        value(IccForm::ConsistencySingle),
        value(IccForm::ConsistencyAverage),
    ]
}

fn icc(ms: &MeanSquares, form: IccForm, level: Level) -> Option<Estimate<f64>> {
    let [point, lower, upper] = match form {
        IccForm::OneWaySingle => by_exact_f(ms, ms.within, ms.n * (ms.k - 1.0), ms.k, level),
        IccForm::OneWayAverage => by_exact_f(ms, ms.within, ms.n * (ms.k - 1.0), 1.0, level),
        IccForm::ConsistencySingle => by_exact_f(ms, ms.error, (ms.n - 1.0) * (ms.k - 1.0), ms.k, level),
        IccForm::ConsistencyAverage => by_exact_f(ms, ms.error, (ms.n - 1.0) * (ms.k - 1.0), 1.0, level),
        IccForm::AgreementSingle => by_satterthwaite(ms, ms.k, level),
        IccForm::AgreementAverage => by_satterthwaite(ms, 1.0, level),
    };
    let sound = [point, lower, upper].iter().all(|v| v.is_finite()) && (-1.0..=1.0).contains(&point);
    sound.then(|| Estimate::around(point, lower, upper))
}

/// `(F - 1) / (F + r - 1)` of `F = MSR / noise`, with `r = k` for a single rating and 1 for the mean of all.
fn by_exact_f(ms: &MeanSquares, noise: f64, df2: f64, r: f64, level: Level) -> [f64; 3] {
    let (df1, tail) = (ms.n - 1.0, level.tail());
    let f = ms.rows / noise;
    let of = |f: f64| (f - 1.0) / (f + r - 1.0);
    [of(f), of(f / f_upper(tail, df1, df2)), of(f * f_upper(tail, df2, df1))]
}

fn by_satterthwaite(ms: &MeanSquares, r: f64, level: Level) -> [f64; 3] {
    let MeanSquares { n, k, rows, columns, error, .. } = *ms;
    let rho = (rows - error) / (rows + (r - 1.0) * error + r * (columns - error) / n);
    let ratio = r * rho / (n * (1.0 - rho));
    let (a, b) = (ratio, 1.0 + ratio * (n - 1.0));
    let df = (a * columns + b * error).powi(2)
        / ((a * columns).powi(2) / (k - 1.0) + (b * error).powi(2) / ((n - 1.0) * (k - 1.0)));
    if !(df.is_finite() && df > 0.0) {
        return [rho, f64::NAN, f64::NAN];
    }
    let (low, high) = (f_upper(level.tail(), n - 1.0, df), f_upper(level.tail(), df, n - 1.0));
    let noise = r * columns + (r * n - r - n) * error;
    let lower = n * (rows - low * error) / (low * noise + n * rows);
    let upper = n * (high * rows - error) / (noise + n * high * rows);
    [rho, lower, upper]
}

/// The standard error of measurement and the minimal detectable change, beyond which a difference exceeds the error of measurement with 95 %
/// confidence.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Repeatability {
    /// Standard error of measurement for absolute agreement: `sqrt(rater variance + residual variance)`, the rater
    /// variance cut at 0.
    pub sem_agreement: f64,
    /// For consistency: `sqrt(MSE)`.
    pub sem_consistency: f64,
    /// Minimal detectable change, `z sqrt(2) SEM`, for absolute agreement.
    pub mdc_agreement: f64,
    /// For consistency.
    pub mdc_consistency: f64,
}

/// Standard error of measurement and minimal detectable change, in the unit of the measurements.
#[must_use]
pub fn repeatability(measurements: &Measurements, level: Level) -> Repeatability {
    let ms = measurements.mean_squares();
    let rater = ((ms.columns - ms.error) / ms.n).max(0.0);
    let (agreement, consistency) = ((rater + ms.error).sqrt(), ms.error.sqrt());
    let change = level.z() * std::f64::consts::SQRT_2;
    Repeatability {
        sem_agreement: agreement,
        sem_consistency: consistency,
        mdc_agreement: change * agreement,
        mdc_consistency: change * consistency,
    }
}

/// Bias and limits of agreement of two raters (Bland and Altman 1999), first minus second.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct BlandAltman {
    /// Mean difference with its t interval.
    pub bias: Estimate<f64>,
    /// Standard deviation of the differences, divisor `n - 1`.
    pub sd: f64,
    /// `bias - z sd`, with its approximate interval.
    pub lower_limit: Estimate<f64>,
    /// `bias + z sd`, with its approximate interval.
    pub upper_limit: Estimate<f64>,
    /// The lower limit with its exact interval.
    pub lower_limit_exact: Estimate<f64>,
    /// The upper limit with its exact interval.
    pub upper_limit_exact: Estimate<f64>,
}

/// Limits of agreement `bias ± z sd`; each limit's interval is `± t(n-1) sd sqrt(1/n + z²/(2(n-1)))` (Bland and Altman
/// 1999). The exact interval of the upper limit is `bias + sd t' / sqrt(n)`, with `t'` the quantiles of the noncentral t
/// distribution with `n - 1` degrees of freedom and noncentrality `z sqrt(n)`; that of the lower one is its mirror image (Carkeet
/// 2015). `None` unless there are exactly two raters.
#[must_use]
pub fn bland_altman(measurements: &Measurements, level: Level) -> Option<BlandAltman> {
    if measurements.rows[0].len() != 2 {
        return None;
    }
    let n = measurements.rows.len() as f64;
    let differences: Vec<f64> = measurements.rows.iter().map(|row| row[0] - row[1]).collect();
    let bias = differences.iter().sum::<f64>() / n;
    let sd = (differences.iter().map(|d| (d - bias).powi(2)).sum::<f64>() / (n - 1.0)).sqrt();
    let (t, z) = (t_upper(level.tail(), n - 1.0), level.z());
    let around = |point: f64, half: f64| Estimate::around(point, point - half, point + half);
    let exact =
        [level.tail(), 1.0 - level.tail()].map(|p| sd * noncentral_t_quantile(p, n - 1.0, z * n.sqrt()) / n.sqrt());
    let limit_half = t * sd * (1.0 / n + z * z / (2.0 * (n - 1.0))).sqrt();
    Some(BlandAltman {
        bias: around(bias, t * sd / n.sqrt()),
        sd,
        lower_limit: around(bias - z * sd, limit_half),
        upper_limit: around(bias + z * sd, limit_half),
        lower_limit_exact: Estimate::around(bias - z * sd, bias - exact[1], bias - exact[0]),
        upper_limit_exact: Estimate::around(bias + z * sd, bias + exact[0], bias + exact[1]),
    })
}
