//! Whether the figures of a plan's tests are those of people such as it is for.

use std::collections::HashSet;

use pruvex_core::evidence::{OfTest, StudySetup, left_out};
use pruvex_core::plan::ExaminationPlan;
use pruvex_core::{StudyId, TestId};
use pruvex_store::evidence::{ResultCandidate, get_studies, list_candidates};

use super::figures::{PlanRows, row_for};
use crate::App;
use crate::AppError;
use crate::people::{Reader, seen_by};

/// For each test of a plan and each question that it has figures for, by their places: how many of the studies behind them are of people such as the plan is for.
/// Nothing where it does not say who they are.
pub(super) async fn matching_studies(
    app: &App,
    by: &Reader,
    plan: &ExaminationPlan,
    rows: &PlanRows<'_>,
) -> Result<Vec<(usize, usize, usize)>, AppError> {
    if plan.setting.is_none() && plan.course.is_none() && plan.state.is_none() {
        return Ok(Vec::new());
    }
    let ids: Vec<TestId> = plan.tests.iter().map(|it| it.test).collect();
    let results = list_candidates(&app.db, Some(&ids), seen_by(by.role(), &app.db).await?).await?;
    let studies = get_studies(&app.db, results.iter().map(|it| it.study_id)).await?;
    let fits: HashSet<StudyId> = studies.values().filter(|it| is_such(plan, &it.study.setup)).map(|it| it.id).collect();
    let mut found = Vec::new();
    for (test, id) in ids.iter().enumerate() {
        let of_test: Vec<&ResultCandidate> = results.iter().filter(|it| it.test_id == *id).collect();
        let candidates: Vec<OfTest<'_>> = of_test.iter().map(|it| it.of_test()).collect();
        let taught = rows[id].iter().find(|row| row.leading).map_or("", |row| row.condition.as_str());
        for (nth, question) in plan.questions.iter().enumerate() {
            if row_for(plan, question, &rows[id]).is_none() {
                continue;
            }
            let why = left_out(&candidates, taught, &question.condition);
            let counted = of_test.iter().zip(why).filter(|(_, why)| why.is_none());
            let such: HashSet<StudyId> = counted.map(|(it, _)| it.study_id).filter(|id| fits.contains(id)).collect();
            found.push((test, nth, such.len()));
        }
    }
    Ok(found)
}

/// A study of acute and of chronic patients is of neither alone.
fn is_such(plan: &ExaminationPlan, setup: &StudySetup) -> bool {
    (plan.setting.is_none() || setup.setting == plan.setting)
        && (plan.course.is_none() || setup.course == plan.course)
        && (plan.state.is_none() || setup.state == plan.state)
}
