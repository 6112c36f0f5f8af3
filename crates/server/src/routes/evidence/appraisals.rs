//! Appraisals of studies: what is asked, and saving what was judged.

use std::collections::BTreeMap;

use pruvex_app::evidence::{self as cases, AppraisalView, AskedAspect};
use pruvex_app::people::{Reader, StudyWriter};
use pruvex_core::StudyId;
use pruvex_core::evidence::{AppraisalInput, Aspect, Domain, Judgement};
use rocket::serde::json::Json;
use rocket::{get, post, put};

use crate::body::JsonBody;
use crate::etag::{IfMatch, Tagged};
use crate::guards::By;
use crate::params::{Id, ending};
use crate::problem::ApiError;
use crate::ready::Ready;

/// The domains and questions of both appraisals, in their order.
#[utoipa::path(tag = "evidence", responses((status = 200, body = Vec<AskedAspect>)))]
#[get("/appraisals")]
pub(crate) async fn list_questions(by: By<Reader>) -> Json<Vec<AskedAspect>> {
    Json(cases::list_questions(&by))
}

/// What the answers suggest that were given so far, by domain. Nothing is stored.
#[utoipa::path(tag = "evidence", request_body = AppraisalInput,
    params(("aspect" = Aspect, Path)),
    responses((status = 200, body = BTreeMap<Domain, Judgement>)))]
#[post("/appraisals/<aspect>", data = "<input>")]
pub(crate) async fn suggest_judgements(
    by: By<StudyWriter>,
    aspect: &str,
    input: JsonBody<AppraisalInput>,
) -> Result<Json<BTreeMap<Domain, Judgement>>, ApiError> {
    Ok(Json(cases::suggest_judgements(&by, known(aspect)?, &input.0)))
}

/// Saves the appraisal of a study that was read at the version in `If-Match`; 0 when there was none.
#[utoipa::path(tag = "evidence", request_body = AppraisalInput,
    params(("aspect" = Aspect, Path),
        IfMatch),
    responses((status = 200, body = AppraisalView)))]
#[put("/studies/<id>/appraisals/<aspect>", data = "<input>")]
pub(crate) async fn save_appraisal(
    by: By<StudyWriter>,
    id: Result<Id<StudyId>, ApiError>,
    aspect: &str,
    version: IfMatch,
    input: JsonBody<AppraisalInput>,
    app: Ready<'_>,
) -> Result<Tagged<AppraisalView>, ApiError> {
    Ok(Tagged::ok(cases::save_appraisal(&app, &by, id?.0, known(aspect)?, version.0, input.0).await?))
}

fn known(aspect: &str) -> Result<Aspect, ApiError> {
    ending(aspect, |code| Aspect::ALL.into_iter().find(|it| it.code() == code))
}
