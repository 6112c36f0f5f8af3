//! Agreement results of a test: what their figures say, list, add, correct, delete, restore.

use std::collections::HashSet;

use pruvex_core::evidence::{Agreement, AgreementAnswer, AgreementInput, FiguresInput, StudyInput, agreement_answer};
use pruvex_core::people::{Right, Role};
use pruvex_core::{FieldError, Level, StudyId, TestId};
use pruvex_store::DatabaseConnection;
use pruvex_store::catalogue::get_test;
use pruvex_store::evidence::{self as store, AgreementRecord};
use pruvex_store::history::Act;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

use super::studies::{self, StudyView, both, needed, of_study};
use crate::app::commit;
use crate::blocking::blocking;
use crate::catalogue::visible_test;
use crate::people::{Reader, ShownToLearners, StudyWriter, seen_by};
use crate::{App, AppError, Versioned, only};

/// An agreement result with what its figures say.
#[derive(Debug, Serialize, ToSchema)]
pub struct AgreementView {
    id: Uuid,
    test_id: TestId,
    version: i32,
    /// Made up, for demonstration.
    sample: bool,
    #[serde(flatten)]
    written: AgreementInput,
    study: StudyView,
    answer: AgreementAnswer,
    /// Learners see it, if they see the sheet.
    learners_see: bool,
}

impl Versioned for AgreementView {
    fn version(&self) -> i32 {
        self.version
    }
}

/// An agreement result and its study, as they are to be saved.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AgreementBody {
    /// The study on record that it is of; without it `study` is a new one.
    #[serde(default)]
    study_id: Option<StudyId>,
    /// The version at which that study was read.
    #[serde(default)]
    study_version: Option<i32>,
    /// What is said of the study now, for all of its results. A correction may leave it out with its number.
    #[serde(default)]
    study: Option<StudyInput>,
    /// What it reports.
    agreement: AgreementInput,
}

impl AgreementBody {
    fn of_study(&self) -> Result<Option<store::OfStudy>, Vec<FieldError>> {
        of_study(self.study_id, self.study_version, self.study.as_ref())
    }

    fn agreement(&self) -> Result<Agreement, Vec<FieldError>> {
        Agreement::check(&self.agreement)
            .map_err(|errors| errors.into_iter().map(|error| error.within("agreement.")).collect())
    }
}

async fn views(
    db: &DatabaseConnection,
    role: Role,
    records: Vec<AgreementRecord>,
) -> Result<Vec<AgreementView>, AppError> {
    let of = store::get_studies(db, records.iter().map(|record| record.study_id)).await?;
    let studies = studies::views(db, of.into_values().collect()).await?;
    let tests: HashSet<TestId> = records.iter().map(|record| record.test_id).collect();
    let tests: Vec<TestId> = tests.into_iter().collect();
    let shown = ShownToLearners::of(role, db, async |seen| {
        Ok(store::list_agreements(db, &tests, seen).await?.into_iter().map(|record| record.id).collect())
    });
    let shown = shown.await?;
    blocking(move || {
        let view = |AgreementRecord { id, test_id, study_id, version, sample, agreement }| {
            let study = studies.get(&study_id).cloned()?;
            let (written, answer) = (agreement.written().clone(), agreement.answer(Level::default()));
            let learners_see = shown.holds(&id);
            Some(AgreementView { id, test_id, version, sample, written, study, answer, learners_see })
        };
        records.into_iter().filter_map(view).collect()
    })
    .await
}

async fn one(db: &DatabaseConnection, role: Role, record: AgreementRecord) -> Result<AgreementView, AppError> {
    only(views(db, role, vec![record]).await?)
}

/// What figures say that are being entered. Nothing is stored.
pub async fn answer_agreement(_by: &Reader, input: FiguresInput) -> Result<AgreementAnswer, AppError> {
    let answer = blocking(move || agreement_answer(&input, Level::default())).await?;
    answer.map_err(AppError::Fields)
}

/// A test's agreement results in the order they were entered.
pub async fn list_agreements(app: &App, by: &Reader, id: TestId) -> Result<Vec<AgreementView>, AppError> {
    visible_test(&app.db, id, by.account()).await?;
    let agreements = store::list_agreements(&app.db, &[id], seen_by(by.role(), &app.db).await?).await?;
    let views = views(&app.db, by.role(), agreements).await?;
    if by.role().may(Right::ReadDrafts) {
        return Ok(views);
    }
    let without_notes = |mut view: AgreementView| {
        view.written.note.clear();
        AgreementView { study: view.study.without_notes(), ..view }
    };
    Ok(views.into_iter().map(without_notes).collect())
}

/// Adds an agreement result to a test.
pub async fn create_agreement(
    app: &App,
    by: &StudyWriter,
    id: TestId,
    input: AgreementBody,
) -> Result<AgreementView, AppError> {
    let (study, agreement) = both(input.of_study().and_then(needed), input.agreement())?;
    let act = Act::of("created", Some(by.id()));
    let transaction = app.begin().await?;
    get_test(&transaction, id).await?;
    let record = store::create_agreement(&transaction, id, &study, &agreement, act).await?;
    commit(transaction).await?;
    one(&app.db, by.role(), record).await
}

/// Corrects an agreement result that was read at the version in `If-Match`.
pub async fn update_agreement(
    app: &App,
    by: &StudyWriter,
    id: Uuid,
    version: i32,
    input: AgreementBody,
) -> Result<AgreementView, AppError> {
    let (study, agreement) = both(input.of_study(), input.agreement())?;
    let act = Act::of("edited", Some(by.id()));
    let transaction = app.begin().await?;
    let record = store::update_agreement(&transaction, id, version, study.as_ref(), &agreement, act).await?;
    commit(transaction).await?;
    one(&app.db, by.role(), record).await
}

/// Deletes an agreement result; it can be restored.
pub async fn delete_agreement(app: &App, by: &StudyWriter, id: Uuid, version: i32) -> Result<AgreementView, AppError> {
    set_deleted(app, by, id, version, true, "deleted").await
}

/// Brings a deleted agreement result back: the undo of a deletion.
pub async fn restore_agreement(app: &App, by: &StudyWriter, id: Uuid, version: i32) -> Result<AgreementView, AppError> {
    set_deleted(app, by, id, version, false, "restored").await
}

async fn set_deleted(
    app: &App,
    by: &StudyWriter,
    id: Uuid,
    version: i32,
    deleted: bool,
    action: &'static str,
) -> Result<AgreementView, AppError> {
    let act = Act::of(action, Some(by.id()));
    let transaction = app.begin().await?;
    let record = store::set_agreement_deleted(&transaction, id, version, deleted, act).await?;
    commit(transaction).await?;
    one(&app.db, by.role(), record).await
}
