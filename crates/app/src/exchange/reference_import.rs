//! Files of references into the catalogue.

use std::collections::HashSet;
use std::sync::Arc;

use pruvex_formats::read_references;
use pruvex_store::evidence as store;
use pruvex_store::history::Act;
use pruvex_store::landing::Landing;
use pruvex_store::progress::ImportPhase;

use super::imports::ImportView;
use super::outcome::{Outcome, ReferenceFile};
use super::past_imports::file_name;
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
    name: &str,
    bytes: Vec<u8>,
) -> Result<ImportView, AppError> {
    let (writers, account, name) = (app.writers.clone(), by.id(), file_name(name));
    let run = app.imports.begin(account, preview, move |run| async move {
        let reader = Arc::clone(&run);
        let read = blocking(move || read_references(&bytes, &|done| reader.step(ImportPhase::Reading, done, 0)));
        let Some(read) = read.await?? else { return Ok(None) };
        let chosen: HashSet<usize> = add.into_iter().collect();
        let act = Act::of("imported", Some(account));
        let landing = (!preview).then_some(Landing { id: run.id, name: &name });
        let step = |phase, done, of| run.step(phase, done, of);
        let transaction = writers.begin_import().await?;
        let imported = store::import_references(transaction, &read.references, &chosen, act, landing, &step).await?;
        let file = |imported| Outcome::References(Box::new(ReferenceFile::new(read.format, imported)));
        Ok(imported.map(file))
    })?;
    Ok(ImportView::of(&run))
}
