//! Bundles into the database, all of it or nothing, and out of it.

use std::collections::{HashMap, HashSet};

use pruvex_core::catalogue::{Condition, Region, Sheet, Status, TeachingConflict, name_key};
use pruvex_core::evidence::{AccuracyResult, Study, Together};
use pruvex_core::plan::ExaminationPlan;
use pruvex_core::{FieldError, FieldErrorCode, ResultId, StudyId, TestId};
use pruvex_formats::{
    Bundle, BundleAgreement, BundleConflict, BundleExtraction, BundlePlan, BundleReading, BundleReference,
    BundleResult, BundleSettled, BundleStudy, BundleTest, BundleTogether,
};
use sea_orm::{ConnectionTrait, DatabaseTransaction};
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

use super::existing::Existing;
use crate::StoreError;
use crate::catalogue::{
    TestRecord, create_tests, get_tests, list_tests, named_tests, taken_names, tests_by_any_name, update_test,
};
use crate::condition::{list_conditions, put_condition};
use crate::evidence::{
    AgreementRecord, AppraisalRecord, BroughtExtraction, DoubleExtraction, NewAgreement, NewDoubleExtraction,
    NewResult, ReferenceQuery, ReferenceRecord, ResultRecord, Seen, StudyRecord, appraisals_of, bring_extractions,
    bring_references, checked, create_agreements, create_appraisals, create_results, create_studies,
    extractions_for_file, get_references, get_studies, list_agreements, list_references, list_results,
};
use crate::history::{Act, PORTION, alone};
use crate::landing::{ImportKind, Landing, Since};
use crate::plan::{PlanReader, create_plan, list_plan_summaries, list_plans};
use crate::progress::{ImportPhase, Step};
use crate::teaching_conflict::{create_teaching_conflict, list_teaching_conflicts};
use crate::vocabulary::{create_structure, list_structures};

/// What to do with tests that are there already and say something else.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Meeting {
    /// Import nothing.
    Refuse,
    /// Keep what is there; only results that are not there yet come in.
    Keep,
    /// Replace what is there by the bundle's sheet; its history keeps both.
    Replace,
    /// Replace only those of these names.
    Chosen(HashSet<String>),
}

/// How a test of a bundle meets what is there.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Fate {
    /// Nothing of this name is there.
    New,
    /// The very same sheet is there.
    Same,
    /// Another text is there under this name.
    Changed,
}

/// What became, or would become, of one test.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct ImportedTest {
    /// Its name.
    pub name: String,
    /// How it meets what is there.
    pub fate: Fate,
    /// Whether its sheet is written.
    pub written: bool,
    /// Results of accuracy that come in.
    pub results: usize,
    /// Results of accuracy that are there already.
    pub known_results: usize,
    /// Agreement results that come in.
    pub agreements: usize,
}

/// What an import brought, or would bring.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Imported {
    /// What the bundle calls itself.
    pub title: String,
    /// Its studies are made up.
    pub sample: bool,
    /// Conditions added or completed.
    pub conditions: usize,
    /// Structures added.
    pub structures: usize,
    /// References added.
    pub references: usize,
    /// Studies added.
    pub studies: usize,
    /// Entries of the register of conflicting teaching added.
    pub teaching_conflicts: usize,
    /// Plans of examinations added.
    pub plans: usize,
    /// Its tests in their order.
    pub tests: Vec<ImportedTest>,
}

impl Imported {
    /// Results of accuracy that come in.
    #[must_use]
    pub fn results(&self) -> usize {
        self.tests.iter().map(|test| test.results).sum()
    }

    /// Agreement results that come in.
    #[must_use]
    pub fn agreements(&self) -> usize {
        self.tests.iter().map(|test| test.agreements).sum()
    }
}

