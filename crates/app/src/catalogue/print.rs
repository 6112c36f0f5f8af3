//! A sheet for paper.

use pruvex_core::catalogue::TeachingConflict;
use pruvex_core::{Probability, TestId};
use pruvex_formats::{TeachingSheet, teaching_sheet};
use pruvex_store::teaching_conflict::list_teaching_conflicts;

use super::{shown_condition, visible_test};
use crate::blocking::blocking;
use crate::people::Reader;
use crate::pooling::backed;
use crate::{App, AppError, FileContent, file_name, media, today};

/// The sheet typeset on A4, with its likelihood ratios and cautions: as it was signed off for those who may not see drafts.
///
/// # Errors
/// No such test that this person may see, a condition that it does not show.
pub async fn print_test(
    app: &App,
    by: &Reader,
    id: TestId,
    condition: Option<&str>,
    pre_test: Option<Probability>,
) -> Result<FileContent, AppError> {
    let record = visible_test(&app.db, id, by.account()).await?;
    let asked = shown_condition(&record.sheet, condition)?.to_owned();
    let backed = backed(app, record.id, (&record.sheet.condition, &asked), by.role()).await?;
    let conflicts = list_teaching_conflicts(&app.db, None, Some(id)).await?;
    let conflicts: Vec<TeachingConflict> = conflicts.into_iter().map(|record| record.conflict).collect();
    let printed = today();
    let name = format!("{}.pdf", file_name(&record.sheet.name, "sheet"));
    let set = blocking(move || {
        teaching_sheet(&TeachingSheet {
            sheet: &record.sheet,
            condition: &asked,
            conflicts: &conflicts,
            version: record.version,
            status: record.status,
            sample: record.sample || backed.as_ref().is_some_and(|backed| backed.sample),
            pooled: backed.as_ref().and_then(|backed| backed.pooled.as_deref()),
            pre_test,
            printed: &printed,
        })
    });
    let bytes = set.await?.map_err(AppError::internal)?;
    Ok(FileContent::new(bytes, name, media::PDF))
}
