//! A pool for print, and the figures behind it.

use std::collections::HashMap;
use std::sync::Arc;

use pruvex_core::evidence::{Facet, FacetValue, WhyOut};
use pruvex_core::pooling::roc_space;
use pruvex_core::{StudyId, TestId};
use pruvex_formats::{FigureGroup, FigureRow, PoolFigure, pool_csv, pool_figure};

use super::Pools;
use super::gather::{Chosen, Gathered, PoolInput, gather, reports};
use super::pool::{PoolLevel, compared};
use crate::blocking::blocking;
use crate::people::Reader;
use crate::{App, AppError, FigureFormat, FileContent, media, today};

/// The pool in print: the paired forest and the studies in ROC space, or with no picture the figures behind them as a table.
///
/// # Errors
/// As [`super::answer_pool`].
pub async fn print_pool(
    app: &App,
    by: &Reader,
    picture: Option<FigureFormat>,
    input: PoolInput,
) -> Result<FileContent, AppError> {
    let gathered = gather(&input, by.account(), &app.db).await?;
    let reports = reports(&gathered.studies, &app.db).await?;
    let pools = Arc::clone(&app.pools);
    let bytes = blocking(move || {
        let figure = figure(&input, &gathered, &reports, &pools);
        match picture {
            None => pool_csv(&figure).map(String::into_bytes).map_err(AppError::internal),
            Some(format) => pool_figure(&figure, format).map_err(AppError::internal),
        }
    });
    let (ending, kind) = picture.map_or(("csv", media::CSV), |it| (it.ending(), it.media_type()));
    Ok(FileContent::new(bytes.await??, format!("pool.{ending}"), kind))
}

fn figure(input: &PoolInput, gathered: &Gathered, reports: &HashMap<StudyId, String>, pools: &Pools) -> PoolFigure {
    let Chosen { out, counts, pooled, ahead, weights } = gathered.choose(input, pools);
    let pooled = pooled.ok();
    let name = |id: TestId| gathered.tests.iter().find(|it| it.id == id).map(|it| it.name.clone());
    let several = gathered.tests.len() > 1 && input.by != Some(Facet::Test);
    let row = |index: usize| {
        let member = &gathered.members[index];
        let said =
            [Facet::Variant, Facet::Criterion, Facet::Stage].map(|facet| member.said(facet).map(FacetValue::code));
        let test = several.then(|| name(member.test)).flatten();
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
            let title = |value: &str| match FacetValue::read(levels.facet, value) {
                None => "not stated".to_owned(),
                Some(FacetValue::Test(id)) => name(id).unwrap_or_default(),
                Some(words @ FacetValue::Words(_)) => words.code(),
                Some(choice) => choice.code().replace('_', " "),
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
        printed: today(),
    }
}