/// Imports a bundle in this transaction, and ends it. Without `landing` everything is tried and then undone. Sample data that nobody asked
/// for by hand (`by` is none) counts as published; all else comes in as drafts. `step` is told what is done, and of how many; when it answers
/// no, all is taken back and nothing is answered.
///
/// # Errors
/// [`StoreError::Fields`] with every name that is taken and its path in the bundle; nothing is changed then.
pub async fn import(
    transaction: DatabaseTransaction,
    bundle: &Bundle,
    meeting: &Meeting,
    act: Act<'_>,
    landing: Option<Landing<'_>>,
    step: &Step<'_>,
) -> Result<Option<Imported>, StoreError> {
    let whole = Written::none_of(bundle).of;
    let brought = bring(&transaction, bundle, meeting, act, landing, step).await?;
    // The last moment to stop is before the transaction ends.
    let imported = brought.filter(|_| step(ImportPhase::Writing, whole, whole));
    if imported.is_some() && landing.is_some() {
        transaction.commit().await?;
    } else {
        transaction.rollback().await?;
    }
    Ok(imported)
}

/// How much of a bundle is written: its sheets, results and agreement results.
struct Written {
    done: usize,
    of: usize,
}

impl Written {
    fn none_of(bundle: &Bundle) -> Self {
        Self { done: 0, of: bundle.tests.iter().map(|test| 1 + test.results.len() + test.agreements.len()).sum() }
    }

    /// Tells how far it is; answers whether to go on.
    fn tell(&self, step: &Step<'_>) -> bool {
        step(ImportPhase::Writing, self.done, self.of)
    }
}

async fn bring(
    db: &impl ConnectionTrait,
    bundle: &Bundle,
    meeting: &Meeting,
    act: Act<'_>,
    landing: Option<Landing<'_>>,
    step: &Step<'_>,
) -> Result<Option<Imported>, StoreError> {
    alone(db).await?;
    let since = Since::now(db).await?;
    let mut conditions = 0;
    for condition in &bundle.conditions {
        conditions += usize::from(put_condition(db, condition, act).await?.1);
    }
    let structures = bring_structures(db, bundle, act).await?;
    let Some(works) = bring_references(db, &bundle.references, act, step).await? else { return Ok(None) };
    let mut errors: Vec<(usize, FieldError)> = Vec::new();
    let mut known = named_tests(db, bundle.tests.iter().map(|test| test.sheet.name.as_str())).await?;
    let mut outcomes: Vec<Outcome> = Vec::with_capacity(bundle.tests.len());
    for (index, test) in bundle.tests.iter().enumerate() {
        if index % PORTION == 0 && !step(ImportPhase::Comparing, index, bundle.tests.len()) {
            return Ok(None);
        }
        let outcome = match known.remove(&name_key(&test.sheet.name)) {
            None => Outcome { id: TestId::default(), fate: Fate::New, written: true },
            Some(record) if record.sheet == test.sheet => Outcome { id: record.id, fate: Fate::Same, written: false },
            Some(TestRecord { id, version, .. }) => {
                let written = meeting.replaces(&test.sheet.name);
                if written {
                    match update_test(db, id, version, &test.sheet, act).await {
                        Err(StoreError::Fields(found)) => errors.extend(found.into_iter().map(|error| (index, error))),
                        other => drop(other?),
                    }
                } else if *meeting == Meeting::Refuse && landing.is_some() {
                    let message = "A test of this name is in the catalogue with a different text.";
                    let remedy = "Choose whether to keep it or to replace it.";
                    let code = FieldErrorCode::Duplicate;
                    errors.push((index, FieldError::new("name", code, &test.sheet.name, message, remedy)));
                }
                Outcome { id, fate: Fate::Changed, written }
            }
        };
        outcomes.push(outcome);
    }
    let fresh: Vec<usize> = (0..outcomes.len()).filter(|index| outcomes[*index].fate == Fate::New).collect();
    let sheets: Vec<(&Sheet, bool)> =
        fresh.iter().map(|index| &bundle.tests[*index]).map(|test| (&test.sheet, test.sample)).collect();
    let named: Vec<(TestId, &Sheet)> = sheets.iter().map(|(sheet, _)| (TestId::default(), *sheet)).collect();
    errors.extend(taken_names(db, &named).await?.into_iter().map(|(position, error)| (fresh[position], error)));
    if !errors.is_empty() {
        errors.sort_by_key(|(index, _)| *index);
        let placed = |(index, error): (usize, FieldError)| error.within(&format!("tests[{index}].sheet."));
        return Err(StoreError::Fields(errors.into_iter().map(placed).collect()));
    }
    let mut written = Written::none_of(bundle);
    for (places, sheets) in fresh.chunks(PORTION).zip(sheets.chunks(PORTION)) {
        if !written.tell(step) {
            return Ok(None);
        }
        for (index, id) in places.iter().zip(create_tests(db, sheets, act).await?) {
            outcomes[*index].id = id;
        }
        written.done += sheets.len();
    }
    written.done = bundle.tests.len();
    let brought = bring_results(db, bundle, &outcomes, &works.ids, act, written, step).await?;
    let Some((tests, studies, extractions)) = brought else { return Ok(None) };
    let ids = named_by(db, bundle, &outcomes).await?;
    let teaching_conflicts = bring_conflicts(db, bundle, &ids, act).await?;
    let plans = bring_plans(db, bundle, &ids, act).await?;
    if let Some(landing) = landing {
        landing.keep(db, ImportKind::Bundle, since, &extractions, act).await?;
    }
    let (title, sample, references) = (bundle.title.clone(), bundle.sample, works.added);
    Ok(Some(Imported { title, sample, conditions, structures, references, studies, teaching_conflicts, plans, tests }))
}

