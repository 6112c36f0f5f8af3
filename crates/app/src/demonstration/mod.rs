//! What a demonstration has beside its sheets and studies: a frozen pool, an archived sheet and two examinations, so that no page of it is empty.

mod examinations;

use pruvex_core::catalogue::{Sheet, SheetInput, Step, name_key};
use pruvex_core::people::Role;
use pruvex_store::StoreError;
use pruvex_store::catalogue::{create_test, step_test, tests_by_any_name};
use pruvex_store::history::Act;
use pruvex_store::pooling::list_snapshots;
use serde_json::json;

use crate::people::{DemoInput, Reader, SheetWriter, StudyWriter, authorise, enter_demo, sign_out};
use crate::pooling::freeze_pool;
use crate::{App, AppError};

/// The sample test whose pool stands frozen from the beginning.
const FROZEN: &str = "Carpal compression, sustained";
/// The sample test beside which an archived one stands.
const NEIGHBOUR: &str = "Pelvis spread, lying face up";
/// The archived sheet. Its condition bears a second name, as conditions do that clinics call differently.
const ARCHIVED: &str = "Seated buttock press (older form)";

/// Furnishes the demonstration, as far as its sample data are there and it is not furnished already.
///
/// # Errors
/// Database errors.
pub(crate) async fn furnish(app: &App) -> Result<(), AppError> {
    let names = [FROZEN, NEIGHBOUR, ARCHIVED];
    let mut named = tests_by_any_name(&app.db, names.into_iter()).await?;
    let mut found = |name: &str| named.remove(&name_key(name));
    let frozen = list_snapshots(&app.db, None).await?.is_empty().then(|| found(FROZEN)).flatten();
    let archived = found(ARCHIVED).is_none() && found(NEIGHBOUR).is_some_and(|test| test.sample);
    let frozen = frozen.filter(|test| test.sample);
    let plan = examinations::sample_plan(app).await?;
    if frozen.is_none() && !archived && plan.is_none() {
        return Ok(());
    }
    let signed = enter_demo(app, true, DemoInput { role: Role::Author }).await?;
    let by: StudyWriter = authorise(app, Some(&signed.secret)).await?;
    if let Some(test) = frozen {
        let input = json!({
            "title": format!("{FROZEN}: all studies (sample data)"),
            "note": "Frozen for the teaching sheet of the sample module. Made-up studies: never use it for a patient.",
            "pool": { "tests": [test.id] },
        });
        freeze_pool(app, &by, serde_json::from_value(input).map_err(AppError::internal)?).await?;
    }
    if archived {
        archive_sheet(app, &by).await?;
    }
    let reader: Reader = authorise(app, Some(&signed.secret)).await?;
    let author: SheetWriter = authorise(app, Some(&signed.secret)).await?;
    if let Some(plan) = plan {
        examinations::examine(app, &reader, &author, plan).await?;
    }
    sign_out(app, Some(&signed.secret)).await
}

async fn archive_sheet(app: &App, by: &StudyWriter) -> Result<(), AppError> {
    let input: SheetInput = serde_json::from_value(json!({
        "name": ARCHIVED,
        "aliases": ["Sitting buttock press"],
        "region": "pelvis",
        "purpose": "pain_provocation",
        "condition": "Deep gluteal pain (sciatic nerve entrapment at the buttock)",
        "positive_finding": "The familiar buttock pain comes under the thumb.",
        "variants": [{
            "name": "As it was taught",
            "position": "sitting",
            "patient_position": "Sitting on the edge of the couch, feet on the ground.",
            "steps": [{ "text": "Press into the middle of the buttock with one thumb.", "actor": "examiner" }],
            "criteria": [
                { "outcome": "positive", "kind": "familiar_pain", "text": "The familiar buttock pain comes under the thumb." },
                { "outcome": "negative", "kind": "sign", "text": "Pressure only." },
            ],
        }],
        "cautions": [{
            "text": "The thumb lies close to the groin and the seat.",
            "kind": "precaution",
            "screening": "“I shall press here; is that all right?”",
            "instead": "Ask for the site of pain instead.",
        }],
        "sources": ["Fenwater Teaching Clinic, pelvis module, made up for demonstration."],
    }))
    .map_err(AppError::internal)?;
    let sheet = Sheet::check(&input).map_err(AppError::Fields)?;
    let by = Some(by.id());
    let transaction = app.begin().await?;
    let made = create_test(&transaction, &sheet, true, Act::of("created", by)).await?;
    let why = "No longer part of the sample module: the pressed spot could not be found again.";
    let act = Act { action: Step::Retire.code(), comment: why, by };
    step_test(&transaction, made.id, made.version, Step::Retire, act).await?;
    Ok(transaction.commit().await.map_err(StoreError::from)?)
}
