//! Pools that somebody puts together: what the chosen results answer.

use std::collections::HashSet;
use std::sync::Arc;

use pruvex_core::accuracy::Counts;
use pruvex_core::evidence::{
    AgreementMember, Facet, FacetValue, Member, PooledAgreement, Selection, WhyOut, facets, pool_agreements,
    same_people,
};
use pruvex_core::pooling::{
    ComparisonError, Heterogeneity, IntervalMethod, LevelComparison, ModelChoice, PoolReading, Pooled, Prediction,
    PriorScales, RocSpace, Weight, compare_levels, heterogeneity, methods_paragraph, read, roc_space,
};
use pruvex_core::{Level, ResultId};
use pruvex_store::evidence as store;
use rayon::prelude::*;
use serde::Serialize;
use utoipa::ToSchema;

use super::Pools;
use super::backing::Evidence;
use super::gather::{Chosen, Gathered, NoPool, PoolInput, gather, pool_with, provenance};
use crate::blocking::blocking;
use crate::people::{Reader, seen_by};
use crate::{App, AppError};

/// A result of the pool's tests.
#[derive(Debug, Serialize, ToSchema)]
pub struct PoolRow {
    result: ResultId,
    /// Why it is not in the pool; `null` when it is.
    out: Option<WhyOut>,
    /// Its share of what is known.
    weight: Weight,
    /// The position of its value of the facet that is compared, also while it is switched off; `null` when it takes no part.
    level: Option<usize>,
}

/// What results can be chosen by.
#[derive(Debug, Serialize, ToSchema)]
pub struct FacetView {
    facet: Facet,
    values: Vec<Offered>,
}

/// A value of a facet, and how many results say it.
#[derive(Debug, Serialize, ToSchema)]
pub struct Offered {
    /// As it was first written; empty for "not said".
    value: String,
    results: usize,
}

impl From<(Facet, Vec<pruvex_core::evidence::Offered>)> for FacetView {
    fn from((facet, values): (Facet, Vec<pruvex_core::evidence::Offered>)) -> Self {
        let offered =
            |it: pruvex_core::evidence::Offered| Offered { value: written(it.value.as_ref()), results: it.results };
        Self { facet, values: values.into_iter().map(offered).collect() }
    }
}

/// The results of one value of a facet.
#[derive(Debug, Serialize, ToSchema)]
pub struct PoolLevel {
    /// The value; empty for "not said".
    pub(crate) value: String,
    /// At least one made-up result is in it.
    sample: bool,
    /// Its results by themselves; the measures are those of the joint model, where the values are compared.
    pub(crate) pooled: Option<Pooled>,
}

/// Why values are not compared.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum NoComparison {
    /// All results say the same.
    OneLevel,
    /// More values than can be compared.
    TooManyLevels,
    /// Some value has no error in either group.
    NoFiniteMaximum,
    /// The model is not identified.
    NotIdentified,
}

/// Results that one study reports of two values in the same people.
#[derive(Debug, Serialize, ToSchema)]
pub struct SamePeople {
    /// The two values, by position.
    levels: [usize; 2],
    /// How many pairs of results.
    pairs: usize,
}

/// The results told apart by a facet.
#[derive(Debug, Serialize, ToSchema)]
pub struct PoolLevels {
    pub(crate) facet: Facet,
    pub(crate) levels: Vec<PoolLevel>,
    /// All values in one model, the first as the one that others are compared with.
    comparison: Option<LevelComparison>,
    not_compared: Option<NoComparison>,
    same_people: Vec<SamePeople>,
}

/// What a pool answers.
#[derive(Debug, Serialize, ToSchema)]
pub struct PoolAnswer {
    /// The condition that its results are about.
    condition: String,
    evidence: Evidence,
    /// At least one made-up result is in it.
    sample: bool,
    pooled: Option<Pooled>,
    not_pooled: Option<NoPool>,
    /// What was done, for a methods section; `null` without an answer.
    methods: Option<String>,
    prediction: Prediction,
    /// What it says in words; `null` without an answer.
    reading: Option<PoolReading>,
    heterogeneity: Option<Heterogeneity>,
    /// Where sensitivity and specificity were modelled together.
    roc: Option<RocSpace>,
    rows: Vec<PoolRow>,
    facets: Vec<FacetView>,
    compared: Option<PoolLevels>,
    /// How far examiners, or occasions, agree on these tests.
    agreement: Vec<PooledAgreement>,
}

/// A value as it stands in answers: an empty text for "not said".
fn written(value: Option<&FacetValue>) -> String {
    value.map(FacetValue::code).unwrap_or_default()
}

/// The values of a facet among the results that take part, and each result's place among them. They are ordered by what all results of the
/// tests say, so that a value keeps its place, its shape and its colour while results are switched off and on.
fn levels_of(
    facet: Facet,
    members: &[Member],
    out: &[Option<WhyOut>],
) -> (Vec<Option<FacetValue>>, Vec<Option<usize>>) {
    let part: HashSet<Option<&FacetValue>> =
        members.iter().zip(out).filter(|(_, out)| out.is_none()).map(|(member, _)| member.said(facet)).collect();
    let all = facets(members).into_iter().find(|(it, _)| *it == facet).map(|(_, values)| values).unwrap_or_default();
    let mut values: Vec<Option<FacetValue>> =
        all.into_iter().map(|it| it.value).filter(|value| part.contains(&value.as_ref())).collect();
    if values.is_empty() {
        // All say the same.
        let said = members.iter().zip(out).find(|(_, out)| out.is_none());
        values.extend(said.map(|(member, _)| member.said(facet).cloned()));
    }
    let place = |(member, out): (&Member, &Option<WhyOut>)| {
        let shown = matches!(out, None | Some(WhyOut::SwitchedOff));
        shown.then(|| values.iter().position(|it| it.as_ref() == member.said(facet))).flatten()
    };
    let places = members.iter().zip(out).map(place).collect();
    (values, places)
}