/// Tests of the bundle and of the catalogue, under the compared forms of the names by which its register and its plans know them.
async fn named_by(
    db: &impl ConnectionTrait,
    bundle: &Bundle,
    outcomes: &[Outcome],
) -> Result<HashMap<String, TestId>, StoreError> {
    let own = bundle.tests.iter().zip(outcomes).map(|(test, outcome)| (name_key(&test.sheet.name), outcome.id));
    let mut ids: HashMap<String, TestId> = own.collect();
    let of_register = bundle.teaching_conflicts.iter().flat_map(|it| &it.tests);
    let named = of_register.chain(bundle.plans.iter().flat_map(|it| &it.names)).map(String::as_str);
    for (key, record) in tests_by_any_name(db, named).await? {
        ids.entry(key).or_insert(record.id);
    }
    Ok(ids)
}

fn no_test(field: String, name: &str) -> FieldError {
    let message = "Neither this file nor the catalogue has a test of this name.";
    FieldError::new(field, FieldErrorCode::Unknown, name, message, "Correct the name, or leave it out.")
}

/// Adds the plans whose titles their regions do not have yet; answers how many.
async fn bring_plans(
    db: &impl ConnectionTrait,
    bundle: &Bundle,
    ids: &HashMap<String, TestId>,
    act: Act<'_>,
) -> Result<usize, StoreError> {
    if bundle.plans.is_empty() {
        return Ok(0);
    }
    let titled = |plan: &ExaminationPlan| (plan.region, name_key(&plan.title));
    let known = list_plan_summaries(db, PlanReader::Drafts, None).await?;
    let known: HashSet<(Region, String)> = known.iter().map(|it| (it.region, name_key(&it.title))).collect();
    let (mut errors, mut added) = (Vec::new(), 0);
    for (index, it) in bundle.plans.iter().enumerate().filter(|(_, it)| !known.contains(&titled(&it.plan))) {
        match it.with_tests(|name| ids.get(&name_key(name)).copied()) {
            Err(place) => errors.push(no_test(format!("plans[{index}].tests[{place}].name"), &it.names[place])),
            Ok(plan) => match create_plan(db, &plan, it.sample, act).await {
                Err(StoreError::Fields(found)) => {
                    errors.extend(found.into_iter().map(|error| error.within(&format!("plans[{index}].plan."))));
                }
                other => drop(other?),
            },
        }
        added += 1;
    }
    if errors.is_empty() { Ok(added) } else { Err(StoreError::Fields(errors)) }
}

