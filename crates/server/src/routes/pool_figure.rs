//! A pool for print, and the figures behind it.

use std::collections::HashMap;
use std::sync::Arc;

use pruvex_core::evidence::{Facet, WhyOut};
use pruvex_core::pooling::roc_space;
use pruvex_core::{FieldError, FieldErrorCode};
use pruvex_formats::{FigureGroup, FigureRow, PoolFigure, pool_csv, pool_figure};
use rocket::http::ContentType;
use rocket::{State, get};
use uuid::Uuid;

use super::pools::{Chosen, Gathered, PoolInput, PoolLevel, compared, gather, reports};
use crate::download::{Download, figure_format};
use crate::off::off;
use crate::people::Reader;
use crate::problem::{ApiError, Problem};
use crate::routes::pooling::Pools;
use crate::state::{AppState, Db};

/// The pool in print: the paired forest and the studies in ROC space as `pdf`, `svg` or `png`, or the figures behind them as `csv`.
#[utoipa::path(context_path = "/api/v1", tag = "pooling",
    params(("format" = String, Path, description = "pdf, svg, png or csv"),
        ("pool" = String, Query, description = "What is pooled, as the JSON of a PoolInput")),
    responses((status = 200, description = "a file"), (status = 400, body = Problem), (status = 404, body = Problem),
        (status = 422, body = Problem)))]
#[get("/pools/figure/<format>?<pool>")]
pub(crate) async fn print_pool(
    by: Reader,
    format: &str,
    pool: &str,
    state: &State<AppState>,
    db: Db<'_>,
) -> Result<Download, ApiError> {
    let (picture, content) = match format {
        "csv" => (None, ContentType::CSV),
        _ => figure_format(format).map(|(picture, content)| (Some(picture), content))?,
    };
    let input: PoolInput = serde_json::from_str(pool).map_err(|error| {
        let (message, remedy) = (format!("It cannot be read: {error}."), "Take the address from the pooling page.");
        ApiError::Query(vec![FieldError::new("pool", FieldErrorCode::Invalid, pool, message, remedy)])
    })?;
    let gathered = gather(&input, &by, db.0).await?;
    let reports = reports(&gathered, db.0).await?;
    let pools = Arc::clone(&state.pools);
    let bytes = off(move || {
        let figure = figure(&input, &gathered, &reports, &pools);
        let failed = |error: &dyn std::fmt::Display| tracing::error!(%error, "typesetting");
        match picture {
            None => pool_csv(&figure).map(String::into_bytes).map_err(|error| failed(&error)),
            Some(picture) => pool_figure(&figure, picture).map_err(|error| failed(&error)),
        }
    });
    let bytes = bytes.await?.map_err(|()| ApiError::Internal)?;
    Ok(Download::new(bytes, content, &format!("pool.{format}")))
}

fn figure(input: &PoolInput, gathered: &Gathered, reports: &HashMap<Uuid, String>, pools: &Pools) -> PoolFigure {
    let Chosen { out, counts, pooled, ahead, weights } = gathered.choose(input, pools);
    let pooled = pooled.ok();
    let name = |id: &str| gathered.tests.iter().find(|it| it.id.to_string() == id).map(|it| it.name.clone());
    let several = gathered.tests.len() > 1 && input.by != Some(Facet::Test);
    let row = |index: usize| {
        let member = &gathered.members[index];
        let said = [Facet::Variant, Facet::Criterion, Facet::Stage].map(|facet| member.says.get(&facet).cloned());
        let test = several.then(|| name(&member.test.to_string())).flatten();
        FigureRow {
            report: reports.get(&member.study).cloned().unwrap_or_default(),
            differs: std::iter::once(test).chain(said).flatten().collect::<Vec<_>>().join(" · "),
            sample: gathered.samples[index],
            counts: gathered.counts[index],
            weight: weights[index],
        }
    };
    let groups = match input.by.map(|facet| compared(facet, gathered, &input.selection, input.model, pools)) {
        None => {
            vec![FigureGroup { title: String::new(), rows: gathered.kept(&out).map(row).collect(), pooled: None }]
        }
        Some((levels, places)) => {
            let off = |index: usize| matches!(out[index], Some(WhyOut::SwitchedOff));
            let title = |value: &str| match (levels.facet, value) {
                (_, "") => "not stated".to_owned(),
                (Facet::Test, id) => name(id).unwrap_or_default(),
                (Facet::Variant | Facet::Criterion | Facet::Stage | Facet::ReferenceStandard, text) => text.to_owned(),
                (_, code) => code.replace('_', " "),
            };
            let group = |(level, of): (usize, &PoolLevel)| FigureGroup {
                title: title(&of.value),
                rows: (0..places.len())
                    .filter(|index| places[*index] == Some(level) && !off(*index))
                    .map(row)
                    .collect(),
                pooled: of.pooled.clone(),
            };
            levels.levels.iter().enumerate().map(group).collect()
        }
    };
    PoolFigure {
        title: gathered.tests.iter().map(|it| it.name.as_str()).collect::<Vec<_>>().join(", "),
        condition: gathered.condition.clone(),
        sample: groups.iter().flat_map(|group| &group.rows).any(|row| row.sample),
        roc: pooled.as_ref().filter(|_| input.by.is_none()).and_then(|pooled| roc_space(pooled, &counts)),
        groups,
        pooled,
        prediction: ahead,
        printed: chrono::Utc::now().format("%-d %B %Y").to_string(),
    }
}
