//! What a pool that somebody puts together is made of: which results are in, and why each other one is not.

use std::collections::{HashMap, HashSet};

use pruvex_core::accuracy::{Counts, Flow, Uninterpretable};
use pruvex_core::catalogue::Region;
use pruvex_core::evidence::{
    Aspect, Facet, FacetValue, Judgement, Member, PooledAgreement, Selection, SnapshotTest, WhyOut,
};
use pruvex_core::pooling::{
    IntervalChoice, ModelChoice, PoolError, PoolOptions, Pooled, Prediction, Provenance, Weight, pool, prediction,
    weights,
};
use pruvex_core::{FieldErrorCode, StudyId, TestId};
use pruvex_store::ConnectionTrait;
use pruvex_store::evidence as store;
use pruvex_store::people::Account;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

use super::Pools;
use crate::AppError;
use crate::catalogue::visible_test;
use crate::people::{current_settings, seen_by};

/// More tests than this are no question that one pool answers.
const MOST_TESTS: usize = 20;

/// What is pooled.
#[derive(Debug, Clone, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PoolInput {
    /// Whose results.
    pub tests: Vec<TestId>,
    /// About which target condition; without it that of the first test.
    #[serde(default)]
    pub condition: Option<String>,
    /// Which results of these tests.
    #[serde(default)]
    pub selection: Selection,
    /// What the results are compared by.
    #[serde(default)]
    pub by: Option<Facet>,
    /// By which model.
    #[serde(default)]
    pub model: ModelChoice,
    /// With which intervals; those that the administrator chose unless said.
    #[serde(default)]
    pub interval: Option<IntervalChoice>,
}

/// Why there is no pooled answer.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum NoPool {
    /// No result is left.
    NoResults,
    /// The model that was asked for has no maximum with these.
    NotIdentified,
    /// More than can be pooled.
    TooMany,
    /// The intervals that were asked for do not go with this model or these results.
    NoInterval,
}

/// A pool's results, in the order in which they were entered.
pub(crate) struct Gathered {
    pub condition: String,
    /// The tests' names, in the order in which they were asked for.
    pub tests: Vec<SnapshotTest>,
    pub region: Region,
    pub members: Vec<Member>,
    pub versions: Vec<i32>,
    pub counts: Vec<Counts>,
    /// Who is in none of the cells.
    pub flows: Vec<Flow>,
    pub samples: Vec<bool>,
    pub studies: HashMap<StudyId, store::StudyRecord>,
    /// Studies whose reference standard includes the test.
    includes_test: HashSet<StudyId>,
    /// The intervals asked for.
    pub interval: IntervalChoice,
}

pub(crate) async fn gather(input: &PoolInput, by: &Account, db: &impl ConnectionTrait) -> Result<Gathered, AppError> {
    let refused =
        |code, message: String, remedy| Err(AppError::field("tests", code, input.tests.len(), message, remedy));
    if input.tests.is_empty() {
        return refused(FieldErrorCode::Missing, "No test is chosen.".to_owned(), "Choose at least one.");
    }
    if input.tests.len() > MOST_TESTS {
        let message = format!("{} tests are chosen; at most {MOST_TESTS} can be pooled.", input.tests.len());
        return refused(FieldErrorCode::TooLong, message, "Choose fewer.");
    }
    let (mut taught, mut tests, mut region) = (HashMap::new(), Vec::new(), None);
    for id in &input.tests {
        let sheet = visible_test(db, *id, by).await?.sheet;
        region.get_or_insert(sheet.region);
        tests.push(SnapshotTest { id: *id, name: sheet.name });
        taught.insert(*id, sheet.condition);
    }
    let own = input.tests.first().and_then(|id| taught.get(id)).cloned();
    let condition = input.condition.clone().or(own).unwrap_or_default();
    let records = store::list_results(db, &input.tests, seen_by(by.role, db).await?).await?;
    let studies = store::get_studies(db, records.iter().map(|record| record.study_id)).await?;
    let ids: Vec<StudyId> = studies.keys().copied().collect();
    let appraisals = store::appraisals_of(db, &ids).await?;
    let appraisal = |study: &StudyId| {
        appraisals.get(study)?.iter().find(|it| it.aspect == Aspect::Accuracy).map(|it| &it.appraisal)
    };
    let risk = |study: &StudyId| -> Option<Judgement> { appraisal(study)?.overall(Aspect::Accuracy) };
    let includes_test = ids.iter().copied().filter(|id| appraisal(id).is_some_and(|it| it.includes_test())).collect();
    let (mut members, mut versions, mut samples) = (Vec::new(), Vec::new(), Vec::new());
    let (mut counts, mut flows) = (Vec::new(), Vec::new());
    for record in &records {
        let Some(study) = studies.get(&record.study_id) else { continue };
        let ids = (record.id, record.test_id, record.study_id);
        let risk = risk(&record.study_id);
        let taught = taught.get(&record.test_id).map_or("", String::as_str);
        members.push(Member::of(ids, &record.result, &study.study, risk, taught, &condition));
        versions.push(record.version);
        counts.push(record.result.counts);
        flows.push(record.result.flow);
        samples.push(record.sample);
    }
    let region = region.ok_or_else(|| AppError::internal("a pool of no test"))?;
    let interval = match input.interval {
        Some(interval) => interval,
        None => current_settings(db).await?.interval,
    };
    Ok(Gathered {
        condition,
        tests,
        region,
        members,
        versions,
        counts,
        flows,
        samples,
        studies,
        includes_test,
        interval,
    })
}

