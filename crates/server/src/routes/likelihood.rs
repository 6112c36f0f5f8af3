//! What results mean at a pre-test probability, and what is done about it.

use pruvex_app::FigureFormat;
use pruvex_app::likelihood::{
    self as cases, ActionThreshold, Answer, Grouping, PatientAnswer, PatientBackground, PatientInput, Question, Stakes,
    StudyPlan, StudySizes,
};
use pruvex_app::people::Reader;
use rocket::serde::json::Json;
use rocket::{get, post};

use crate::body::JsonBody;
use crate::file::Download;
use crate::guards::By;
use crate::params::{choice, ending, yes_no};
use crate::problem::ApiError;
use crate::ready::Ready;
use crate::routes::catalogue::ListQuery;

/// Bayes' rule for many tests at once.
#[utoipa::path(tag = "likelihood", request_body = Question,
    responses((status = 200, body = Vec<Answer>)))]
#[post("/likelihood/answers", data = "<question>")]
pub(crate) async fn answer(
    by: By<Reader>,
    question: JsonBody<Question>,
    app: Ready<'_>,
) -> Result<Json<Vec<Answer>>, ApiError> {
    Ok(Json(cases::answer(&app, &by, question.0).await?))
}

/// From the pre-test probability over the results found so far to what is done, and what each other test would still tell.
#[utoipa::path(tag = "likelihood", request_body = PatientInput,
    responses((status = 200, body = PatientAnswer)))]
#[post("/likelihood/patient", data = "<input>")]
pub(crate) async fn answer_patient(
    by: By<Reader>,
    input: JsonBody<PatientInput>,
    app: Ready<'_>,
) -> Result<Json<PatientAnswer>, ApiError> {
    Ok(Json(cases::answer_patient(&app, &by, input.0).await?))
}

/// What limits the figures that a patient's results rest on, and what the same results would mean where the condition is as common as it
/// was among the people studied.
#[utoipa::path(tag = "likelihood", request_body = PatientInput,
    responses((status = 200, body = PatientBackground)))]
#[post("/likelihood/background", data = "<input>")]
pub(crate) async fn explain_patient(
    by: By<Reader>,
    input: JsonBody<PatientInput>,
    app: Ready<'_>,
) -> Result<Json<PatientBackground>, ApiError> {
    Ok(Json(cases::explain_patient(&app, &by, input.0).await?))
}

/// The probability from which on acting gains more than it costs.
#[utoipa::path(tag = "likelihood", request_body = Stakes,
    responses((status = 200, body = ActionThreshold)))]
#[post("/likelihood/threshold", data = "<stakes>")]
pub(crate) fn weigh_stakes(by: By<Reader>, stakes: JsonBody<Stakes>) -> Result<Json<ActionThreshold>, ApiError> {
    Ok(Json(cases::weigh_stakes(&by, &stakes.0)?))
}

/// How many people a study needs so that its intervals are no wider than wanted.
#[utoipa::path(tag = "likelihood", request_body = StudyPlan,
    responses((status = 200, body = StudySizes)))]
#[post("/likelihood/study-size", data = "<plan>")]
pub(crate) fn plan_study(by: By<Reader>, plan: JsonBody<StudyPlan>) -> Result<Json<StudySizes>, ApiError> {
    Ok(Json(cases::plan_study(&by, plan.0)?))
}

/// The ladder for print as `pdf`, `svg` or `png`, of the tests that the list would show with the same parameters.
#[utoipa::path(tag = "likelihood",
    params(("format" = String, Path, description = "pdf, svg or png"), ListQuery,
        ("group" = Option<String>, Query, description = "condition (the default), region or none"),
        ("ahead" = Option<bool>, Query, description = "with prediction intervals")),
    responses((status = 200, description = "a file", content((Vec<u8> = "application/pdf"), (Vec<u8> = "image/svg+xml"), (Vec<u8> = "image/png")))))]
#[get("/likelihood/ladder/<format>?<group>&<ahead>&<query..>")]
pub(crate) async fn print_ladder(
    by: By<Reader>,
    format: &str,
    group: Option<&str>,
    ahead: Option<&str>,
    query: ListQuery<'_>,
    app: Ready<'_>,
) -> Result<Download, ApiError> {
    let format = ending(format, FigureFormat::from_ending)?;
    let group = choice("group", group, &Grouping::CODES, Grouping::from_code)?.unwrap_or_default();
    let ahead = yes_no("ahead", ahead)?.unwrap_or(false);
    Ok(Download::attachment(cases::print_ladder(&app, &by, format, group, ahead, &query.filter()?).await?))
}
