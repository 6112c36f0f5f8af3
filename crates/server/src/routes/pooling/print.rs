//! A pool for print, and the figures behind it.

use pruvex_app::FigureFormat;
use pruvex_app::people::Reader;
use pruvex_app::pooling::{self as cases, PoolInput};
use pruvex_core::{FieldError, FieldErrorCode};
use rocket::get;

use crate::body::parse;
use crate::file::Download;
use crate::guards::By;
use crate::params::ending;
use crate::problem::ApiError;
use crate::ready::Ready;

/// The pool in print: the paired forest and the studies in ROC space as `pdf`, `svg` or `png`, or the figures behind them as `csv`.
#[utoipa::path(tag = "pooling",
    params(("format" = String, Path, description = "pdf, svg, png or csv"),
        ("pool" = String, Query, description = "What is pooled, as the JSON of a PoolInput")),
    responses((status = 200, description = "a file", content((Vec<u8> = "application/pdf"), (Vec<u8> = "image/svg+xml"), (Vec<u8> = "image/png"), (String = "text/csv")))))]
#[get("/pools/figure/<format>?<pool>")]
pub(crate) async fn print_pool(
    by: By<Reader>,
    format: &str,
    pool: Option<&str>,
    app: Ready<'_>,
) -> Result<Download, ApiError> {
    let picture = ending(format, |it| match it {
        "csv" => Some(None),
        figure => FigureFormat::from_ending(figure).map(Some),
    })?;
    let given = pool.unwrap_or_default();
    let input: PoolInput = parse(given.as_bytes()).map_err(|error| {
        let (message, remedy) = (format!("It cannot be read. {error}"), "Take the address from the pooling page.");
        ApiError::Query(vec![FieldError::new("pool", FieldErrorCode::Invalid, given, message, remedy)])
    })?;
    Ok(Download::attachment(cases::print_pool(&app, &by, picture, input).await?))
}
