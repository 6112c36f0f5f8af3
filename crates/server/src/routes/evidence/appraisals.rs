//! Appraisals of studies: what is asked, and saving what was judged.

use std::collections::BTreeMap;

use pruvex_core::evidence::{Appraisal, AppraisalInput, Aspect, Domain, Judgement, SignallingQuestion, suggestions};
use pruvex_store::evidence::{AppraisalRecord, put_appraisal};
use pruvex_store::history::Act;
use pruvex_store::{StoreError, TransactionTrait};
use rocket::serde::Serialize;
use rocket::serde::json::Json;
use rocket::{get, post, put};
use utoipa::ToSchema;

use crate::body::JsonBody;
use crate::etag::{IfMatch, Tagged};
use crate::params::RecordId;
use crate::people::{Reader, StudyWriter};
use crate::problem::{ApiError, Problem};
use crate::state::Db;

/// An appraisal of a study.
#[derive(Debug, Clone, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct AppraisalView {
    aspect: Aspect,
    version: i32,
    /// Made up, for demonstration.
    sample: bool,
    /// Risk of bias over all domains; `null` until that can be said.
    overall: Option<Judgement>,
    #[serde(flatten)]
    appraisal: AppraisalInput,
}

impl From<AppraisalRecord> for AppraisalView {
    fn from(AppraisalRecord { aspect, version, sample, appraisal, .. }: AppraisalRecord) -> Self {
        Self { aspect, version, sample, overall: appraisal.overall(aspect), appraisal: appraisal.written().clone() }
    }
}

/// What is asked about one aspect of studies.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct AskedAspect {
    aspect: Aspect,
    domains: Vec<AskedDomain>,
}

/// What is asked in one domain.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct AskedDomain {
    domain: Domain,
    /// Whether it can apply to the question at hand more or less.
    concern: bool,
    questions: &'static [SignallingQuestion],
}

/// The domains and questions of both appraisals, in their order.
#[utoipa::path(context_path = "/api/v1", tag = "evidence", responses((status = 200, body = Vec<AskedAspect>)))]
#[get("/appraisals")]
pub(crate) async fn list_questions(_by: Reader) -> Json<Vec<AskedAspect>> {
    let asked = |aspect: Aspect| {
        let domains = aspect.domains().iter().map(|domain| AskedDomain {
            domain: *domain,
            concern: Aspect::has_concern(*domain),
            questions: aspect.questions(*domain),
        });
        AskedAspect { aspect, domains: domains.collect() }
    };
    Json(Aspect::ALL.map(asked).into())
}

/// What the answers suggest that were given so far, by domain. Nothing is stored.
#[utoipa::path(context_path = "/api/v1", tag = "evidence", request_body = AppraisalInput,
    params(("aspect" = Aspect, Path)),
    responses((status = 200, body = BTreeMap<Domain, Judgement>), (status = 404, body = Problem)))]
#[post("/appraisals/<aspect>", data = "<input>")]
pub(crate) async fn suggest_judgements(
    _by: StudyWriter,
    aspect: &str,
    input: JsonBody<AppraisalInput>,
) -> Result<Json<BTreeMap<Domain, Judgement>>, ApiError> {
    Ok(Json(suggestions(known(aspect)?, &input.0)))
}

fn known(aspect: &str) -> Result<Aspect, ApiError> {
    Aspect::ALL.into_iter().find(|it| it.code() == aspect).ok_or(ApiError::NoRoute)
}

/// Saves the appraisal of a study that was read at the version in `If-Match`; 0 when there was none.
#[utoipa::path(context_path = "/api/v1", tag = "evidence", request_body = AppraisalInput,
    params(("id" = Uuid, Path), ("aspect" = Aspect, Path),
        ("If-Match" = String, Header, description = "Version that was read")),
    responses((status = 200, body = AppraisalView), (status = 404, body = Problem), (status = 412, body = Problem),
        (status = 422, body = Problem)))]
#[put("/studies/<id>/appraisals/<aspect>", data = "<input>")]
pub(crate) async fn save_appraisal(
    by: StudyWriter,
    id: Result<RecordId, ApiError>,
    aspect: &str,
    version: IfMatch,
    input: JsonBody<AppraisalInput>,
    db: Db<'_>,
) -> Result<Tagged<AppraisalView>, ApiError> {
    let aspect = known(aspect)?;
    let (id, appraisal) = (id?.0, Appraisal::check(aspect, &input.0).map_err(ApiError::Fields)?);
    let transaction = db.0.begin().await.map_err(StoreError::from)?;
    let act = Act::of("edited", Some(by.0.id));
    let record = put_appraisal(&transaction, id, aspect, version.0, &appraisal, act).await?;
    transaction.commit().await.map_err(StoreError::from)?;
    Ok(Tagged::ok(record.version, record.into()))
}
