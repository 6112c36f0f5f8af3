//! Pools that somebody puts together: which results are in, what they answer together, and what that depends on.

use std::collections::{HashMap, HashSet};
use std::sync::Arc;

use pruvex_core::accuracy::Counts;
use pruvex_core::catalogue::{Region, name_key};
use pruvex_core::evidence::{
    AgreementMember, Aspect, Facet, Judgement, Member, Offered, PooledAgreement, Selection, SnapshotTest, WhyOut,
    facets, pool_agreements, same_people,
};
use pruvex_core::pooling::{
    ComparisonError, Correction, Heterogeneity, LeftOut, LevelComparison, ModelChoice, PoolError, PoolOptions,
    PoolReading, Pooled, Prediction, Provenance, RocSpace, SmallStudyError, SmallStudyTest, Weight, compare_levels,
    each_left_out, heterogeneity, pool, prediction, read, roc_space, small_study_effects, weights,
};
use pruvex_core::{FieldError, FieldErrorCode, Level};
use pruvex_store::ConnectionTrait;
use pruvex_store::evidence as store;
use rocket::serde::json::Json;
use rocket::serde::{Deserialize, Serialize};
use rocket::{State, post};
use utoipa::ToSchema;
use uuid::Uuid;

use crate::body::JsonBody;
use crate::off::off;
use crate::people::Reader;
use crate::problem::{ApiError, Problem};
use crate::routes::catalogue::visible_test;
use crate::routes::pooling::{Evidence, Pools};
use crate::state::{AppState, Db};

/// More tests than this are no question that one pool answers.
const MOST_TESTS: usize = 20;

/// What is pooled.
#[derive(Debug, Clone, Deserialize, ToSchema)]
#[serde(crate = "rocket::serde", deny_unknown_fields)]
pub(crate) struct PoolInput {
    /// Whose results.
    pub tests: Vec<Uuid>,
    /// About which target condition; without it that of the first test.
    #[serde(default)]
    pub condition: Option<String>,
    #[serde(default)]
    pub selection: Selection,
    /// What the results are compared by.
    #[serde(default)]
    pub by: Option<Facet>,
    #[serde(default)]
    pub model: ModelChoice,
}

/// Why there is no pooled answer.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(crate = "rocket::serde", rename_all = "snake_case")]
pub(crate) enum NoPool {
    /// No result is left.
    NoResults,
    /// The model that was asked for has no maximum with these.
    NotIdentified,
    /// More than can be pooled.
    TooMany,
}

/// A result of the pool's tests.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct PoolRow {
    result: Uuid,
    /// Why it is not in the pool; `null` when it is.
    out: Option<WhyOut>,
    /// Its share of what is known.
    weight: Weight,
    /// The position of its value of the facet that is compared, also while it is switched off; `null` when it takes no part.
    level: Option<usize>,
}

/// What results can be chosen by.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct FacetView {
    facet: Facet,
    values: Vec<Offered>,
}

/// The results of one value of a facet, pooled by themselves.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct PoolLevel {
    /// The value; empty for "not said".
    pub value: String,
    /// At least one made-up result is in it.
    sample: bool,
    pub pooled: Option<Pooled>,
}

/// Why values are not compared.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(crate = "rocket::serde", rename_all = "snake_case")]
pub(crate) enum NoComparison {
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
#[serde(crate = "rocket::serde")]
pub(crate) struct SamePeople {
    /// The two values, by position.
    levels: [usize; 2],
    /// How many pairs of results.
    pairs: usize,
}

/// The results told apart by a facet.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct PoolLevels {
    pub facet: Facet,
    pub levels: Vec<PoolLevel>,
    /// All values in one model, the first as the one that others are compared with.
    comparison: Option<LevelComparison>,
    not_compared: Option<NoComparison>,
    same_people: Vec<SamePeople>,
}

/// What a pool answers.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct PoolAnswer {
    /// The condition that its results are about.
    condition: String,
    evidence: Evidence,
    /// At least one made-up result is in it.
    sample: bool,
    pooled: Option<Pooled>,
    not_pooled: Option<NoPool>,
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