/// A pool's results chosen and pooled.
pub(crate) struct Chosen {
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
    pub fn of_test(&self, test: TestId) -> Self {
        let at: Vec<usize> = (0..self.members.len()).filter(|index| self.members[*index].test == test).collect();
        Self {
            condition: self.condition.clone(),
            tests: self.tests.iter().filter(|it| it.id == test).cloned().collect(),
            region: self.region,
            members: at.iter().map(|index| self.members[*index].clone()).collect(),
            versions: at.iter().map(|index| self.versions[*index]).collect(),
            counts: at.iter().map(|index| self.counts[*index]).collect(),
            flows: at.iter().map(|index| self.flows[*index]).collect(),
            samples: at.iter().map(|index| self.samples[*index]).collect(),
            studies: HashMap::new(),
            includes_test: self.includes_test.clone(),
            interval: self.interval,
        }
    }

    pub fn choose(&self, input: &PoolInput, pools: &Pools) -> Chosen {
        let out = input.selection.why_out(&self.members, None);
        let counts: Vec<Counts> = self.kept(&out).map(|index| self.counts[index]).collect();
        let pooled = pool_with(pools, &counts, input.model, self.interval);
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
pub(crate) fn high_risk(member: &Member) -> bool {
    member.said(Facet::RiskOfBias) == Some(&FacetValue::RiskOfBias(Judgement::High))
}

/// What is known of the results that are in, beside their counts.
pub(crate) fn provenance(gathered: &Gathered, out: &[Option<WhyOut>], agreement: &[PooledAgreement]) -> Provenance {
    let low = agreement.iter().filter(|it| it.low).min_by(|a, b| a.estimate.estimate.total_cmp(&b.estimate.estimate));
    let part: Vec<&Member> = gathered.kept(out).map(|index| &gathered.members[index]).collect();
    let told: Vec<(&Counts, &Flow)> =
        gathered.kept(out).map(|index| (&gathered.counts[index], &gathered.flows[index])).collect();
    let standards: HashSet<&FacetValue> = part.iter().filter_map(|it| it.said(Facet::ReferenceStandard)).collect();
    Provenance {
        high_risk: part.iter().filter(|it| high_risk(it)).count(),
        not_appraised: part.iter().filter(|it| it.said(Facet::RiskOfBias).is_none()).count(),
        includes_test: part.iter().filter(|it| gathered.includes_test.contains(&it.study)).count(),
        negatives_unverified: told.iter().filter(|(counts, flow)| flow.hardly_verified(counts)).count(),
        uninterpretable: Uninterpretable::among(told),
        standards: standards.len(),
        low_agreement: low.map(|it| (it.estimate.estimate, it.size.word)),
    }
}

/// An answer that many ask for is kept; one by another model is made for whoever asks.
pub(crate) fn pool_with(
    pools: &Pools,
    counts: &[Counts],
    model: ModelChoice,
    interval: IntervalChoice,
) -> Result<Pooled, NoPool> {
    if counts.is_empty() {
        return Err(NoPool::NoResults);
    }
    if model == ModelChoice::Auto
        && let Some(pooled) = pools.of(counts, interval)
    {
        return Ok(Pooled::clone(&pooled));
    }
    pool(counts, PoolOptions { model, interval, ..PoolOptions::default() }).map_err(|error| match error {
        PoolError::NoStudies => NoPool::NoResults,
        PoolError::TooMany(_) | PoolError::TooManyForPosterior(_) => NoPool::TooMany,
        PoolError::NotIdentified => NoPool::NotIdentified,
        PoolError::NoPosterior | PoolError::NoSandwich | PoolError::SandwichOfAnother => NoPool::NoInterval,
    })
}

/// Short names of the reports of these studies.
pub(crate) async fn reports(
    studies: &HashMap<StudyId, store::StudyRecord>,
    db: &impl ConnectionTrait,
) -> Result<HashMap<StudyId, String>, AppError> {
    let wanted: HashSet<Uuid> = studies.values().filter_map(|it| it.study.reference_id).collect();
    let found = if wanted.is_empty() { Vec::new() } else { store::get_references(db, wanted).await? };
    let labels: HashMap<Uuid, String> = found.into_iter().map(|it| (it.id, it.reference.label())).collect();
    let named = |study: &store::StudyRecord| {
        let label = study.study.reference_id.and_then(|id| labels.get(&id).cloned());
        label.unwrap_or_else(|| study.study.reference.clone())
    };
    Ok(studies.iter().map(|(id, study)| (*id, named(study))).collect())
}
