//! Tables out of the catalogue.

use pruvex_app::exchange::{self as cases, TableFormat};
use pruvex_app::people::{DraftReader, Reader};
use pruvex_core::catalogue::Region;
use rocket::get;

use crate::file::Download;
use crate::guards::By;
use crate::params::{ending, region};
use crate::problem::ApiError;
use crate::ready::Ready;
use crate::routes::catalogue::ListQuery;

/// A region's studies and results as a table, one row a result, or all.
#[utoipa::path(tag = "exchange",
    params(("format" = String, Path, description = "csv or xlsx"),
        ("region" = Option<Region>, Query, description = "only this region")),
    responses((status = 200, description = "CSV with a header row, or an Office Open XML workbook", content((String = "text/csv"),
        (Vec<u8> = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet")))))]
#[get("/results/table/<format>?<region>")]
pub(crate) async fn export_results(
    by: By<DraftReader>,
    format: &str,
    region: Option<&str>,
    app: Ready<'_>,
) -> Result<Download, ApiError> {
    let format = ending(format, TableFormat::from_ending)?;
    Ok(Download::attachment(cases::export_results(&app, &by, format, self::region(region)?).await?))
}

/// The catalogue's list as a table, with the same parameters.
#[utoipa::path(tag = "exchange", params(ListQuery),
    responses((status = 200, description = "CSV with a header row", body = String, content_type = "text/csv")))]
#[get("/tests.csv?<query..>")]
pub(crate) async fn export_list(by: By<Reader>, query: ListQuery<'_>, app: Ready<'_>) -> Result<Download, ApiError> {
    Ok(Download::attachment(cases::export_list(&app, &by, &query.filter()?).await?))
}
