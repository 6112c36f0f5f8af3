//! The catalogue: regions, conditions, the list with its likelihood ratios, and sheets.

use pruvex_app::catalogue::{self as cases, ListFilter, ListedTests, RegionView, Sort, TestRow};
use pruvex_app::people::Reader;
use pruvex_app::pooling::Evidence;
use pruvex_core::catalogue::{Position, Purpose, Region, Status};
use rocket::http::Header;
use rocket::serde::json::Json;
use rocket::{FromForm, Responder, get};
use utoipa::IntoParams;

use crate::guards::By;
use crate::params::{choice, region, yes_no};
use crate::problem::ApiError;
use crate::ready::Ready;

/// All regions, head to foot.
#[utoipa::path(tag = "catalogue", responses((status = 200, body = Vec<RegionView>)))]
#[get("/regions")]
pub(crate) async fn list_regions(by: By<Reader>, app: Ready<'_>) -> Result<Json<Vec<RegionView>>, ApiError> {
    Ok(Json(cases::list_regions(&app, &by).await?))
}

/// Which tests are listed, and in which order. Taken as text, so that a fault can be told by its name.
#[derive(FromForm, IntoParams)]
#[into_params(parameter_in = Query)]
pub(crate) struct ListQuery<'r> {
    /// Only this region.
    #[param(value_type = Option<Region>)]
    region: Option<&'r str>,
    /// Only tests for the condition of this name.
    condition: Option<&'r str>,
    /// Part of a name, a name typed nearly right, or words of the sheet.
    search: Option<&'r str>,
    /// Only tests for this purpose.
    #[param(value_type = Option<Purpose>)]
    purpose: Option<&'r str>,
    /// `basic` for the basic examination, `special` for special tests.
    kind: Option<&'r str>,
    /// Only tests done in this position.
    #[param(value_type = Option<Position>)]
    position: Option<&'r str>,
    /// `none` or `some`.
    equipment: Option<&'r str>,
    /// At most this irritating, 0 to 3.
    #[param(value_type = Option<u8>)]
    irritation: Option<&'r str>,
    /// Only with so much behind it.
    #[param(value_type = Option<Evidence>)]
    evidence: Option<&'r str>,
    /// Only sheets that stand there.
    #[param(value_type = Option<Status>)]
    status: Option<&'r str>,
    /// Only sheets in which the checks found something, or nothing.
    #[param(value_type = Option<bool>)]
    findings: Option<&'r str>,
    /// The best match first when searching, else `lr_positive`.
    #[param(value_type = Option<Sort>)]
    sort: Option<&'r str>,
    /// Each test with its figures for the condition of this name, if it shows it, instead of those for its leading one.
    asked: Option<&'r str>,
    /// Each test once under each of its conditions, with the figures for it, instead of once under the leading one.
    #[param(value_type = Option<bool>)]
    each_condition: Option<&'r str>,
    /// The other way round.
    #[param(value_type = Option<bool>)]
    reverse: Option<&'r str>,
}

impl ListQuery<'_> {
    pub(crate) fn filter(&self) -> Result<ListFilter, ApiError> {
        let text = |given: Option<&str>| given.map(str::to_owned);
        Ok(ListFilter {
            region: region(self.region)?,
            condition: text(self.condition),
            search: text(self.search),
            purpose: choice("purpose", self.purpose, &Purpose::ALL.map(Purpose::code), Purpose::from_code)?,
            basis: choice("kind", self.kind, &["basic", "special"], |code| match code {
                "basic" => Some(true),
                "special" => Some(false),
                _ => None,
            })?,
            position: choice("position", self.position, &Position::ALL.map(Position::code), Position::from_code)?,
            equipment: choice("equipment", self.equipment, &["none", "some"], |code| match code {
                "none" => Some(false),
                "some" => Some(true),
                _ => None,
            })?,
            irritation: choice("irritation", self.irritation, &["0", "1", "2", "3"], |text| {
                text.parse().ok().filter(|level| *level <= 3)
            })?,
            evidence: choice("evidence", self.evidence, &Evidence::CODES, Evidence::from_code)?,
            status: choice("status", self.status, &Status::ALL.map(Status::code), Status::from_code)?,
            findings: yes_no("findings", self.findings)?,
            sort: choice("sort", self.sort, &Sort::CODES, Sort::from_code)?,
            asked: text(self.asked),
            each_condition: yes_no("each_condition", self.each_condition)?.unwrap_or(false),
            reverse: yes_no("reverse", self.reverse)?.unwrap_or(false),
        })
    }
}

/// Rows of a list, and how many there are in all.
#[derive(Responder)]
#[response(content_type = "json")]
pub(crate) struct Rows {
    json: String,
    total: Header<'static>,
    behind: Header<'static>,
    computing: Header<'static>,
}

/// The catalogue's list with the pooled likelihood ratios of each test.
#[utoipa::path(tag = "catalogue",
    params(ListQuery, ("limit" = Option<u32>, Query, description = "only so many of them, 1 to 5000")),
    responses((status = 200, body = Vec<TestRow>,
        headers(("X-Total-Count" = u64, description = "how many there are without the limit"),
            ("X-Behind" = bool, description = "it is as it was before a change of many tests, which is being read"),
            ("X-Computing" = String, description = "pooled answers that are computed while nobody waits, as after an import or by a new version of the \
                program: how many are done, of how many; 0/0 when none are left")))))]
#[get("/tests?<limit>&<query..>")]
pub(crate) async fn list_tests(
    by: By<Reader>,
    query: ListQuery<'_>,
    limit: Option<&str>,
    app: Ready<'_>,
) -> Result<Rows, ApiError> {
    let most = |text: &str| text.parse::<usize>().ok().filter(|limit| (1..=5_000).contains(limit));
    let limit = choice("limit", limit, &["1 to 5000"], most)?;
    let ListedTests { json, total, behind, computing } = cases::list_tests(&app, &by, &query.filter()?, limit).await?;
    let [done, of] = computing.unwrap_or_default();
    Ok(Rows {
        json,
        total: Header::new("X-Total-Count", total.to_string()),
        behind: Header::new("X-Behind", behind.to_string()),
        computing: Header::new("X-Computing", format!("{done}/{of}")),
    })
}
