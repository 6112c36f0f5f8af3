//! Studies: the people of whom results are reported, which of them are on record, and their correction.

use pruvex_app::evidence::{self as cases, KnownStudy, PublishedAs, StudyView};
use pruvex_app::people::StudyWriter;
use pruvex_core::evidence::StudyInput;
use pruvex_core::{FieldError, FieldErrorCode, StudyId};
use rocket::serde::json::Json;
use rocket::{get, put};

use crate::body::JsonBody;
use crate::etag::{IfMatch, Tagged};
use crate::guards::By;
use crate::params::{self, Id};
use crate::problem::ApiError;
use crate::ready::Ready;

/// Studies that were published as a reference, or under its text: a further result may be of the same people.
#[utoipa::path(tag = "evidence",
    params(("reference_id" = Option<Uuid>, Query, description = "Reference on record"),
        ("reference" = Option<String>, Query, description = "Text of the reference, when it is not on record")),
    responses((status = 200, body = Vec<KnownStudy>)))]
#[get("/studies?<reference_id>&<reference>")]
pub(crate) async fn list_studies(
    by: By<StudyWriter>,
    reference_id: Option<&str>,
    reference: Option<&str>,
    app: Ready<'_>,
) -> Result<Json<Vec<KnownStudy>>, ApiError> {
    let text = reference.map(str::trim).filter(|text| !text.is_empty());
    let published = match (params::id("reference_id", reference_id)?, text) {
        (Some(id), _) => PublishedAs::Reference(id),
        (None, Some(text)) => PublishedAs::Text(text.to_owned()),
        (None, None) => {
            let (message, remedy) = ("It is not said of which reference.", "Give its number, or its text.");
            let error = FieldError::new("reference_id", FieldErrorCode::Missing, "", message, remedy);
            return Err(ApiError::Query(vec![error]));
        }
    };
    Ok(Json(cases::list_studies(&app, &by, &published).await?))
}

/// Corrects a study that was read at the version in `If-Match`, for all of its results.
#[utoipa::path(tag = "evidence", request_body = StudyInput,
    params(IfMatch),
    responses((status = 200, body = StudyView)))]
#[put("/studies/<id>", data = "<input>")]
pub(crate) async fn update_study(
    by: By<StudyWriter>,
    id: Result<Id<StudyId>, ApiError>,
    version: IfMatch,
    input: JsonBody<StudyInput>,
    app: Ready<'_>,
) -> Result<Tagged<StudyView>, ApiError> {
    Ok(Tagged::ok(cases::update_study(&app, &by, id?.0, version.0, input.0).await?))
}