/// Files the entries of the register whose questions their regions do not ask yet; answers how many.
async fn bring_conflicts(
    db: &impl ConnectionTrait,
    bundle: &Bundle,
    ids: &HashMap<String, TestId>,
    act: Act<'_>,
) -> Result<usize, StoreError> {
    if bundle.teaching_conflicts.is_empty() {
        return Ok(0);
    }
    let known = list_teaching_conflicts(db, None, None).await?;
    let asked = |conflict: &TeachingConflict| (conflict.region, name_key(&conflict.question));
    let known: HashSet<(Region, String)> = known.iter().map(|record| asked(&record.conflict)).collect();
    let mut errors = Vec::new();
    let mut added = 0;
    for (index, BundleConflict { conflict, tests, sample }) in bundle.teaching_conflicts.iter().enumerate() {
        if known.contains(&asked(conflict)) {
            continue;
        }
        let mut conflict = conflict.clone();
        for (place, name) in tests.iter().enumerate() {
            match ids.get(&name_key(name)) {
                Some(id) => conflict.tests.push(*id),
                None => errors.push(no_test(format!("teaching_conflicts[{index}].tests[{place}]"), name)),
            }
        }
        if errors.is_empty() {
            match create_teaching_conflict(db, &conflict, *sample, act).await {
                Err(StoreError::Fields(found)) => {
                    let place = format!("teaching_conflicts[{index}].conflict.");
                    errors.extend(found.into_iter().map(|error| error.within(&place)));
                }
                other => drop(other?),
            }
            added += 1;
        }
    }
    if errors.is_empty() { Ok(added) } else { Err(StoreError::Fields(errors)) }
}

/// What became of a test's sheet.
struct Outcome {
    id: TestId,
    fate: Fate,
    written: bool,
}

impl Meeting {
    fn replaces(&self, name: &str) -> bool {
        match self {
            Self::Refuse | Self::Keep => false,
            Self::Replace => true,
            Self::Chosen(names) => names.contains(&name_key(name)),
        }
    }
}

/// Adds the structures that are not there under any of their names; answers how many.
async fn bring_structures(db: &impl ConnectionTrait, bundle: &Bundle, act: Act<'_>) -> Result<usize, StoreError> {
    let known = list_structures(db, None).await?;
    let mut names: HashSet<(Region, String)> = known
        .iter()
        .flat_map(|record| record.structure.names().map(|name| (record.structure.region, name_key(name))))
        .collect();
    let mut added = 0;
    for structure in &bundle.structures {
        let keys: Vec<_> = structure.names().map(|name| (structure.region, name_key(name))).collect();
        if !keys.iter().any(|key| names.contains(key)) {
            create_structure(db, structure, act).await?;
            names.extend(keys);
            added += 1;
        }
    }
    Ok(added)
}

