//! Tables of studies and results into the catalogue: looked at, compared with what is on record, taken in.

use std::collections::HashSet;

use pruvex_app::exchange::{self as cases, ImportView, PickedRows, TablePlace, TableReading, TableView};
use pruvex_app::people::StudyWriter;
use rocket::http::Status;
use rocket::response::status::Custom;
use rocket::serde::json::Json;
use rocket::{FromForm, get, post};

use crate::file::{Download, Upload};
use crate::guards::By;
use crate::params::{whole, yes_no};
use crate::problem::{ApiError, Problem};
use crate::ready::Ready;

/// As many rows as a worksheet has.
const MOST_ROWS: u64 = 1_048_576;

/// Where in a file the table stands.
#[derive(FromForm)]
pub(crate) struct Place<'r> {
    sheet: Option<&'r str>,
    header: Option<&'r str>,
}

impl Place<'_> {
    fn read(&self) -> Result<TablePlace, ApiError> {
        let sheet = whole("sheet", self.sheet, 1_000)?.and_then(|place| usize::try_from(place).ok());
        let header_row = whole("header", self.header, MOST_ROWS)?.and_then(|row| u32::try_from(row).ok());
        Ok(TablePlace { sheet, header_row })
    }
}

/// How a table is to be read, and where it stands.
#[derive(FromForm)]
pub(crate) struct Wish<'r> {
    columns: Option<&'r str>,
    changes: Option<&'r str>,
    drafts: Option<&'r str>,
    preview: Option<&'r str>,
    name: Option<&'r str>,
    sheet: Option<&'r str>,
    header: Option<&'r str>,
}

/// A workbook to be filled in, with every column that is understood.
#[utoipa::path(tag = "exchange",
    responses((status = 200, description = "an Office Open XML workbook", body = Vec<u8>,
        content_type = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet")))]
#[get("/table-imports/template")]
pub(crate) async fn table_template(by: By<StudyWriter>) -> Result<Download, ApiError> {
    Ok(Download::attachment(cases::table_template(&by).await?))
}

/// The columns of a table, and what they are taken to hold.
#[utoipa::path(tag = "exchange",
    request_body(content = Vec<u8>, content_type = "application/octet-stream", description = "a workbook (.xlsx) or CSV"),
    params(("sheet" = Option<usize>, Query, description = "place of a workbook's sheet, from 0"),
        ("header" = Option<u32>, Query, description = "row of the columns' names, from 1")),
    responses((status = 200, body = TableView)))]
#[post("/table-imports/columns?<place..>", data = "<file>")]
pub(crate) async fn table_columns(
    by: By<StudyWriter>,
    place: Place<'_>,
    file: Upload,
    app: Ready<'_>,
) -> Result<Json<TableView>, ApiError> {
    Ok(Json(cases::table_columns(&app, &by, place.read()?, file.0).await?))
}

/// Rows of a table as they stand in the file, for whoever corrects them there.
#[utoipa::path(tag = "exchange",
    request_body(content = Vec<u8>, content_type = "application/octet-stream", description = "a workbook (.xlsx) or CSV"),
    params(("rows" = String, Query, description = "numbers of the rows, such as `5,7`; others are passed over"),
        ("sheet" = Option<usize>, Query, description = "place of a workbook's sheet, from 0"),
        ("header" = Option<u32>, Query, description = "row of the columns' names, from 1")),
    responses((status = 200, body = PickedRows)))]
#[post("/table-imports/rows?<rows>&<place..>", data = "<file>")]
pub(crate) async fn table_rows(
    by: By<StudyWriter>,
    rows: Option<&str>,
    place: Place<'_>,
    file: Upload,
    app: Ready<'_>,
) -> Result<Json<PickedRows>, ApiError> {
    let wanted: HashSet<u32> = rows.unwrap_or_default().split(',').filter_map(|it| it.trim().parse().ok()).collect();
    Ok(Json(cases::table_rows(&app, &by, place.read()?, wanted, file.0).await?))
}

/// Begins to import a table, all of it or nothing; or to compare it with what is on record. Answers at once: how it goes on is asked for.
#[utoipa::path(tag = "exchange",
    request_body(content = Vec<u8>, content_type = "application/octet-stream", description = "a workbook (.xlsx) or CSV"),
    params(("columns" = String, Query, description = "for each column what it holds, such as `A:test,C:tp`"),
        ("changes" = Option<String>, Query, description = "what is read in the place of what stands in the file, at most 500 in JSON: `[{\"cell\": \"D5\", \"becomes\": \"12\"}, {\"field\": \"test\", \"was\": \"Lfit\", \"becomes\": \"Lift\"}]`"),
        ("drafts" = Option<String>, Query, description = "sheets, as they are sent to `/tests`, to be written as drafts for tests that have none, at most 50 in JSON"),
        ("preview" = Option<bool>, Query, description = "change nothing"),
        ("name" = Option<String>, Query, description = "name of the file, for the list of imports"),
        ("sheet" = Option<usize>, Query, description = "place of a workbook's sheet, from 0"),
        ("header" = Option<u32>, Query, description = "row of the columns' names, from 1")),
    responses((status = 202, body = ImportView), (status = 409, body = Problem)))]
#[post("/table-imports?<wish..>", data = "<file>")]
pub(crate) async fn begin_table_import(
    by: By<StudyWriter>,
    wish: Wish<'_>,
    file: Upload,
    app: Ready<'_>,
) -> Result<Custom<Json<ImportView>>, ApiError> {
    let Wish { columns, changes, drafts, preview, name, sheet, header } = wish;
    let [columns, changes, drafts, name] = [columns, changes, drafts, name].map(Option::unwrap_or_default);
    let preview = yes_no("preview", preview)?.unwrap_or(false);
    let reading = TableReading { columns, changes, drafts, preview };
    let begun = cases::begin_table_import(&app, &by, reading, Place { sheet, header }.read()?, name, file.0)?;
    Ok(Custom(Status::Accepted, Json(begun)))
}
