//! Bundles: the open format in which catalogues are handed on.

use pruvex_core::catalogue::Region;
use pruvex_formats::{read_bundle, write_bundle};
use pruvex_store::catalogue::is_empty;
use pruvex_store::exchange::{export, import};
use pruvex_store::history::Act;
use pruvex_store::landing::Landing;
use pruvex_store::progress::ImportPhase;
use uuid::Uuid;

use super::imports::ImportView;
use super::outcome::Outcome;
use super::past_imports::file_name;
use crate::blocking::blocking;
use crate::people::{DraftReader, Operator, SheetWriter};
use crate::{App, AppError, FileContent, media};

pub use pruvex_store::exchange::{Fate, Imported, Meeting};

/// A region's sheets and studies as an exchange bundle, or the whole catalogue; archived sheets are left out.
///
/// # Errors
/// Database errors.
pub async fn export_bundle(app: &App, _by: &DraftReader, region: Option<Region>) -> Result<FileContent, AppError> {
    let name = region.map_or("catalogue", Region::code);
    let bundle = export(&app.db, region, &format!("Pruvex: {name}")).await?;
    let text = write_bundle(&bundle).map_err(AppError::internal)?;
    Ok(FileContent::new(text, format!("pruvex-{name}.json"), media::JSON))
}

/// The same for whoever runs the program, under a title of their own; and how many tests are in it.
///
/// # Errors
/// Database errors.
pub async fn export_for_operator(
    app: &App,
    _by: &Operator,
    region: Option<Region>,
    title: &str,
) -> Result<(String, usize), AppError> {
    let bundle = export(&app.db, region, title).await?;
    Ok((write_bundle(&bundle).map_err(AppError::internal)?, bundle.tests.len()))
}

/// Begins to import a bundle, all of it or nothing, as drafts; or to say what that would do. Answers at once: how it goes on is asked for.
///
/// # Errors
/// [`AppError::ImportRunning`].
pub fn begin_bundle_import(
    app: &App,
    by: &SheetWriter,
    meeting: Meeting,
    preview: bool,
    name: &str,
    bytes: Vec<u8>,
) -> Result<ImportView, AppError> {
    let (writers, account, name) = (app.writers.clone(), by.id(), file_name(name));
    let run = app.imports.begin(account, preview, move |run| async move {
        if !run.step(ImportPhase::Reading, 0, 0) {
            return Ok(None);
        }
        let bundle = blocking(move || read_bundle(&bytes)).await?.map_err(AppError::Fields)?;
        let act = Act::of("imported", Some(account));
        let name = if name.is_empty() { &bundle.title } else { &name };
        let landing = (!preview).then_some(Landing { id: run.id, name });
        let step = |phase, done, of| run.step(phase, done, of);
        let transaction = writers.begin_import().await?;
        Ok(import(transaction, &bundle, &meeting, act, landing, &step).await?.map(Outcome::Bundle))
    })?;
    Ok(ImportView::of(&run))
}

/// Imports a bundle for whoever runs the program, all of it or nothing; or says what that would do. Histories name nobody.
///
/// # Errors
/// [`AppError::Fields`] with every fault of the file, and every test that is there and says something else.
pub async fn import_for_operator(
    app: &App,
    _by: &Operator,
    bytes: Vec<u8>,
    meeting: &Meeting,
    preview: bool,
) -> Result<Imported, AppError> {
    let bundle = blocking(move || read_bundle(&bytes)).await?.map_err(AppError::Fields)?;
    let transaction = app.writers.begin_import().await?;
    let landing = (!preview).then(|| Landing { id: Uuid::now_v7(), name: &bundle.title });
    let imported = import(transaction, &bundle, meeting, Act::of("imported", None), landing, &|_, _, _| true).await?;
    imported.ok_or(AppError::Internal)
}

/// Whether the catalogue holds no test at all.
///
/// # Errors
/// Database errors.
pub async fn is_catalogue_empty(app: &App, _by: &Operator) -> Result<bool, AppError> {
    Ok(is_empty(&app.db).await?)
}
