//! An examination while it goes on: begun by a plan, saved after every entry, finished.

use pruvex_core::FieldErrorCode;
use pruvex_core::examination::{ExaminationConduct, may_finish};
use pruvex_store::StoreError;
use pruvex_store::examination::{self as store, NewExamination};
use pruvex_store::plan::get_plan;
use serde::Deserialize;
use utoipa::ToSchema;
use uuid::Uuid;

use super::outcome::outcome_of;
use super::view::{ExaminationView, Standing, patient_of, patient_value, stands, view};
use crate::app::commit;
use crate::people::Reader;
use crate::plan::{PatientFitInput, check_patient, eyes};
use crate::{App, AppError};

/// An examination that is begun.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ExaminationBegun {
    /// By which plan.
    plan: Uuid,
    /// What is known of the patient already. No name, no date of birth, nothing that tells who it is.
    #[serde(default)]
    patient: PatientFitInput,
}

/// What was done and found so far.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ExaminationInput {
    /// What is known of the patient.
    #[serde(default)]
    patient: PatientFitInput,
    /// What was done, found and concluded.
    #[serde(default)]
    conduct: ExaminationConduct,
}

/// Begins an examination by a plan, as this person sees it now, under a label that says nothing of the patient.
///
/// # Errors
/// No such plan that this person may see; something of the patient that cannot be.
pub async fn begin_examination(app: &App, by: &Reader, input: ExaminationBegun) -> Result<ExaminationView, AppError> {
    check_patient(&input.patient)?;
    let plan = match get_plan(&app.db, eyes(by.role()), input.plan).await {
        Err(StoreError::NotFound { id, .. }) => {
            let message = "You can see no plan of this id.";
            return Err(AppError::field("plan", FieldErrorCode::Unknown, id, message, "Choose a plan of the list."));
        }
        found => found?,
    };
    let new = NewExamination {
        owner: by.id(),
        plan_id: plan.id,
        plan_version: plan.version,
        plan: plan.plan,
        sample: plan.sample,
        patient: patient_value(&input.patient)?,
    };
    let transaction = app.begin().await?;
    let record = store::create_examination(&transaction, new, rand::random()).await?;
    commit(transaction).await?;
    view(app, by, record).await
}

/// Saves an examination that was read at this version; the same entries once more are answered as the first time. Once it is finished its findings are
/// locked: only the conclusion, what is done again, and what was done about urgent findings may change.
///
/// # Errors
/// No such examination of this person, [`AppError::Conflict`]; entries that break rules; findings that are locked.
pub async fn save_examination(
    app: &App,
    by: &Reader,
    id: Uuid,
    version: i32,
    input: ExaminationInput,
) -> Result<ExaminationView, AppError> {
    check_patient(&input.patient)?;
    let transaction = app.begin().await?;
    let held = match store::hold_examination(&transaction, by.id(), id, version).await {
        Err(conflict @ StoreError::Conflict { .. }) => {
            // The answer to an earlier try may have been lost on its way: what is there already is not refused.
            let record = store::get_examination(&transaction, by.id(), id).await?;
            let conduct = input.conduct.check(&record.plan).ok().filter(|it| *it == record.conduct);
            let same = record.version == version + 1 && record.patient == patient_value(&input.patient)?;
            return if same && conduct.is_some() { view(app, by, record).await } else { Err(conflict.into()) };
        }
        held => held?,
    };
    let conduct = input.conduct.check(&held.plan).map_err(AppError::Fields)?;
    if let Some(outcome) = &held.outcome {
        if held.conduct.with_conclusion_of(&conduct) != conduct || patient_of(&held)? != input.patient {
            let message = "The findings of a finished examination are locked.";
            let remedy = "Change the conclusion only, or begin another examination.";
            return Err(AppError::field("conduct", FieldErrorCode::Invalid, "", message, remedy));
        }
        let unasked: Vec<String> =
            outcome.must_not_miss.iter().filter(|it| !it.asked).map(|it| it.condition.clone()).collect();
        may_finish(&conduct, outcome.stop.as_deref(), &unasked).map_err(AppError::Fields)?;
    }
    let record = store::save_examination(&transaction, &held, patient_value(&input.patient)?, &conduct, None).await?;
    commit(transaction).await?;
    view(app, by, record).await
}

/// Finishes an examination that was read at this version: its findings are locked, and what they come to is kept with the figures and versions of today.
///
/// # Errors
/// No such examination of this person, [`AppError::Conflict`]; one that is finished already; one without a conclusion, with an urgent finding of
/// which nobody says whether it was acted on, or that would reassure although it was stopped, or while something that must not be missed was not asked about.
pub async fn finish_examination(app: &App, by: &Reader, id: Uuid, version: i32) -> Result<ExaminationView, AppError> {
    let transaction = app.begin().await?;
    let held = store::hold_examination(&transaction, by.id(), id, version).await?;
    if held.outcome.is_some() {
        let message = "This examination is finished already.";
        return Err(AppError::field("conduct", FieldErrorCode::Invalid, "", message, "Open its record."));
    }
    let patient = patient_of(&held)?;
    let Standing { stands, sheets } = stands(app, by, &held, &patient).await?;
    let unasked = stands.standing.must_not_miss.iter().filter(|it| !it.asked).map(|it| it.condition.clone());
    let stop = stands.fit.stop.as_ref().map(|it| it.caution.as_str());
    may_finish(&held.conduct, stop, &unasked.collect::<Vec<_>>()).map_err(AppError::Fields)?;
    let outcome = outcome_of(app, by, &held, &stands, &sheets).await?;
    let record =
        store::save_examination(&transaction, &held, held.patient.clone(), &held.conduct, Some(&outcome)).await?;
    commit(transaction).await?;
    view(app, by, record).await
}
