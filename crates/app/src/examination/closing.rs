//! Closing the loop: what was found out later, and what one's own examinations say beside the published figures.

use pruvex_core::catalogue::{Region, name_key};
use pruvex_core::examination::{
    ClinicPrevalence, Holds, OwnRecords, OwnTest, ReferenceResult, check_reference, clinic_prevalence, holds,
    own_records,
};
use pruvex_core::{Estimate, FieldErrorCode, Ratio};
use pruvex_store::examination as store;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

use super::local_results::{LocalStudy, local_study};
use super::records::{all_references, closed_examinations};
use super::view::{ExaminationView, view};
use crate::app::commit;
use crate::fields::asked_text;
use crate::people::Reader;
use crate::{App, AppError};

/// What was found out later.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ReferenceResultInput {
    /// For each condition whether it was there.
    results: Vec<ReferenceResult>,
    /// It replaces a reference result that stands there already.
    #[serde(default)]
    corrects: bool,
}

/// What your own finished examinations say of a condition.
#[derive(Debug, Serialize, ToSchema)]
pub struct OwnView {
    condition: String,
    /// Finished examinations that asked about it.
    finished: usize,
    /// Those of which it is known whether it was there.
    closed: usize,
    #[serde(flatten)]
    share: OwnShare,
    tests: Vec<OwnTestView>,
    /// The study by which they stand in the catalogue; none while nothing does, or where you may not enter results.
    local: Option<LocalStudy>,
    /// Some of it is made up.
    sample: bool,
}

/// Shares and scores of them.
#[derive(Debug, Serialize, ToSchema)]
pub struct OwnShare {
    /// Share in which it was there.
    prevalence: Option<Estimate<pruvex_core::Probability>>,
    /// The same over the records of everybody; none while fewer than three examiners have one that tells.
    clinic: Option<ClinicPrevalence>,
    /// How well the probabilities at the ends agree with what was found out.
    calibration: Option<pruvex_core::likelihood::Calibration>,
}

/// A test in your hands beside the published figures.
#[derive(Debug, Serialize, ToSchema)]
pub struct OwnTestView {
    name: String,
    #[serde(flatten)]
    own: OwnTest,
    /// Where LR+ of a further study is expected; none with fewer than three studies.
    expected_positive: Option<Estimate<Ratio>>,
    /// The same of LR-.
    expected_negative: Option<Estimate<Ratio>>,
    /// Whether LR+ agrees with that.
    holds_positive: Option<Holds>,
    /// Whether LR- does.
    holds_negative: Option<Holds>,
}

/// Keeps what was found out later of a finished examination of your own.
///
/// # Errors
/// No such examination of this person, [`AppError::Conflict`]; one that is not finished; results that break rules; a second reference result that does not say that it
/// corrects the first.
pub async fn save_reference(
    app: &App,
    by: &Reader,
    id: Uuid,
    version: i32,
    input: &ReferenceResultInput,
) -> Result<ExaminationView, AppError> {
    let transaction = app.begin().await?;
    let held = store::hold_examination(&transaction, by.id(), id, version).await?;
    let refused = |code, message, remedy| AppError::field("results", code, "", message, remedy);
    if held.outcome.is_none() {
        let message = "The findings of this examination are not locked yet.";
        return Err(refused(FieldErrorCode::Invalid, message, "Finish it before you look at the reference result."));
    }
    if !held.reference.is_empty() && !input.corrects {
        let message = "This examination has a reference result already.";
        return Err(refused(FieldErrorCode::Duplicate, message, "Say that this one corrects it."));
    }
    let results = check_reference(&input.results, &held.plan).map_err(AppError::Fields)?;
    let record = store::save_reference(&transaction, &held, &results).await?;
    commit(transaction).await?;
    view(app, by, record).await
}

/// What your own finished examinations say of a condition; of one region when that is given.
///
/// # Errors
/// A name that is too long.
pub async fn own_examinations(
    app: &App,
    by: &Reader,
    region: Option<Region>,
    condition: &str,
) -> Result<OwnView, AppError> {
    let condition = asked_text("condition", Some(condition))?.unwrap_or_default();
    let (closed, sample) = closed_examinations(app, by.id(), region).await?;
    let OwnRecords { finished, closed, prevalence, calibration, tests } = own_records(&closed, &condition);
    let clinic = clinic_prevalence(&all_references(app, region).await?, &condition);
    let catalogue = app.catalogue().await?;
    let key = name_key(&condition);
    let view = |own: OwnTest| {
        let row = catalogue.all_rows(by.role()).iter().find(|row| {
            row.id == own.test && region.is_none_or(|region| row.region == region) && row.condition_key == key
        });
        let expected = row.map(|row| [row.ahead_positive, row.ahead_negative]).unwrap_or_default();
        let agrees = |of: Option<Estimate<Ratio>>, expected: Option<Estimate<Ratio>>| Some(holds(of?, expected?));
        OwnTestView {
            name: row.map(|row| row.name.clone()).unwrap_or_default(),
            expected_positive: expected[0],
            expected_negative: expected[1],
            holds_positive: agrees(own.lr_positive, expected[0]),
            holds_negative: agrees(own.lr_negative, expected[1]),
            own,
        }
    };
    let tests = tests.into_iter().map(view).collect();
    let local = local_study(app, by, &condition).await?;
    Ok(OwnView {
        condition,
        finished,
        closed,
        share: OwnShare { prevalence, clinic, calibration },
        tests,
        local,
        sample,
    })
}
