//! Files of references into the catalogue.

use std::collections::HashSet;

use pruvex_formats::{ReferenceFormat, read_references};
use pruvex_store::evidence::{self as store, ReferencesImported};
use pruvex_store::history::Act;
use pruvex_store::progress::ImportPhase;
use serde::Serialize;
use std::sync::Arc;
use utoipa::ToSchema;

use super::import_run::Outcome;
use super::imports::ImportView;
use crate::blocking::blocking;
use crate::people::StudyWriter;
use crate::{App, AppError};

/// What an import of references brought, or would bring.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct ReferenceFile {
    /// The format that the file is in.
    format: ReferenceFormat,
    #[serde(flatten)]
    imported: ReferencesImported,
}

/// Begins to add the references of a file in RIS, BibTeX, CSL-JSON or PubMed's text, all of it or nothing; or to say what that would do.
/// `add` are the places of those to add although something similar is there. Answers at once: how it goes on is asked for.
///
/// # Errors
/// [`AppError::ImportRunning`].
pub fn begin_reference_import(
    app: &App,
    by: &StudyWriter,
    preview: bool,
    add: Vec<usize>,
    bytes: Vec<u8>,
) -> Result<ImportView, AppError> {
    let (writers, account) = (app.writers.clone(), by.id());
    let run = app.imports.begin(account, preview, move |run| async move {
        let reader = Arc::clone(&run);
        let read = blocking(move || read_references(&bytes, &|done| reader.step(ImportPhase::Reading, done, 0)));
        let Some(read) = read.await?? else { return Ok(None) };
        let chosen: HashSet<usize> = add.into_iter().collect();
        let act = Act::of("imported", Some(account));
        let step = |phase, done, of| run.step(phase, done, of);
        let transaction = writers.begin_import().await?;
        let imported = store::import_references(transaction, &read.references, &chosen, act, preview, &step).await?;
        let file = |imported| ReferenceFile { format: read.format, imported };
        Ok(imported.map(|imported| Outcome::References(Box::new(file(imported)))))
    })?;
    Ok(ImportView::of(&run))
}
