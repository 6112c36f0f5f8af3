//! Bundles and tables out of the catalogue, and bundles into it.

use std::collections::HashSet;

use pruvex_core::catalogue::{Region, name_key};
use pruvex_core::{Estimate, Ratio};
use pruvex_formats::{read_bundle, write_bundle, write_csv, write_results_csv, write_results_xlsx};
use pruvex_store::exchange::{Imported, Meeting, export, import};
use pruvex_store::history::Act;
use rocket::data::Data;
use rocket::http::ContentType;
use rocket::serde::json::Json;
use rocket::{State, get, post};

use super::catalogue::ListQuery;
use crate::body::upload;
use crate::download::Download;
use crate::off::off;
use crate::params::choice;
use crate::people::{DraftReader, Reader, SheetWriter};
use crate::problem::{ApiError, Problem};
use crate::state::{AppState, Db};

/// A region's sheets and studies as an exchange bundle, or all; retired sheets are left out.
#[utoipa::path(context_path = "/api/v1", tag = "exchange",
    params(("region" = Option<Region>, Query, description = "only this region")),
    responses((status = 200, description = "an exchange bundle; see its schema"), (status = 400, body = Problem)))]
#[get("/bundle?<region>")]
pub(crate) async fn export_bundle(_by: DraftReader, region: Option<&str>, db: Db<'_>) -> Result<Download, ApiError> {
    let region = choice("region", region, &Region::ALL.map(Region::code), Region::from_code)?;
    let name = region.map_or("catalogue", Region::code);
    let bundle = export(db.0, region, &format!("Pruvex: {name}")).await?;
    let text = write_bundle(&bundle).map_err(|_| ApiError::Internal)?;
    Ok(Download::new(text, ContentType::JSON, &format!("pruvex-{name}.json")))
}

/// A region's studies and results as a table, one row a result, or all.
#[utoipa::path(context_path = "/api/v1", tag = "exchange",
    params(("format" = String, Path, description = "csv or xlsx"),
        ("region" = Option<Region>, Query, description = "only this region")),
    responses((status = 200, description = "CSV with a header row, or an Office Open XML workbook"),
        (status = 400, body = Problem), (status = 404, body = Problem)))]
#[get("/results/table/<format>?<region>")]
pub(crate) async fn export_results(
    _by: DraftReader,
    format: &str,
    region: Option<&str>,
    db: Db<'_>,
) -> Result<Download, ApiError> {
    let region = choice("region", region, &Region::ALL.map(Region::code), Region::from_code)?;
    let name = format!("pruvex-results-{}.{format}", region.map_or("all", Region::code));
    match format {
        "csv" => {
            let bundle = export(db.0, region, &name).await?;
            let text = off(move || write_results_csv(&bundle)).await?.map_err(|_| ApiError::Internal)?;
            Ok(Download::new(text, ContentType::CSV, &name))
        }
        "xlsx" => {
            let bundle = export(db.0, region, &name).await?;
            let bytes = off(move || write_results_xlsx(&bundle)).await?.map_err(|_| ApiError::Internal)?;
            let kind = ContentType::new("application", "vnd.openxmlformats-officedocument.spreadsheetml.sheet");
            Ok(Download::new(bytes, kind, &name))
        }
        _ => Err(ApiError::NoRoute),
    }
}

/// The catalogue's list as a table, with the same parameters.
#[utoipa::path(context_path = "/api/v1", tag = "exchange",
    responses((status = 200, description = "CSV with a header row"), (status = 400, body = Problem)))]
#[get("/tests.csv?<query..>")]
pub(crate) async fn export_list(
    by: Reader,
    query: ListQuery<'_>,
    state: &State<AppState>,
    db: Db<'_>,
) -> Result<Download, ApiError> {
    let shelf = state.shelf().await?;
    let header = [
        "name",
        "aliases",
        "region",
        "purpose",
        "condition",
        "positive_finding",
        "studies",
        "patients",
        "lr_positive",
        "lr_positive_lower",
        "lr_positive_upper",
        "lr_negative",
        "lr_negative_lower",
        "lr_negative_upper",
        "next_lr_positive_lower",
        "next_lr_positive_upper",
        "next_lr_negative_lower",
        "next_lr_negative_upper",
        "status",
        "sample_data",
    ];
    let mut table = vec![header.map(str::to_owned).to_vec()];
    for row in query.rows(&shelf, by.0.role, &db).await? {
        let ratio = |lr: Option<Estimate<Ratio>>| {
            lr.map_or_else(Default::default, |lr| [lr.estimate, lr.lower, lr.upper].map(|it| it.get().to_string()))
        };
        let mut line = vec![
            row.name.clone(),
            row.aliases.join("; "),
            row.region.code().to_owned(),
            row.purpose.code().to_owned(),
            row.condition.clone(),
            row.positive_finding.clone(),
            row.studies.to_string(),
            row.patients.to_string(),
        ];
        line.extend::<[String; 3]>(ratio(row.summary.and_then(|summary| summary.lr_positive)));
        line.extend::<[String; 3]>(ratio(row.summary.and_then(|summary| summary.lr_negative)));
        for ahead in [row.ahead_positive, row.ahead_negative] {
            let [_, lower, upper] = ratio(ahead);
            line.extend([lower, upper]);
        }
        line.extend([row.status.code().to_owned(), row.sample.to_string()]);
        table.push(line);
    }
    let text = write_csv(&table).map_err(|_| ApiError::Internal)?;
    Ok(Download::new(text, ContentType::CSV, "pruvex-list.csv"))
}

/// Imports a bundle, all of it or nothing, as drafts; or says what that would do.
#[utoipa::path(context_path = "/api/v1", tag = "exchange",
    request_body(content = String, content_type = "application/json", description = "an exchange bundle; see its schema"),
    params(
        ("preview" = Option<bool>, Query, description = "change nothing"),
        ("changed" = Option<String>, Query, description = "refuse, keep or replace tests that say something else here"),
        ("replace" = Option<Vec<String>>, Query, description = "names of the only ones to replace; the others are kept"),
    ),
    responses((status = 200, body = Imported), (status = 413, body = Problem), (status = 422, body = Problem)))]
#[post("/bundle?<preview>&<changed>&<replace>", data = "<file>")]
pub(crate) async fn import_bundle(
    by: SheetWriter,
    preview: Option<&str>,
    changed: Option<&str>,
    replace: Vec<String>,
    file: Data<'_>,
    db: Db<'_>,
) -> Result<Json<Imported>, ApiError> {
    let preview = choice("preview", preview, &["true", "false"], |text| text.parse().ok())?.unwrap_or(false);
    let meeting = choice("changed", changed, &["refuse", "keep", "replace"], |code| match code {
        "refuse" => Some(Meeting::Refuse),
        "keep" => Some(Meeting::Keep),
        "replace" => Some(Meeting::Replace),
        _ => None,
    })?;
    let chosen: HashSet<String> = replace.iter().map(|name| name_key(name)).collect();
    let meeting = if chosen.is_empty() { meeting.unwrap_or(Meeting::Refuse) } else { Meeting::Chosen(chosen) };
    let bytes = upload(file).await?;
    let bundle = off(move || read_bundle(&bytes)).await?.map_err(ApiError::Fields)?;
    Ok(Json(import(db.0, &bundle, &meeting, Act::of("imported", Some(by.0.id)), preview).await?))
}
