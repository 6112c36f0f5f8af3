//! Bundles: the open format in which catalogues are handed on.

use pruvex_core::catalogue::Region;
use pruvex_formats::{read_bundle, write_bundle};
use pruvex_store::catalogue::is_empty;
use pruvex_store::exchange::{export, import};
use pruvex_store::history::Act;

use crate::blocking::blocking;
use crate::people::{DraftReader, Operator, SheetWriter};
use crate::{App, AppError, FileContent, media};

pub use pruvex_store::exchange::{Fate, Imported, Meeting};

/// Who brings a bundle in.
#[derive(Debug)]
pub enum Importer<'a> {
    /// Somebody who may write sheets; what they bring begins as drafts.
    Writer(&'a SheetWriter),
    /// Whoever runs the program; histories name nobody.
    Operator(&'a Operator),
}

/// A region's sheets and studies as an exchange bundle, or all; retired sheets are left out.
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

/// Imports a bundle, all of it or nothing; or says what that would do.
///
/// # Errors
/// [`AppError::Fields`] with every fault of the file, and every test that is there and says something else.
pub async fn import_bundle(
    app: &App,
    by: &Importer<'_>,
    bytes: Vec<u8>,
    meeting: &Meeting,
    preview: bool,
) -> Result<Imported, AppError> {
    let bundle = blocking(move || read_bundle(&bytes)).await?.map_err(AppError::Fields)?;
    let account = match by {
        Importer::Writer(writer) => Some(writer.id()),
        Importer::Operator(_) => None,
    };
    let transaction = app.writers.begin_import().await?;
    Ok(import(transaction, &bundle, meeting, Act::of("imported", account), preview).await?)
}

/// Whether the catalogue holds no test at all.
///
/// # Errors
/// Database errors.
pub async fn is_catalogue_empty(app: &App, _by: &Operator) -> Result<bool, AppError> {
    Ok(is_empty(&app.db).await?)
}