pub(crate) fn compared(
    facet: Facet,
    gathered: &Gathered,
    selection: &Selection,
    model: ModelChoice,
    pools: &Pools,
) -> (PoolLevels, Vec<Option<usize>>) {
    let out = selection.why_out(&gathered.members, Some(facet));
    let (values, places) = levels_of(facet, &gathered.members, &out);
    let part: Vec<usize> =
        (0..places.len()).filter(|index| out[*index].is_none() && places[*index].is_some()).collect();
    let at = |level: usize| part.iter().copied().filter(|index| places[*index] == Some(level)).collect::<Vec<usize>>();
    let levels = values.par_iter().enumerate().map(|(level, value)| PoolLevel {
        value: written(value.as_ref()),
        sample: at(level).iter().any(|index| gathered.samples[*index]),
        pooled: {
            let counts: Vec<Counts> = at(level).iter().map(|index| gathered.counts[*index]).collect();
            pool_with(pools, &counts, model, gathered.interval).ok()
        },
    });
    let mut levels: Vec<PoolLevel> = levels.collect();
    let counts: Vec<Counts> = part.iter().map(|index| gathered.counts[*index]).collect();
    let of: Vec<usize> = part.iter().filter_map(|index| places[*index]).collect();
    let found = compare_levels(&counts, &of, Level::default());
    // As the pool itself is.
    let found = found.map(|found| match gathered.interval.method(model, counts.len()) {
        IntervalMethod::Posterior => found.by_posterior(&counts, &of, PriorScales::default()),
        _ => found,
    });
    // One value, one figure: the forest shows what the comparison below it says.
    for (level, of) in levels.iter_mut().zip(found.iter().flat_map(|found| &found.levels)) {
        if let Some(pooled) = &mut level.pooled {
            pooled.summary = of.summary;
        }
    }
    let not_compared = found.as_ref().err().map(|error| match error {
        ComparisonError::Levels(0 | 1) | ComparisonError::Pool(_) => NoComparison::OneLevel,
        ComparisonError::Levels(_) => NoComparison::TooManyLevels,
        ComparisonError::NoFiniteMaximum => NoComparison::NoFiniteMaximum,
        ComparisonError::NotIdentified | ComparisonError::Lengths { .. } => NoComparison::NotIdentified,
    });
    let members: Vec<&Member> = part.iter().map(|index| &gathered.members[*index]).collect();
    let same_people =
        same_people(&members, &of).into_iter().map(|(levels, pairs)| SamePeople { levels, pairs }).collect();
    (PoolLevels { facet, levels, comparison: found.ok(), not_compared, same_people }, places)
}

/// Agreement results by test and by kind.
pub(crate) fn pooled_agreements(agreements: &[store::AgreementRecord]) -> Vec<PooledAgreement> {
    let members: Vec<AgreementMember<'_>> = agreements
        .iter()
        .map(|it| AgreementMember { test: it.test_id, study: it.study_id, sample: it.sample, agreement: &it.agreement })
        .collect();
    pool_agreements(&members, Level::default())
}

/// What results of tests answer together, which of them are in and why each other one is not.
///
/// # Errors
/// No test, too many, or one that this person may not see.
pub async fn answer_pool(app: &App, by: &Reader, input: PoolInput) -> Result<PoolAnswer, AppError> {
    let gathered = gather(&input, by.account(), &app.db).await?;
    let agreements = store::list_agreements(&app.db, &input.tests, seen_by(by.role(), &app.db).await?).await?;
    let pools = Arc::clone(&app.pools);
    let answer = blocking(move || {
        let agreement = pooled_agreements(&agreements);
        let Chosen { out, counts, pooled, ahead, weights } = gathered.choose(&input, &pools);
        let (not_pooled, pooled) = (pooled.as_ref().err().copied(), pooled.ok());
        let by = input.by.map(|facet| compared(facet, &gathered, &input.selection, input.model, &pools));
        let (compared, places) = by.map_or((None, Vec::new()), |(compared, places)| (Some(compared), places));
        let rows = gathered.members.iter().enumerate().map(|(index, member)| PoolRow {
            result: member.id,
            out: out[index],
            weight: weights[index],
            level: places.get(index).copied().flatten(),
        });
        PoolAnswer {
            rows: rows.collect(),
            evidence: Evidence::of(counts.len()),
            sample: gathered.sample(&out),
            not_pooled,
            reading: pooled
                .as_ref()
                .map(|pooled| read(&counts, pooled, &ahead, provenance(&gathered, &out, &agreement))),
            prediction: ahead,
            methods: pooled.as_ref().map(methods_paragraph),
            heterogeneity: pooled.as_ref().filter(|it| it.k > 1).map(|pooled| heterogeneity(&counts, pooled)),
            roc: pooled.as_ref().and_then(|pooled| roc_space(pooled, &counts)),
            pooled,
            facets: facets(&gathered.members).into_iter().map(FacetView::from).collect(),
            compared,
            agreement,
            condition: gathered.condition,
        }
    });
    answer.await
}
