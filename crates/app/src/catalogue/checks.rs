//! What a sheet forgot or contradicts, and what an interpretation table answers.

use std::collections::BTreeMap;

use pruvex_core::catalogue::{Finding, Found, Interpretation, Reading, Sheet, SheetInput};
use pruvex_core::{FieldError, TestId};
use pruvex_store::catalogue::get_test;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::people::{DraftReader, Reader, SheetWriter};
use crate::{App, AppError};

/// A sheet that is being written, looked over.
#[derive(Debug, Serialize, ToSchema)]
pub struct SheetCheck {
    /// What would keep it from being saved.
    errors: Vec<FieldError>,
    /// What to look at again; looked for only when nothing keeps it from being saved.
    findings: Vec<Finding>,
}

/// A sheet and the test it belongs to.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CheckInput {
    /// `null` while it is not stored.
    test: Option<TestId>,
    sheet: SheetInput,
}

/// Looks a sheet over without saving it.
///
/// # Errors
/// Database errors.
pub async fn check_sheet(app: &App, _by: &SheetWriter, input: CheckInput) -> Result<SheetCheck, AppError> {
    let CheckInput { test, sheet } = input;
    Ok(match Sheet::check(&sheet) {
        Err(errors) => SheetCheck { errors, findings: Vec::new() },
        Ok(sheet) => SheetCheck { errors: Vec::new(), findings: app.catalogue().await?.audit(sheet, test).await? },
    })
}

/// What the checks find in a stored sheet as it stands.
///
/// # Errors
/// No such test.
pub async fn list_findings(app: &App, _by: &DraftReader, id: TestId) -> Result<Vec<Finding>, AppError> {
    let record = get_test(&app.db, id).await?;
    app.catalogue().await?.audit(record.sheet, Some(record.id)).await
}

/// A table, and what was measured or found.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ReadingInput {
    interpretation: Interpretation,
    /// By name of the measure.
    values: BTreeMap<String, Found>,
}

/// Which rows of an interpretation table answer these values.
///
/// # Errors
/// A table or values that break rules.
pub fn read_values(_by: &Reader, input: &ReadingInput) -> Result<Reading, AppError> {
    let ReadingInput { interpretation, values } = input;
    interpretation.read(values).map_err(AppError::Fields)
}