/// A pool's results, in the order in which they were entered.
pub(super) struct Gathered {
    pub condition: String,
    /// The tests' names, in the order in which they were asked for.
    pub tests: Vec<SnapshotTest>,
    pub region: Region,
    pub members: Vec<Member>,
    pub versions: Vec<i32>,
    pub counts: Vec<Counts>,
    pub samples: Vec<bool>,
    pub studies: HashMap<Uuid, store::StudyRecord>,
    /// Studies whose reference standard includes the test.
    includes_test: HashSet<Uuid>,
}

pub(super) async fn gather(input: &PoolInput, by: &Reader, db: &impl ConnectionTrait) -> Result<Gathered, ApiError> {
    let refused = |code, message: String, remedy| {
        Err(ApiError::Fields(vec![FieldError::new("tests", code, input.tests.len(), message, remedy)]))
    };
    if input.tests.is_empty() {
        return refused(FieldErrorCode::Missing, "No test is chosen.".to_owned(), "Choose at least one.");
    }
    if input.tests.len() > MOST_TESTS {
        let message = format!("{} tests are chosen; at most {MOST_TESTS} can be pooled.", input.tests.len());
        return refused(FieldErrorCode::TooLong, message, "Choose fewer.");
    }
    let (mut taught, mut tests, mut region) = (HashMap::new(), Vec::new(), None);
    for id in &input.tests {
        let sheet = visible_test(db, *id, &by.0).await?.sheet;
        region.get_or_insert(sheet.region);
        tests.push(SnapshotTest { id: *id, name: sheet.name });
        taught.insert(*id, sheet.condition);
    }
    let own = input.tests.first().and_then(|id| taught.get(id)).cloned();
    let condition = input.condition.clone().or(own).unwrap_or_default();
    let key = name_key(&condition);
    let records = store::list_results(db, &input.tests).await?;
    let studies = store::get_studies(db, records.iter().map(|record| record.study_id)).await?;
    let ids: Vec<Uuid> = studies.keys().copied().collect();
    let appraisals = store::appraisals_of(db, &ids).await?;
    let appraisal =
        |study: &Uuid| appraisals.get(study)?.iter().find(|it| it.aspect == Aspect::Accuracy).map(|it| &it.appraisal);
    let risk = |study: &Uuid| -> Option<Judgement> { appraisal(study)?.overall(Aspect::Accuracy) };
    let includes_test = ids.iter().copied().filter(|id| appraisal(id).is_some_and(|it| it.includes_test())).collect();
    let (mut members, mut versions, mut counts, mut samples) = (Vec::new(), Vec::new(), Vec::new(), Vec::new());
    for record in &records {
        let Some(study) = studies.get(&record.study_id) else { continue };
        let about = match record.result.condition.as_str() {
            "" => taught.get(&record.test_id).map_or("", String::as_str),
            named => named,
        };
        let ids = [record.id, record.test_id, record.study_id];
        let risk = risk(&record.study_id);
        members.push(Member::of(ids, &record.result, &study.study, risk, name_key(about) != key));
        versions.push(record.version);
        counts.push(record.result.counts);
        samples.push(record.sample);
    }
    let region = region.ok_or(ApiError::Internal)?;
    Ok(Gathered { condition, tests, region, members, versions, counts, samples, studies, includes_test })
}

/// A pool's results chosen and pooled.
pub(super) struct Chosen {
    /// Why each result is out, in the order of the pool.
    pub out: Vec<Option<WhyOut>>,
    /// The counts of those that are in.
    pub counts: Vec<Counts>,
    pub pooled: Result<Pooled, NoPool>,
    pub ahead: Prediction,
    /// Every result's share of what is known, in the order of the pool.
    pub weights: Vec<Weight>,
}

