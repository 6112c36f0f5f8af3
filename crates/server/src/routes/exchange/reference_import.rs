//! Files of references.

use pruvex_app::exchange::{self as cases, ImportView};
use pruvex_app::people::StudyWriter;
use rocket::http::Status;
use rocket::post;
use rocket::response::status::Custom;
use rocket::serde::json::Json;

use crate::file::Upload;
use crate::guards::By;
use crate::params::yes_no;
use crate::problem::{ApiError, Problem};
use crate::ready::Ready;

/// Begins to add the references of a file in RIS, BibTeX, CSL-JSON or PubMed's text, all of it or nothing; or to say what that would do.
/// Answers at once: how it goes on is asked for.
#[utoipa::path(tag = "exchange",
    request_body(content = String, content_type = "text/plain", description = "the file"),
    params(
        ("preview" = Option<bool>, Query, description = "change nothing"),
        ("name" = Option<String>, Query, description = "name of the file, for the list of imports"),
        ("add" = Option<Vec<usize>>, Query, description = "places, from 0, of those to add although something similar is there"),
    ),
    responses((status = 202, body = ImportView), (status = 409, body = Problem)))]
#[post("/reference-imports?<preview>&<name>&<add>", data = "<file>")]
pub(crate) async fn begin_reference_import(
    by: By<StudyWriter>,
    preview: Option<&str>,
    name: Option<&str>,
    add: Vec<usize>,
    file: Upload,
    app: Ready<'_>,
) -> Result<Custom<Json<ImportView>>, ApiError> {
    let preview = yes_no("preview", preview)?.unwrap_or(false);
    let begun = cases::begin_reference_import(&app, &by, preview, add, name.unwrap_or_default(), file.0)?;
    Ok(Custom(Status::Accepted, Json(begun)))
}