/// Adds the results that are not there yet, with their studies; answers what became of each test, how many studies came in, and the ids of
/// double extractions. Nothing when it was stopped.
async fn bring_results(
    db: &impl ConnectionTrait,
    bundle: &Bundle,
    outcomes: &[Outcome],
    works: &[Uuid],
    act: Act<'_>,
    mut written: Written,
    step: &Step<'_>,
) -> Result<Option<(Vec<ImportedTest>, usize, Vec<Uuid>)>, StoreError> {
    let names = named_together(db, bundle, outcomes).await?;
    let met: Vec<TestId> = outcomes.iter().filter(|it| it.fate != Fate::New).map(|it| it.id).collect();
    let there = Existing::read(db, bundle.studies.iter().map(|it| &it.study), &met).await?;
    let mut results: Vec<(TestId, &BundleResult, AccuracyResult)> = Vec::new();
    let mut places: HashMap<(usize, usize), usize> = HashMap::new();
    let mut agreements: Vec<(TestId, &BundleAgreement)> = Vec::new();
    let mut tests = Vec::with_capacity(outcomes.len());
    for (index, (test, Outcome { id, fate, written })) in bundle.tests.iter().zip(outcomes).enumerate() {
        let (before, agreed) = (results.len(), agreements.len());
        for (number, it) in test.results.iter().enumerate() {
            let mut result = it.result.clone();
            result.together = it.together.as_ref().map(|together| Together {
                tests: together.tests.iter().filter_map(|name| names.get(&name_key(name)).copied()).collect(),
                rule: together.rule,
            });
            if name_key(&result.condition) == name_key(&test.sheet.condition) {
                result.condition.clear();
            }
            if !there.knows_result(*id, it.study, &result) {
                places.insert((index, number), results.len());
                results.push((*id, it, result));
            }
        }
        let fresh = test.agreements.iter().filter(|it| !there.knows_agreement(*id, it.study, &it.agreement));
        agreements.extend(fresh.map(|it| (*id, it)));
        tests.push(ImportedTest {
            name: test.sheet.name.clone(),
            fate: *fate,
            written: *written,
            results: results.len() - before,
            known_results: test.results.len() + before - results.len(),
            agreements: agreements.len() - agreed,
        });
    }
    let used: HashSet<usize> =
        results.iter().map(|(_, it, _)| it.study).chain(agreements.iter().map(|(_, it)| it.study)).collect();
    let fresh: Vec<usize> =
        (0..bundle.studies.len()).filter(|place| used.contains(place) && !there.studies.contains_key(place)).collect();
    let new: Vec<(Study, bool)> = fresh
        .iter()
        .map(|place| &bundle.studies[*place])
        .map(|BundleStudy { study, sample, work, .. }| {
            (study.clone().published_as(work.and_then(|place| works.get(place).copied())), *sample)
        })
        .collect();
    let new: Vec<(&Study, bool)> = new.iter().map(|(study, sample)| (study, *sample)).collect();
    let added = create_studies(db, &new, act).await?;
    let mut studies = there.studies.clone();
    studies.extend(fresh.into_iter().zip(added.iter().map(|record| record.id)));
    bring_appraisals(db, bundle, &studies, act).await?;
    let of = |place: usize| studies.get(&place).copied().unwrap_or_default();
    // What is found in made-up people is made up.
    let made_up =
        |place: usize| there.made_up.contains(&place) || bundle.studies.get(place).is_some_and(|it| it.sample);
    let new: Vec<NewResult<'_>> = results
        .iter()
        .map(|(test_id, it, result)| NewResult {
            test_id: *test_id,
            study_id: of(it.study),
            result,
            sample: it.sample || made_up(it.study),
        })
        .collect();
    written.done = written.of - results.len() - agreements.len();
    let mut added_results: Vec<ResultId> = Vec::with_capacity(new.len());
    for portion in new.chunks(PORTION) {
        if !written.tell(step) {
            return Ok(None);
        }
        added_results.extend(create_results(db, portion, act).await?.into_iter().map(|it| it.id));
        written.done += portion.len();
    }
    let result = |index, number| places.get(&(index, number)).and_then(|place| added_results.get(*place)).copied();
    let extractions = bring_extractions(db, &brought(bundle, outcomes, works, result), act.by).await?;
    let new: Vec<NewAgreement<'_>> = agreements
        .iter()
        .map(|(test_id, it)| NewAgreement {
            test_id: *test_id,
            study_id: of(it.study),
            agreement: &it.agreement,
            sample: it.sample || made_up(it.study),
        })
        .collect();
    for portion in new.chunks(PORTION) {
        if !written.tell(step) {
            return Ok(None);
        }
        create_agreements(db, portion, act).await?;
        written.done += portion.len();
    }
    Ok(Some((tests, added.len(), extractions)))
}