impl Gathered {
    /// The results of one of the tests, with what was gathered of their studies.
    pub fn of_test(&self, test: Uuid) -> Self {
        let at: Vec<usize> = (0..self.members.len()).filter(|index| self.members[*index].test == test).collect();
        Self {
            condition: self.condition.clone(),
            tests: self.tests.iter().filter(|it| it.id == test).cloned().collect(),
            region: self.region,
            members: at.iter().map(|index| self.members[*index].clone()).collect(),
            versions: at.iter().map(|index| self.versions[*index]).collect(),
            counts: at.iter().map(|index| self.counts[*index]).collect(),
            samples: at.iter().map(|index| self.samples[*index]).collect(),
            studies: HashMap::new(),
            includes_test: self.includes_test.clone(),
        }
    }

    pub fn choose(&self, input: &PoolInput, pools: &Pools) -> Chosen {
        let out = input.selection.why_out(&self.members, None);
        let counts: Vec<Counts> = self.kept(&out).map(|index| self.counts[index]).collect();
        let pooled = pool_with(pools, &counts, input.model);
        let (ahead, shares) =
            pooled.as_ref().map(|pooled| (prediction(&counts, pooled), weights(&counts, pooled))).unwrap_or_default();
        let mut of_each = vec![Weight::default(); out.len()];
        self.kept(&out).zip(shares).for_each(|(index, share)| of_each[index] = share);
        Chosen { out, counts, pooled, ahead, weights: of_each }
    }

    /// The places of the results that are in.
    pub fn kept<'a>(&self, out: &'a [Option<WhyOut>]) -> impl Iterator<Item = usize> + use<'a> {
        out.iter().enumerate().filter(|(_, out)| out.is_none()).map(|(index, _)| index)
    }

    /// At least one result that is in is made up.
    pub fn sample(&self, out: &[Option<WhyOut>]) -> bool {
        self.kept(out).any(|index| self.samples[index])
    }
}

/// Of a study at high risk of bias.
fn high_risk(member: &Member) -> bool {
    member.says.get(&Facet::RiskOfBias).is_some_and(|risk| risk == "high")
}

/// What is known of the results that are in, beside their counts.
pub(super) fn provenance(gathered: &Gathered, out: &[Option<WhyOut>], agreement: &[PooledAgreement]) -> Provenance {
    let low = agreement.iter().filter(|it| it.low).min_by(|a, b| a.estimate.estimate.total_cmp(&b.estimate.estimate));
    let part: Vec<&Member> = gathered.kept(out).map(|index| &gathered.members[index]).collect();
    let standards: HashSet<String> =
        part.iter().map(|it| it.key(Facet::ReferenceStandard)).filter(|key| !key.is_empty()).collect();
    Provenance {
        high_risk: part.iter().filter(|it| high_risk(it)).count(),
        not_appraised: part.iter().filter(|it| !it.says.contains_key(&Facet::RiskOfBias)).count(),
        includes_test: part.iter().filter(|it| gathered.includes_test.contains(&it.study)).count(),
        standards: standards.len(),
        low_agreement: low.map(|it| (it.estimate.estimate, it.size.word)),
    }
}

/// An answer that many ask for is kept; one by another model is made for whoever asks.
pub(super) fn pool_with(pools: &Pools, counts: &Vec<Counts>, model: ModelChoice) -> Result<Pooled, NoPool> {
    if counts.is_empty() {
        return Err(NoPool::NoResults);
    }
    if model == ModelChoice::Auto
        && let Some(pooled) = pools.of(counts)
    {
        return Ok(Pooled::clone(&pooled));
    }
    pool(counts, PoolOptions { model, ..PoolOptions::default() }).map_err(|error| match error {
        PoolError::NoStudies => NoPool::NoResults,
        PoolError::TooMany(_) => NoPool::TooMany,
        PoolError::NotIdentified => NoPool::NotIdentified,
    })
}

