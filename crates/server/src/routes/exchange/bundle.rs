//! Bundles and tables out of the catalogue, and bundles into it.

use std::collections::HashSet;

use pruvex_app::exchange::{self as cases, ImportView, Meeting};
use pruvex_app::people::{DraftReader, SheetWriter};
use pruvex_core::catalogue::{Region, name_key};
use rocket::http::Status;
use rocket::response::status::Custom;
use rocket::serde::json::Json;
use rocket::{get, post};

use crate::file::{Download, Upload};
use crate::guards::By;
use crate::params::{choice, region, yes_no};
use crate::problem::{ApiError, Problem};
use crate::ready::Ready;

/// A region's sheets and studies as an exchange bundle, or the whole catalogue; archived sheets are left out.
#[utoipa::path(tag = "exchange",
    params(("region" = Option<Region>, Query, description = "only this region")),
    responses((status = 200, description = "an exchange bundle; see its schema", body = Object)))]
#[get("/bundle?<region>")]
pub(crate) async fn export_bundle(
    by: By<DraftReader>,
    region: Option<&str>,
    app: Ready<'_>,
) -> Result<Download, ApiError> {
    Ok(Download::attachment(cases::export_bundle(&app, &by, self::region(region)?).await?))
}

/// Begins to import a bundle, all of it or nothing, as drafts; or to say what that would do. Answers at once: how it goes on is asked for.
#[utoipa::path(tag = "exchange",
    request_body(content = String, content_type = "application/json", description = "an exchange bundle; see its schema"),
    params(
        ("preview" = Option<bool>, Query, description = "change nothing"),
        ("name" = Option<String>, Query, description = "name of the file, for the list of imports"),
        ("changed" = Option<String>, Query, description = "refuse, keep or replace tests whose text differs here"),
        ("replace" = Option<Vec<String>>, Query, description = "names of the only ones to replace; the others are kept"),
    ),
    responses((status = 202, body = ImportView), (status = 409, body = Problem)))]
#[post("/bundle-imports?<preview>&<name>&<changed>&<replace>", data = "<file>")]
pub(crate) async fn begin_bundle_import(
    by: By<SheetWriter>,
    preview: Option<&str>,
    name: Option<&str>,
    changed: Option<&str>,
    replace: Vec<String>,
    file: Upload,
    app: Ready<'_>,
) -> Result<Custom<Json<ImportView>>, ApiError> {
    let preview = yes_no("preview", preview)?.unwrap_or(false);
    let meeting = choice("changed", changed, &["refuse", "keep", "replace"], |code| match code {
        "refuse" => Some(Meeting::Refuse),
        "keep" => Some(Meeting::Keep),
        "replace" => Some(Meeting::Replace),
        _ => None,
    })?;
    let chosen: HashSet<String> = replace.iter().map(|name| name_key(name)).collect();
    let meeting = if chosen.is_empty() { meeting.unwrap_or(Meeting::Refuse) } else { Meeting::Chosen(chosen) };
    let begun = cases::begin_bundle_import(&app, &by, meeting, preview, name.unwrap_or_default(), file.0)?;
    Ok(Custom(Status::Accepted, Json(begun)))
}