/// The double extractions that come in: those of results that come in, and those without one.
fn brought<'a>(
    bundle: &'a Bundle,
    outcomes: &[Outcome],
    works: &[Uuid],
    result: impl Fn(usize, usize) -> Option<ResultId>,
) -> Vec<BroughtExtraction<'a>> {
    let of_test = |(index, (test, Outcome { id, .. })): (usize, (&'a BundleTest, &Outcome))| {
        let one = |it: &'a BundleExtraction| {
            let result_id = match it.result {
                Some(number) => Some(result(index, number)?),
                None => None,
            };
            Some(BroughtExtraction {
                new: NewDoubleExtraction {
                    test_id: *id,
                    reference_id: it.work.and_then(|place| works.get(place).copied()),
                    reference: &it.reference,
                    asked: &it.asked,
                    sample: it.sample,
                },
                result_id,
                readings: it.readings.iter().map(|read| (read.reader.as_str(), &read.extraction)).collect(),
                settled: it.settled.as_ref(),
            })
        };
        test.extractions.iter().filter_map(one).collect::<Vec<_>>()
    };
    bundle.tests.iter().zip(outcomes).enumerate().flat_map(of_test).collect()
}

/// Adds the appraisals of studies that have none of that kind yet; what was judged here stays.
async fn bring_appraisals(
    db: &impl ConnectionTrait,
    bundle: &Bundle,
    studies: &HashMap<usize, StudyId>,
    act: Act<'_>,
) -> Result<(), StoreError> {
    let ids: Vec<StudyId> = studies.values().copied().collect();
    let there = appraisals_of(db, &ids).await?;
    let mut places: Vec<(&usize, &StudyId)> = studies.iter().collect();
    places.sort();
    let fresh = places.into_iter().flat_map(|(place, id)| {
        let BundleStudy { appraisals, sample, .. } = &bundle.studies[*place];
        let known = there.get(id).map(Vec::as_slice).unwrap_or_default();
        let unknown = appraisals.iter().filter(|(aspect, _)| !known.iter().any(|it| it.aspect == **aspect));
        unknown.map(move |(aspect, appraisal)| (*id, *aspect, appraisal, *sample))
    });
    create_appraisals(db, &fresh.collect::<Vec<_>>(), act).await
}

/// The tests by name that results of the bundle read together with their own.
async fn named_together(
    db: &impl ConnectionTrait,
    bundle: &Bundle,
    outcomes: &[Outcome],
) -> Result<HashMap<String, TestId>, StoreError> {
    let mut wanted: Vec<(String, &str)> = Vec::new();
    for (index, test) in bundle.tests.iter().enumerate() {
        for (number, result) in test.results.iter().enumerate() {
            for (position, name) in result.together.iter().flat_map(|it| &it.tests).enumerate() {
                wanted.push((format!("tests[{index}].results[{number}].together.tests[{position}]"), name));
            }
        }
    }
    if wanted.is_empty() {
        return Ok(HashMap::new());
    }
    let known = named_tests(db, wanted.iter().map(|(_, name)| *name)).await?;
    let mut names: HashMap<String, TestId> = known.into_iter().map(|(key, record)| (key, record.id)).collect();
    for (test, outcome) in bundle.tests.iter().zip(outcomes) {
        names.extend(test.sheet.names().map(|name| (name_key(name), outcome.id)));
    }
    let unknown = wanted.into_iter().filter(|(_, name)| !names.contains_key(&name_key(name))).map(|(field, name)| {
        let message = "Neither the file nor the catalogue holds a test of this name.";
        FieldError::new(field, FieldErrorCode::Unknown, name, message, "Give the name of a sheet.")
    });
    let errors: Vec<FieldError> = unknown.collect();
    if errors.is_empty() { Ok(names) } else { Err(StoreError::Fields(errors)) }
}

