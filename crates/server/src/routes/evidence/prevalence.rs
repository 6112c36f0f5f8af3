//! How common a condition is with and without symptoms.

use pruvex_app::evidence as cases;
use pruvex_app::people::Reader;
use pruvex_core::evidence::{Activity, CareSetting, PooledPrevalence, PrevalenceOf};
use rocket::get;
use rocket::serde::json::Json;
use uuid::Uuid;

use crate::guards::By;
use crate::params::{Id, choice};
use crate::problem::ApiError;
use crate::ready::Ready;

/// Prevalence of a condition in people with symptoms and in people without, pooled over its reports, and what that makes of a positive finding.
#[utoipa::path(tag = "evidence",
    params(("age" = Option<f64>, Query, description = "only reports about ages that hold it, in years"),
        ("setting" = Option<CareSetting>, Query, description = "only reports from there"),
        ("activity" = Option<Activity>, Query, description = "only reports about people as active as this")),
    responses((status = 200, body = PooledPrevalence)))]
#[get("/conditions/<id>/prevalence?<age>&<setting>&<activity>")]
pub(crate) async fn answer_prevalence(
    by: By<Reader>,
    id: Result<Id<Uuid>, ApiError>,
    age: Option<&str>,
    setting: Option<&str>,
    activity: Option<&str>,
    app: Ready<'_>,
) -> Result<Json<PooledPrevalence>, ApiError> {
    let of = PrevalenceOf {
        age: choice("age", age, &["a number of years from 0 to 120"], |text| {
            text.parse().ok().filter(|age| (0.0..=120.0).contains(age))
        })?,
        setting: choice("setting", setting, &CareSetting::CODES, CareSetting::from_code)?,
        activity: choice("activity", activity, &Activity::CODES, Activity::from_code)?,
    };
    Ok(Json(cases::answer_prevalence(&app, &by, id?.0, of).await?))
}
