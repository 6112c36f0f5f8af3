//! A sheet for paper.

use pruvex_core::Probability;
use pruvex_formats::{TeachingSheet, teaching_sheet};
use rocket::http::{ContentType, Header};
use rocket::{Responder, State, get};

use super::catalogue::visible_test;
use super::pooling::back;
use crate::off::off;
use crate::params::{RecordId, choice};
use crate::people::Reader;
use crate::problem::{ApiError, Problem};
use crate::state::{AppState, Db};

/// Pages of a test.
#[derive(Responder)]
pub(crate) struct Pages {
    bytes: Vec<u8>,
    kind: ContentType,
    disposition: Header<'static>,
}

/// The sheet typeset on A4, with its likelihood ratios and cautions: as it was signed off for those who may not see drafts.
#[utoipa::path(context_path = "/api/v1", tag = "catalogue",
    params(("id" = Uuid, Path),
        ("pre_test" = Option<f64>, Query, description = "probability at which the results are read, above 0 and below 1")),
    responses((status = 200, description = "a PDF"), (status = 400, body = Problem), (status = 404, body = Problem)))]
#[get("/tests/<id>/sheet.pdf?<pre_test>")]
pub(crate) async fn print_test(
    by: Reader,
    id: Result<RecordId, ApiError>,
    pre_test: Option<&str>,
    state: &State<AppState>,
    db: Db<'_>,
) -> Result<Pages, ApiError> {
    let pre_test = choice("pre_test", pre_test, &["a number above 0 and below 1"], |text| {
        let inside = |p: &Probability| p.get() > 0.0 && p.get() < 1.0;
        text.parse().ok().and_then(|p| Probability::new(p).ok()).filter(inside)
    })?;
    let record = visible_test(db.0, id?.0, &by.0).await?;
    let backed = back(record.id, state, &db).await?;
    let printed = chrono::Utc::now().format("%-d %B %Y").to_string();
    let name = file_name(&record.sheet.name);
    let set = off(move || {
        teaching_sheet(&TeachingSheet {
            sheet: &record.sheet,
            version: record.version,
            status: record.status,
            sample: record.sample || backed.as_ref().is_some_and(|backed| backed.sample),
            pooled: backed.as_ref().and_then(|backed| backed.pooled.as_deref()),
            pre_test,
            printed: &printed,
        })
    });
    let bytes = set.await?.map_err(|error| {
        tracing::error!(%error, "typesetting");
        ApiError::Internal
    })?;
    let disposition = Header::new("Content-Disposition", format!("inline; filename=\"{name}.pdf\""));
    Ok(Pages { bytes, kind: ContentType::PDF, disposition })
}

/// A name that every file system and every header takes.
fn file_name(name: &str) -> String {
    let plain = |c: char| if c.is_ascii_alphanumeric() { c.to_ascii_lowercase() } else { '-' };
    let words: String = name.chars().map(plain).take(80).collect();
    let words: Vec<&str> = words.split('-').filter(|word| !word.is_empty()).collect();
    if words.is_empty() { "sheet".to_owned() } else { words.join("-") }
}