/// The values of a facet among the results that take part, and each result's place among them. They are ordered by what all results of the
/// tests say, so that a value keeps its place, its shape and its colour while results are switched off and on.
fn levels_of(facet: Facet, members: &[Member], out: &[Option<WhyOut>]) -> (Vec<String>, Vec<Option<usize>>) {
    let part: HashSet<String> =
        members.iter().zip(out).filter(|(_, out)| out.is_none()).map(|(member, _)| member.key(facet)).collect();
    let all = facets(members).into_iter().find(|(it, _)| *it == facet).map(|(_, values)| values).unwrap_or_default();
    let mut values: Vec<String> =
        all.into_iter().map(|it| it.value).filter(|value| part.contains(&name_key(value))).collect();
    if values.is_empty() {
        // All say the same.
        let said = members.iter().zip(out).find(|(_, out)| out.is_none());
        values.extend(said.map(|(member, _)| member.says.get(&facet).cloned().unwrap_or_default()));
    }
    let keys: Vec<String> = values.iter().map(|value| name_key(value)).collect();
    let place = |(member, out): (&Member, &Option<WhyOut>)| {
        let key = member.key(facet);
        let shown = matches!(out, None | Some(WhyOut::SwitchedOff));
        shown.then(|| keys.iter().position(|it| *it == key)).flatten()
    };
    (values, members.iter().zip(out).map(place).collect())
}

pub(super) fn compared(
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
    let levels = values.iter().enumerate().map(|(level, value)| PoolLevel {
        value: value.clone(),
        sample: at(level).iter().any(|index| gathered.samples[*index]),
        pooled: pool_with(pools, &at(level).iter().map(|index| gathered.counts[*index]).collect(), model).ok(),
    });
    let levels: Vec<PoolLevel> = levels.collect();
    let counts: Vec<Counts> = part.iter().map(|index| gathered.counts[*index]).collect();
    let of: Vec<usize> = part.iter().filter_map(|index| places[*index]).collect();
    let found = compare_levels(&counts, &of, Level::default());
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
pub(super) fn pooled_agreements(agreements: &[store::AgreementRecord]) -> Vec<PooledAgreement> {
    let members: Vec<AgreementMember<'_>> = agreements
        .iter()
        .map(|it| AgreementMember { test: it.test_id, study: it.study_id, sample: it.sample, agreement: &it.agreement })
        .collect();
    pool_agreements(&members, Level::default())
}

/// What results of tests answer together, which of them are in and why each other one is not.
#[utoipa::path(context_path = "/api/v1", tag = "pooling", request_body = PoolInput,
    responses((status = 200, body = PoolAnswer), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[post("/pools/answer", data = "<input>")]
pub(crate) async fn answer_pool(
    by: Reader,
    input: JsonBody<PoolInput>,
    state: &State<AppState>,
    db: Db<'_>,
) -> Result<Json<PoolAnswer>, ApiError> {
    let input = input.0;
    let gathered = gather(&input, &by, db.0).await?;
    let agreements = store::list_agreements(db.0, &input.tests).await?;
    let pools = Arc::clone(&state.pools);
    let answer = off(move || {
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
            heterogeneity: pooled.as_ref().filter(|it| it.k > 1).map(|pooled| heterogeneity(&counts, pooled)),
            roc: pooled.as_ref().and_then(|pooled| roc_space(pooled, &counts)),
            pooled,
            facets: facets(&gathered.members).into_iter().map(|(facet, values)| FacetView { facet, values }).collect(),
            compared,
            agreement,
            condition: gathered.condition,
        }
    });
    Ok(Json(answer.await?))
}

/// Short names of the reports, by study.
pub(super) async fn reports(gathered: &Gathered, db: &impl ConnectionTrait) -> Result<HashMap<Uuid, String>, ApiError> {
    let wanted: HashSet<Uuid> = gathered.studies.values().filter_map(|it| it.study.reference_id).collect();
    let found = if wanted.is_empty() { Vec::new() } else { store::get_references(db, wanted).await? };
    let labels: HashMap<Uuid, String> = found.into_iter().map(|it| (it.id, it.reference.label())).collect();
    let named = |study: &store::StudyRecord| {
        let label = study.study.reference_id.and_then(|id| labels.get(&id).cloned());
        label.unwrap_or_else(|| study.study.reference.clone())
    };
    Ok(gathered.studies.iter().map(|(id, study)| (*id, named(study))).collect())
}

/// The pool without one of its results.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct WithoutResult {
    result: Uuid,
    #[serde(flatten)]
    rest: LeftOut,
}

