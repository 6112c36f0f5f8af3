//! Tables of studies and results into the catalogue: looked at, compared with what is on record, taken in.

use pruvex_core::FieldError;
use pruvex_formats::{Remark, TableView, open_table, read_mapping, results_template, view_table};
use pruvex_store::exchange::{ImportPhase, ImportedTable, chosen_columns_of};
use rocket::data::Data;
use rocket::http::{ContentType, Status};
use rocket::response::status::Custom;
use rocket::serde::Serialize;
use rocket::serde::json::Json;
use rocket::{FromForm, State, delete, get, post};
use utoipa::ToSchema;
use uuid::Uuid;

use crate::body::upload;
use crate::download::Download;
use crate::imports::{Run, Stage, Wish};
use crate::off::off;
use crate::params::{RecordId, choice, whole};
use crate::people::StudyWriter;
use crate::problem::{ApiError, Problem};
use crate::state::{AppState, Db};

/// As many rows as a worksheet has.
const MOST_ROWS: u64 = 1_048_576;
/// So many faults are told; who has corrected them sees the others.
const TOLD: usize = 500;

/// Where in a file the table stands.
#[derive(FromForm)]
pub(crate) struct Place<'r> {
    sheet: Option<&'r str>,
    header: Option<&'r str>,
}

impl Place<'_> {
    /// Place of the sheet, and row of the columns' names.
    fn read(&self) -> Result<(Option<usize>, Option<u32>), ApiError> {
        let sheet = whole("sheet", self.sheet, 1_000)?.and_then(|place| usize::try_from(place).ok());
        let header = whole("header", self.header, MOST_ROWS)?.and_then(|row| u32::try_from(row).ok());
        Ok((sheet, header))
    }
}

/// How an import stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(crate = "rocket::serde", rename_all = "snake_case")]
pub(crate) enum ImportState {
    /// Other files are read before it.
    Waiting,
    /// It is under way.
    Busy,
    /// It came to its end.
    Done,
    /// The file has faults; nothing was changed.
    Refused,
    /// It was stopped; nothing was changed.
    Stopped,
    /// Something else went wrong; nothing was changed.
    Failed,
}

/// An import of a table.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct ImportView {
    id: Uuid,
    /// Nothing is changed by it.
    preview: bool,
    state: ImportState,
    /// What it is doing, while it is under way.
    phase: Option<ImportPhase>,
    /// Rows done in this phase.
    done: usize,
    /// Of how many; 0 while that is not known.
    of: usize,
    /// What it brought, or would bring.
    imported: Option<ImportedTable>,
    /// What should be known of the file.
    remarks: Vec<Remark>,
    /// Faults of the file, the first 500 of them.
    faults: Vec<FieldError>,
    /// How many there are.
    fault_count: usize,
    /// Why it failed.
    why: Option<String>,
}

impl ImportView {
    fn of(run: &Run, stage: Stage) -> Self {
        let mut view = Self {
            id: run.id,
            preview: run.preview,
            state: ImportState::Waiting,
            phase: None,
            done: 0,
            of: 0,
            imported: None,
            remarks: Vec::new(),
            faults: Vec::new(),
            fault_count: 0,
            why: None,
        };
        match stage {
            Stage::Waiting => {}
            Stage::Busy { phase, done, of } => {
                (view.state, view.phase, view.done, view.of) = (ImportState::Busy, Some(phase), done, of);
            }
            Stage::Done { table, remarks } => {
                (view.state, view.imported, view.remarks) = (ImportState::Done, Some(*table), remarks);
            }
            Stage::Refused { mut faults } => {
                (view.state, view.fault_count) = (ImportState::Refused, faults.len());
                faults.truncate(TOLD);
                view.faults = faults;
            }
            Stage::Stopped => view.state = ImportState::Stopped,
            Stage::Failed { why } => (view.state, view.why) = (ImportState::Failed, Some(why)),
        }
        view
    }
}

/// A workbook to be filled in, with every column that is understood.
#[utoipa::path(context_path = "/api/v1", tag = "exchange",
    responses((status = 200, description = "an Office Open XML workbook")))]
#[get("/table-imports/template")]
pub(crate) async fn table_template(_by: StudyWriter) -> Result<Download, ApiError> {
    let bytes = off(results_template).await?.map_err(|_| ApiError::Internal)?;
    let kind = ContentType::new("application", "vnd.openxmlformats-officedocument.spreadsheetml.sheet");
    Ok(Download::new(bytes, kind, "pruvex-studies-and-results.xlsx"))
}

