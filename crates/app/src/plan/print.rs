//! A plan for paper.

use pruvex_core::catalogue::{Caution, CautionKind};
use pruvex_core::plan::{PatientFit, examination_fit};
use pruvex_formats::{PlanSheet, PlannedOnPaper, plan_sheet};
use pruvex_store::condition::list_must_not_miss;
use pruvex_store::plan as store;
use uuid::Uuid;

use super::fit::screened_tests;
use super::order::order_of;
use super::plans::eyes;
use crate::blocking::blocking;
use crate::people::Reader;
use crate::{App, AppError, FileContent, file_name, media, today};

/// The plan typeset on A4: what is asked first, then its tests by position with boxes for both sides; as it was signed off for those who may not see
/// drafts.
///
/// # Errors
/// No such plan that this person may see.
pub async fn print_plan(app: &App, by: &Reader, id: Uuid) -> Result<FileContent, AppError> {
    let record = store::get_plan(&app.db, eyes(by.role()), id).await?;
    let answer = order_of(app, by, record.plan.clone()).await?;
    let (places, screened) = screened_tests(app, by, &record.plan).await?;
    let mut questions = examination_fit(&screened, &PatientFit::default()).questions;
    for question in &mut questions {
        question.tests = question.tests.iter().filter_map(|place| places.get(*place).copied()).collect();
    }
    let said = |place: usize, kind: CautionKind| {
        let test = places.iter().position(|it| *it == place).map(|at| &screened[at]);
        let words = |it: &Caution| [it.text.as_str(), it.instead.as_str()].join(" ").trim().to_owned();
        test.map(|test| test.cautions_of(kind).map(words).collect()).unwrap_or_default()
    };
    let tests: Vec<PlannedOnPaper> = answer
        .tests
        .into_iter()
        .enumerate()
        .map(|(place, it)| PlannedOnPaper {
            cares: said(place, CautionKind::Precaution),
            stops: said(place, CautionKind::StopRule),
            name: it.name.unwrap_or_default(),
            position: it.position,
            irritation: it.irritation,
            one_attempt: it.one_attempt,
            minutes: it.minutes,
            ratios: it.worth.iter().map(|worth| (worth.question, [worth.lr_positive, worth.lr_negative])).collect(),
        })
        .collect();
    let must_not_miss = list_must_not_miss(&app.db, record.plan.region).await?;
    let name = format!("{}.pdf", file_name(&record.plan.title, "plan"));
    let (printed, sample) = (today(), record.sample || answer.sample);
    let set = blocking(move || {
        plan_sheet(&PlanSheet {
            plan: &record.plan,
            version: record.version,
            status: record.status,
            sample,
            tests: &tests,
            questions: &questions,
            must_not_miss: &must_not_miss,
            printed: &printed,
        })
    });
    let bytes = set.await?.map_err(AppError::internal)?;
    Ok(FileContent::new(bytes, name, media::PDF))
}
