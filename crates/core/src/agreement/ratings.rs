//! Ratings as they were written down, a row per subject and a column per rater, counted into tables.

use std::collections::BTreeSet;

use super::categorical::{RatingError, RatingTable};
use super::several_raters::RatingCounts;

/// Ratings counted.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Tabulated {
    /// By two raters.
    Two(RatingTable),
    /// By three or more.
    Several(RatingCounts),
}

/// Counts ratings, and names the categories in the order of the table: numbers by size, other words by alphabet.
///
/// The order matters to weighted kappa only; words that stand for grades are therefore best written as numbers.
///
/// # Errors
/// [`RatingError`] for missing ratings, rows of different length, a single category or too many.
pub fn tabulate(rows: &[Vec<String>]) -> Result<(Vec<String>, Tabulated), RatingError> {
    let raters = rows.first().map_or(0, Vec::len);
    if raters < 2 {
        return Err(RatingError::Raters { row: 1, found: raters as u32 });
    }
    for (i, row) in rows.iter().enumerate() {
        if row.len() != raters {
            return Err(RatingError::Ragged { row: i + 1, found: row.len(), expected: raters });
        }
        if let Some(j) = row.iter().position(|rating| rating.trim().is_empty()) {
            return Err(RatingError::Missing { row: i + 1, column: j + 1 });
        }
    }
    let distinct: BTreeSet<&str> = rows.iter().flatten().map(|rating| rating.trim()).collect();
    let mut categories: Vec<&str> = distinct.into_iter().collect();
    let number = |text: &str| text.parse::<f64>().ok().filter(|value| value.is_finite());
    if categories.iter().all(|text| number(text).is_some()) {
        categories.sort_by(|a, b| number(a).unwrap_or(0.0).total_cmp(&number(b).unwrap_or(0.0)));
    }
    let q = categories.len();
    if !(2..=50).contains(&q) {
        return Err(RatingError::Categories(q));
    }
    let place = |rating: &str| categories.iter().position(|category| *category == rating.trim()).unwrap_or_default();
    let tabulated = if raters == 2 {
        let mut cells = vec![vec![0; q]; q];
        for row in rows {
            cells[place(&row[0])][place(&row[1])] += 1;
        }
        Tabulated::Two(RatingTable::new(cells)?)
    } else {
        let counted = rows.iter().map(|row| {
            let mut counts = vec![0; q];
            row.iter().for_each(|rating| counts[place(rating)] += 1);
            counts
        });
        Tabulated::Several(RatingCounts::new(counted.collect())?)
    };
    Ok((categories.into_iter().map(str::to_owned).collect(), tabulated))
}
