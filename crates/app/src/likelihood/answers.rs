//! Bayes' rule for the tests of a list.

use std::collections::HashMap;

use pruvex_core::likelihood::{NaturalFrequencies, natural_frequencies, post_test_interval};
use pruvex_core::{Estimate, FieldErrorCode, Probability, TestId};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::catalogue::TestRow;
use crate::people::Reader;
use crate::{App, AppError};

const MOST_TESTS: usize = 5_000;

/// The question: how probable is the condition before testing, and which tests are asked about.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Question {
    /// Pre-test probability.
    pre_test: Probability,
    /// At most 5 000 tests.
    tests: Vec<AskedTest>,
}

/// A test whose figures were read before.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AskedTest {
    /// Which.
    test: TestId,
    /// The version of its figures that was read.
    figures: String,
}

/// What a result of one test means.
#[derive(Debug, Serialize, ToSchema)]
pub struct Answer {
    test: TestId,
    /// Its figures are others by now, or it is not in the catalogue any more: read it again.
    changed: bool,
    /// Probability after a positive result; `null` when not estimable.
    after_positive: Option<Estimate<Probability>>,
    /// Probability after a negative result.
    after_negative: Option<Estimate<Probability>>,
    /// The same in whole people out of 1 000.
    frequencies: Option<NaturalFrequencies>,
}

/// Bayes' rule for many tests at once, by their figures as they are now.
///
/// # Errors
/// More tests than are answered at once.
pub async fn answer(app: &App, by: &Reader, question: Question) -> Result<Vec<Answer>, AppError> {
    let Question { pre_test, tests } = question;
    if tests.len() > MOST_TESTS {
        let message = format!("At most {MOST_TESTS} tests are answered at once.");
        return Err(AppError::field("tests", FieldErrorCode::TooLong, tests.len(), message, "Ask in portions."));
    }
    let catalogue = app.catalogue().await?;
    let mut rows: HashMap<TestId, Vec<&TestRow>> = tests.iter().map(|asked| (asked.test, Vec::new())).collect();
    for row in catalogue.all_rows(by.role()) {
        if let Some(of) = rows.get_mut(&row.id) {
            of.push(row);
        }
    }
    let answer = |AskedTest { test, figures }: AskedTest| {
        let of = rows.get(&test).map(Vec::as_slice).unwrap_or_default();
        // Their version says for which of its conditions they were read.
        let read = of.iter().find(|row| row.figures == figures);
        // Figures that are others by now: those of now, with a note.
        let summary = read.or_else(|| of.iter().find(|row| row.leading)).and_then(|row| row.summary);
        Answer {
            test,
            changed: read.is_none(),
            after_positive: summary.and_then(|it| post_test_interval(pre_test, it.lr_positive?)),
            after_negative: summary.and_then(|it| post_test_interval(pre_test, it.lr_negative?)),
            frequencies: summary
                .and_then(|it| it.sensitivity.zip(it.specificity))
                .map(|(se, sp)| natural_frequencies(1_000, pre_test, se.estimate, sp.estimate)),
        }
    };
    Ok(tests.into_iter().map(answer).collect())
}
