//! Files of references into the catalogue.

use std::collections::HashSet;
use std::sync::Arc;

use pruvex_formats::read_references;
use pruvex_store::evidence as store;
use pruvex_store::history::Act;
use pruvex_store::progress::ImportPhase;

use super::imports::ImportView;
use super::outcome::{Outcome, ReferenceFile};
use crate::blocking::blocking;
use crate::people::StudyWriter;
use crate::{App, AppError};

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
        let file = |imported| Outcome::References(Box::new(ReferenceFile::new(read.format, imported)));
        Ok(imported.map(file))
    })?;
    Ok(ImportView::of(&run))
}