/// The columns of a table, and what they are taken to hold.
#[utoipa::path(context_path = "/api/v1", tag = "exchange",
    request_body(content = Vec<u8>, content_type = "application/octet-stream", description = "a workbook (.xlsx) or CSV"),
    params(("sheet" = Option<usize>, Query, description = "place of a workbook's sheet, from 0"),
        ("header" = Option<u32>, Query, description = "row of the columns' names, from 1")),
    responses((status = 200, body = TableView), (status = 413, body = Problem), (status = 422, body = Problem)))]
#[post("/table-imports/columns?<place..>", data = "<file>")]
pub(crate) async fn table_columns(
    by: StudyWriter,
    place: Place<'_>,
    file: Data<'_>,
    state: &State<AppState>,
    db: Db<'_>,
) -> Result<Json<TableView>, ApiError> {
    let (sheet, header) = place.read()?;
    let chosen = chosen_columns_of(db.0, by.0.id).await?;
    let _place = state.imports.place().await?;
    let bytes = upload(file).await?;
    let view = off(move || open_table(&bytes, sheet).map(|file| view_table(&file, header, &chosen))).await?;
    Ok(Json(view.map_err(ApiError::Fields)?))
}

/// Begins to import a table, all of it or nothing; or to compare it with what is on record. Answers at once: how it goes on is asked for.
#[utoipa::path(context_path = "/api/v1", tag = "exchange",
    request_body(content = Vec<u8>, content_type = "application/octet-stream", description = "a workbook (.xlsx) or CSV"),
    params(("columns" = String, Query, description = "for each column what it holds, such as `A:test,C:tp`"),
        ("preview" = Option<bool>, Query, description = "change nothing"),
        ("sheet" = Option<usize>, Query, description = "place of a workbook's sheet, from 0"),
        ("header" = Option<u32>, Query, description = "row of the columns' names, from 1")),
    responses((status = 202, body = ImportView), (status = 400, body = Problem), (status = 409, body = Problem),
        (status = 413, body = Problem)))]
#[post("/table-imports?<columns>&<preview>&<place..>", data = "<file>")]
pub(crate) async fn begin_table_import(
    by: StudyWriter,
    columns: Option<&str>,
    preview: Option<&str>,
    place: Place<'_>,
    file: Data<'_>,
    state: &State<AppState>,
    db: Db<'_>,
) -> Result<Custom<Json<ImportView>>, ApiError> {
    let preview = choice("preview", preview, &["true", "false"], |text| text.parse().ok())?.unwrap_or(false);
    let (sheet, header_row) = place.read()?;
    let mapping = read_mapping(columns.unwrap_or_default()).map_err(ApiError::Query)?;
    let bytes = upload(file).await?;
    let wish = Wish { bytes, sheet, header_row, mapping, preview };
    let run = state.imports.begin(db.0.clone(), by.0.id, wish)?;
    Ok(Custom(Status::Accepted, Json(ImportView::of(&run, run.stage()))))
}

/// How one of your imports goes on.
#[utoipa::path(context_path = "/api/v1", tag = "exchange",
    params(("id" = Uuid, Path)),
    responses((status = 200, body = ImportView), (status = 404, body = Problem)))]
#[get("/table-imports/<id>", rank = 2)]
pub(crate) async fn get_table_import(
    by: StudyWriter,
    id: Result<RecordId, ApiError>,
    state: &State<AppState>,
) -> Result<Json<ImportView>, ApiError> {
    let run = state.imports.of(by.0.id, id?.0)?;
    Ok(Json(ImportView::of(&run, run.stage())))
}

/// Stops one of your imports. The answer says how it ended: nothing was changed, or it was done before.
#[utoipa::path(context_path = "/api/v1", tag = "exchange",
    params(("id" = Uuid, Path)),
    responses((status = 200, body = ImportView), (status = 404, body = Problem)))]
#[delete("/table-imports/<id>")]
pub(crate) async fn stop_table_import(
    by: StudyWriter,
    id: Result<RecordId, ApiError>,
    state: &State<AppState>,
) -> Result<Json<ImportView>, ApiError> {
    let run = state.imports.of(by.0.id, id?.0)?;
    let stage = run.stop().await;
    Ok(Json(ImportView::of(&run, stage)))
}
