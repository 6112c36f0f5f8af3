//! What the catalogue says of a plan's tests.

use std::collections::HashMap;

use pruvex_core::TestId;
use pruvex_core::catalogue::name_key;
use pruvex_core::combine::TestAccuracy;
use pruvex_core::likelihood::supported_accuracy;
use pruvex_core::plan::{ExaminationPlan, PlanQuestion};

use crate::catalogue::{Catalogue, TestRow};
use crate::people::Reader;

/// The rows of each test of a plan, one for each of its conditions; none for a test that is archived or that somebody may not see.
pub(crate) type PlanRows<'a> = HashMap<TestId, Vec<&'a TestRow>>;

/// The rows of a plan's tests as this person sees them.
pub(crate) fn rows_of<'a>(plan: &ExaminationPlan, catalogue: &'a Catalogue, by: &Reader) -> PlanRows<'a> {
    let mut rows: PlanRows<'a> = plan.tests.iter().map(|it| (it.test, Vec::new())).collect();
    for row in catalogue.all_rows(by.role()) {
        if let Some(of_test) = rows.get_mut(&row.id) {
            of_test.push(row);
        }
    }
    rows
}

/// What the catalogue says of a test for this question.
pub(crate) fn row_for<'a>(
    plan: &ExaminationPlan,
    question: &PlanQuestion,
    rows: &[&'a TestRow],
) -> Option<&'a TestRow> {
    let key = name_key(&question.condition);
    rows.iter().copied().find(|row| row.region == plan.region && row.condition_key == key)
}

/// Sensitivity and specificity as far as the data support them.
pub(super) fn accuracy(row: &TestRow) -> Option<TestAccuracy> {
    supported_accuracy(row.summary.as_ref()?)
}
