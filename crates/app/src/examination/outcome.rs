//! What an examination came to, with the figures and versions of the day on which it is finished.

use std::collections::HashMap;

use pruvex_core::TestId;
use pruvex_core::catalogue::Sheet;
use pruvex_core::examination::{
    AskedAbout, ExaminationOutcome, OutcomeQuestion, OutcomeStep, OutcomeTest, ScreeningAnswered,
};
use pruvex_core::people::Right;
use pruvex_core::plan::StandingStep;
use pruvex_core::pooling::ENGINE;
use pruvex_store::catalogue::get_tests;
use pruvex_store::examination::ExaminationRecord;

use super::view::ExaminationStands;
use crate::people::Reader;
use crate::plan::{row_for, rows_of};
use crate::{App, AppError};

pub(super) async fn outcome_of(
    app: &App,
    by: &Reader,
    record: &ExaminationRecord,
    stands: &ExaminationStands,
    sheets: &HashMap<TestId, Sheet>,
) -> Result<ExaminationOutcome, AppError> {
    let plan = &record.plan;
    let ids: Vec<TestId> = plan.tests.iter().map(|it| it.test).collect();
    let drafts = by.role().may(Right::ReadDrafts);
    let versions: HashMap<TestId, i32> = get_tests(&app.db, &ids)
        .await?
        .into_iter()
        .filter_map(|it| Some((it.id, if drafts { it.version } else { it.published_version? })))
        .collect();
    let catalogue = app.catalogue().await?;
    let rows = rows_of(plan, &catalogue, by);
    let tests = plan.tests.iter().zip(stands.fit.tests.iter().zip(&stands.readings));
    let tests = tests.map(|(planned, (fitted, reading))| {
        let sheet = sheets.get(&planned.test);
        let variant = sheet.and_then(|sheet| sheet.variant(&planned.variant)).map(|it| it.name.clone());
        OutcomeTest {
            test: planned.test,
            name: sheet.map(|sheet| sheet.name.clone()).unwrap_or_default(),
            variant: variant.unwrap_or_default(),
            sheet: versions.get(&planned.test).copied().filter(|_| sheet.is_some()),
            fit: fitted.fit.state,
            reasons: fitted.fit.reasons.clone(),
            left_out: fitted.left_out,
            reading: reading.clone(),
        }
    });
    let questions = plan.questions.iter().zip(&stands.standing.questions).map(|(question, stood)| {
        let step = |it: &StandingStep| {
            let test = ids[it.test];
            let row = row_for(plan, question, &rows[&test]);
            let (studies, figures) = row.map(|row| (row.studies, row.figures.clone())).unwrap_or_default();
            OutcomeStep { test, ratio: it.step.lr, after: it.step.after, studies, figures }
        };
        OutcomeQuestion {
            condition: stood.condition.clone(),
            pre_test: question.pre_test,
            after: stood.standing.now,
            action: stood.standing.action,
            steps: stood.standing.steps.iter().map(step).collect(),
        }
    });
    let asked = |it: &crate::plan::QuestionAsked| ScreeningAnswered {
        question: it.question.question.clone(),
        answer: it.question.answer,
    };
    let must_not_miss = stands.standing.must_not_miss.iter();
    Ok(ExaminationOutcome {
        screening: stands.fit.questions.iter().map(asked).collect(),
        stop: stands.fit.stop.as_ref().map(|it| it.caution.clone()),
        tests: tests.collect(),
        questions: questions.collect(),
        must_not_miss: must_not_miss
            .map(|it| AskedAbout { condition: it.condition.clone(), asked: it.asked })
            .collect(),
        end: stands.standing.end,
        sample: record.sample || rows.values().flatten().any(|row| row.sample),
        engine: ENGINE.to_owned(),
    })
}