/// The same results by one model.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct ModelAlternative {
    /// What was asked for; the answer says what could be fitted.
    choice: ModelChoice,
    pooled: Option<Pooled>,
}

/// Part of the results pooled by themselves.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct PartPooled {
    /// How many results are left out of it.
    left_out: usize,
    /// `null` when none remains.
    pooled: Option<Pooled>,
}

/// Why small-study effects are not tested.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(crate = "rocket::serde", rename_all = "snake_case")]
pub(crate) enum NotTested {
    /// Too few results for the test to be relied on.
    TooFew,
    /// All are equally large.
    NoSpread,
}

/// How much a pool's answer depends on choices and on single results.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct PoolSensitivity {
    /// In the order of the pool; empty below two results.
    without: Vec<WithoutResult>,
    alternatives: Vec<ModelAlternative>,
    /// Without results of studies at high risk of bias.
    without_high_risk: PartPooled,
    /// Without results that report one group only.
    without_one_armed: PartPooled,
    small_studies: Option<SmallStudyTest>,
    small_studies_untested: Option<NotTested>,
}

/// How much the answer of a pool depends on the model, on single results and on the risk of bias. Whoever asks this of the same tests anew
/// before it is answered ends it: 409.
#[utoipa::path(context_path = "/api/v1", tag = "pooling", request_body = PoolInput,
    responses((status = 200, body = PoolSensitivity), (status = 404, body = Problem), (status = 409, body = Problem),
        (status = 422, body = Problem)))]
#[post("/pools/sensitivity", data = "<input>")]
pub(crate) async fn try_pool(
    by: Reader,
    input: JsonBody<PoolInput>,
    state: &State<AppState>,
    db: Db<'_>,
) -> Result<Json<PoolSensitivity>, ApiError> {
    let input = input.0;
    let gathered = gather(&input, &by, db.0).await?;
    let pools = Arc::clone(&state.pools);
    let computation = state.latest.begin(by.0.id, &input.tests);
    let tried = off(move || {
        let out = input.selection.why_out(&gathered.members, None);
        let places: Vec<usize> = gathered.kept(&out).collect();
        let counts: Vec<Counts> = places.iter().map(|index| gathered.counts[*index]).collect();
        let options = PoolOptions { model: input.model, ..PoolOptions::default() };
        let mut without = Vec::new();
        if let Ok(each) = each_left_out(&counts, options) {
            for rest in each {
                if computation.is_called_off() {
                    return Err(ApiError::Superseded);
                }
                without.extend(rest);
            }
        }
        let choices = [ModelChoice::Bivariate, ModelChoice::Independent, ModelChoice::Fixed, ModelChoice::NormalReml];
        let part = |keep: &dyn Fn(usize) -> bool| {
            let rest: Vec<Counts> =
                places.iter().filter(|index| keep(**index)).map(|index| gathered.counts[*index]).collect();
            PartPooled { left_out: places.len() - rest.len(), pooled: pool_with(&pools, &rest, input.model).ok() }
        };
        let armed = |index: usize| gathered.counts[index].has_both_arms();
        let small = small_study_effects(&counts, Correction::default());
        Ok(PoolSensitivity {
            without: without
                .into_iter()
                .filter_map(|rest| Some(WithoutResult { result: gathered.members[*places.get(rest.study)?].id, rest }))
                .collect(),
            alternatives: choices
                .into_iter()
                .map(|choice| ModelAlternative { choice, pooled: pool_with(&pools, &counts, choice).ok() })
                .collect(),
            without_high_risk: part(&|index| !high_risk(&gathered.members[index])),
            without_one_armed: part(&armed),
            small_studies_untested: small.as_ref().err().map(|error| match error {
                SmallStudyError::TooFew(_) => NotTested::TooFew,
                SmallStudyError::NoSpread => NotTested::NoSpread,
            }),
            small_studies: small.ok(),
        })
    });
    Ok(Json(tried.await??))
}