/// Everything that is not retired, of one region or of all, as it stands.
///
/// # Errors
/// Database errors.
pub async fn export(db: &impl ConnectionTrait, region: Option<Region>, title: &str) -> Result<Bundle, StoreError> {
    let wanted = |of: Region| region.is_none_or(|region| region == of);
    let conditions = list_conditions(db).await?.into_iter().map(|record| record.condition);
    let structures = list_structures(db, region).await?.into_iter().map(|record| record.structure);
    let records: Vec<TestRecord> = list_tests(db)
        .await?
        .into_iter()
        .filter(|record| wanted(record.sheet.region) && record.status != Status::Retired)
        .collect();
    let ids: Vec<_> = records.iter().map(|record| record.id).collect();
    let tests_by_id: HashMap<TestId, String> =
        records.iter().map(|record| (record.id, record.sheet.name.clone())).collect();
    let found = list_results(db, &ids, Seen::All).await?;
    let rated = list_agreements(db, &ids, Seen::All).await?;
    let of = found.iter().map(|it| it.study_id).chain(rated.iter().map(|it| it.study_id));
    let mut studies: Vec<StudyRecord> = get_studies(db, of).await?.into_values().collect();
    studies.sort_by_key(|record| record.id);
    let place: HashMap<StudyId, usize> = studies.iter().enumerate().map(|(place, it)| (it.id, place)).collect();
    let study = |id: StudyId| place.get(&id).copied().unwrap_or_default();
    // References belong to no region: those that its studies were published as, or all with the whole catalogue.
    let references = match region {
        Some(_) => get_references(db, studies.iter().filter_map(|record| record.study.reference_id)).await?,
        None => list_references(db, &ReferenceQuery::default()).await?.0,
    };
    let others = found.iter().filter_map(|it| it.result.together.as_ref()).flat_map(|it| it.tests.iter().copied());
    let others = get_tests(db, &others.collect::<Vec<_>>()).await?;
    let names: HashMap<TestId, &str> = others.iter().map(|test| (test.id, test.sheet.name.as_str())).collect();
    let mut results: HashMap<TestId, Vec<BundleResult>> = HashMap::new();
    let mut numbers: HashMap<ResultId, usize> = HashMap::new();
    for ResultRecord { id, test_id, study_id, mut result, sample, .. } in found {
        let together = result.together.take().map(|Together { tests, rule }| BundleTogether {
            tests: tests.iter().filter_map(|id| names.get(id).map(|name| (*name).to_owned())).collect(),
            rule,
        });
        let result = BundleResult { study: study(study_id), result, together, sample };
        let of_test = results.entry(test_id).or_default();
        numbers.insert(id, of_test.len());
        of_test.push(result);
    }
    let works: HashMap<Uuid, usize> = references.iter().enumerate().map(|(place, it)| (it.id, place)).collect();
    let mut extractions: HashMap<TestId, Vec<BundleExtraction>> = HashMap::new();
    for it in extractions_for_file(db, &ids).await? {
        let test_id = it.test_id;
        extractions.entry(test_id).or_default().extend(bundled_extraction(it, &works, &numbers)?);
    }
    let mut agreements: HashMap<TestId, Vec<BundleAgreement>> = HashMap::new();
    for AgreementRecord { test_id, study_id, agreement, sample, .. } in rated {
        let agreement = BundleAgreement { study: study(study_id), agreement, sample };
        agreements.entry(test_id).or_default().push(agreement);
    }
    let tests: Vec<BundleTest> = records
        .into_iter()
        .map(|TestRecord { id, sheet, sample, .. }| BundleTest {
            results: results.remove(&id).unwrap_or_default(),
            agreements: agreements.remove(&id).unwrap_or_default(),
            extractions: extractions.remove(&id).unwrap_or_default(),
            sheet,
            sample,
        })
        .collect();
    let made_up = |test: &BundleTest| {
        test.sample
            && test.results.iter().all(|it| it.sample)
            && test.agreements.iter().all(|it| it.sample)
            && test.extractions.iter().all(|it| it.sample)
    };
    let mut appraisals = appraisals_of(db, &place.keys().copied().collect::<Vec<_>>()).await?;
    let studies: Vec<BundleStudy> = studies
        .into_iter()
        .map(|StudyRecord { id, study, sample, .. }| {
            let work = study.reference_id.and_then(|id| works.get(&id).copied());
            let appraised = appraisals.remove(&id).unwrap_or_default().into_iter();
            let appraisals = appraised.map(|AppraisalRecord { aspect, appraisal, .. }| (aspect, appraisal)).collect();
            BundleStudy { study: study.published_as(None), sample, work, appraisals }
        })
        .collect();
    let conflicts = list_teaching_conflicts(db, region, None).await?;
    let named = |ids: &[TestId]| ids.iter().filter_map(|id| tests_by_id.get(id).cloned()).collect();
    let teaching_conflicts: Vec<BundleConflict> = conflicts
        .into_iter()
        .map(|record| BundleConflict {
            tests: named(&record.conflict.tests),
            conflict: TeachingConflict { tests: Vec::new(), ..record.conflict },
            sample: record.sample,
        })
        .collect();
    let plans = list_plans(db, PlanReader::Drafts, region).await?.into_iter().filter_map(|it| {
        // A plan with a test that is not in the file, such as an archived one, could not be read from it.
        let names = it.plan.tests.iter().map(|planned| tests_by_id.get(&planned.test).cloned());
        let names = names.collect::<Option<Vec<String>>>().filter(|_| it.status != Status::Retired)?;
        Some(BundlePlan::new(it.plan, names, it.sample))
    });
    let plans: Vec<BundlePlan> = plans.collect();
    let conditions: Vec<Condition> = conditions.filter(|condition| wanted(condition.region)).collect();
    let bundled = |ReferenceRecord { reference, sample, .. }| BundleReference { reference, sample };
    Ok(Bundle {
        title: title.to_owned(),
        sample: !tests.is_empty()
            && tests.iter().all(made_up)
            && studies.iter().all(|it| it.sample)
            && references.iter().all(|record| record.sample)
            && conditions.iter().all(|it| it.prevalence.iter().all(|report| report.sample))
            && teaching_conflicts.iter().all(|it| it.sample)
            && plans.iter().all(|it| it.sample),
        references: references.into_iter().map(bundled).collect(),
        studies,
        tests,
        conditions,
        structures: structures.collect(),
        teaching_conflicts,
        plans,
    })
}

/// None for one whose result was deleted.
fn bundled_extraction(
    of: DoubleExtraction,
    works: &HashMap<Uuid, usize>,
    numbers: &HashMap<ResultId, usize>,
) -> Result<Option<BundleExtraction>, StoreError> {
    let result = of.result_id.and_then(|id| numbers.get(&id).copied());
    if of.result_id.is_some() && result.is_none() {
        return Ok(None);
    }
    let mut readings = Vec::new();
    if let Some(both) = of.both() {
        let (first, second) = checked(of.id, both)?;
        let named = both.map(|it| it.reader.clone().unwrap_or_default());
        let read = named.into_iter().zip([first, second]);
        readings = read.map(|(reader, extraction)| BundleReading { reader, extraction }).collect();
    }
    let settled =
        of.settled.map(|it| BundleSettled { by: it.by.unwrap_or_default(), at: it.at, decisions: it.decisions });
    let work = of.reference_id.and_then(|id| works.get(&id).copied());
    let (reference, asked, sample) = (of.reference, of.asked, of.sample);
    Ok(Some(BundleExtraction { work, reference, asked, result, readings, settled, sample }))
}
