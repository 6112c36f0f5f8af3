//! A record for paper.

use pruvex_formats::{ExaminationSheet, examination_sheet};
use pruvex_store::{StoreError, examination as store};
use uuid::Uuid;

use crate::blocking::blocking;
use crate::people::Reader;
use crate::{App, AppError, FileContent, file_name, media, today};

/// The record of a finished examination typeset on A4.
///
/// # Errors
/// No such examination that this person may see; one that is not finished counts as none.
pub async fn print_examination(app: &App, by: &Reader, id: Uuid) -> Result<FileContent, AppError> {
    let record = store::get_examination(&app.db, by.id(), id).await?;
    let Some((outcome, finished)) = record.outcome.zip(record.finished_at) else {
        return Err(StoreError::NotFound { what: "finished examination", id }.into());
    };
    let name = format!("{}.pdf", file_name(&record.label, "examination"));
    let (printed, finished) = (today(), finished.format("%-d %B %Y").to_string());
    let set = blocking(move || {
        examination_sheet(&ExaminationSheet {
            label: &record.label,
            plan: &record.plan,
            plan_version: record.plan_version,
            conduct: &record.conduct,
            outcome: &outcome,
            finished: &finished,
            sample: record.sample || outcome.sample,
            printed: &printed,
        })
    });
    Ok(FileContent::new(set.await?.map_err(AppError::internal)?, name, media::PDF))
}
