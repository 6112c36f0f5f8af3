//! A sheet for paper.

use pruvex_app::catalogue as cases;
use pruvex_app::people::Reader;
use pruvex_core::TestId;
use rocket::get;

use crate::file::Download;
use crate::guards::By;
use crate::params::{Id, pre_test};
use crate::problem::ApiError;
use crate::ready::Ready;

/// The sheet typeset on A4, with its likelihood ratios and cautions: as it was signed off for those who may not see drafts.
#[utoipa::path(tag = "catalogue",
    params(("condition" = Option<String>, Query, description = "which of the conditions of its sheet; the leading one if absent"),
        ("pre_test" = Option<f64>, Query, description = "probability at which the results are read, above 0 and below 1")),
    responses((status = 200, description = "a PDF", body = Vec<u8>, content_type = "application/pdf")))]
#[get("/tests/<id>/sheet.pdf?<condition>&<pre_test>")]
pub(crate) async fn print_test(
    by: By<Reader>,
    id: Result<Id<TestId>, ApiError>,
    condition: Option<&str>,
    pre_test: Option<&str>,
    app: Ready<'_>,
) -> Result<Download, ApiError> {
    Ok(Download::inline(cases::print_test(&app, &by, id?.0, condition, self::pre_test(pre_test)?).await?))
}
