//! Bundles into the database, all of it or nothing, and out of it.

use std::collections::{HashMap, HashSet};

use pruvex_core::catalogue::{Region, Sheet, Status, name_key};
use pruvex_core::evidence::{Agreement, Study};
use pruvex_core::{FieldError, FieldErrorCode};
use pruvex_formats::{Bundle, BundleAgreement, BundleReference, BundleStudy, BundleTest};
use sea_orm::{ConnectionTrait, DatabaseConnection, TransactionTrait};
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

use crate::StoreError;
use crate::catalogue::{TestRecord, create_tests, list_tests, named_tests, taken_names, update_test};
use crate::condition::{list_conditions, put_condition};
use crate::evidence::{
    AgreementRecord, ReferenceQuery, ReferenceRecord, StudyRecord, bring_references, create_agreements, create_studies,
    get_references, list_agreements, list_references, list_studies,
};
use crate::history::{Act, alone};
use crate::vocabulary::{create_structure, list_structures};

/// What to do with tests that are there already and say something else.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Meeting {
    /// Import nothing.
    Refuse,
    /// Keep what is there; only studies that are not there yet come in.
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
    /// Studies that come in.
    pub studies: usize,
    /// Studies that are there already.
    pub known_studies: usize,
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
    /// Its tests in their order.
    pub tests: Vec<ImportedTest>,
}

impl Imported {
    /// Studies that come in.
    #[must_use]
    pub fn studies(&self) -> usize {
        self.tests.iter().map(|test| test.studies).sum()
    }

    /// Agreement results that come in.
    #[must_use]
    pub fn agreements(&self) -> usize {
        self.tests.iter().map(|test| test.agreements).sum()
    }
}

/// Imports a bundle in one transaction. With `preview` everything is tried and then taken back. Sample data that nobody asked
/// for by hand (`by` is none) counts as published; all else comes in as drafts.
///
/// # Errors
/// [`StoreError::Fields`] with every name that is taken and its path in the bundle; nothing is changed then.
pub async fn import(
    db: &DatabaseConnection,
    bundle: &Bundle,
    meeting: &Meeting,
    act: Act<'_>,
    preview: bool,
) -> Result<Imported, StoreError> {
    let transaction = db.begin().await?;
    let imported = bring(&transaction, bundle, meeting, act, preview).await?;
    if preview {
        transaction.rollback().await?;
    } else {
        transaction.commit().await?;
    }
    Ok(imported)
}

async fn bring(
    db: &impl ConnectionTrait,
    bundle: &Bundle,
    meeting: &Meeting,
    act: Act<'_>,
    preview: bool,
) -> Result<Imported, StoreError> {
    alone(db).await?;
    let mut conditions = 0;
    for condition in &bundle.conditions {
        conditions += usize::from(put_condition(db, condition, act).await?.1);
    }
    let structures = bring_structures(db, bundle, act).await?;
    let works = bring_references(db, &bundle.references, act).await?;
    let mut errors: Vec<(usize, FieldError)> = Vec::new();
    let mut known = named_tests(db, bundle.tests.iter().map(|test| test.sheet.name.as_str())).await?;
    let mut outcomes: Vec<Outcome> = Vec::with_capacity(bundle.tests.len());
    for (index, test) in bundle.tests.iter().enumerate() {
        let outcome = match known.remove(&name_key(&test.sheet.name)) {
            None => Outcome { id: Uuid::nil(), fate: Fate::New, written: true },
            Some(record) if record.sheet == test.sheet => Outcome { id: record.id, fate: Fate::Same, written: false },
            Some(TestRecord { id, version, .. }) => {
                let written = meeting.replaces(&test.sheet.name);
                if written {
                    match update_test(db, id, version, &test.sheet, act).await {
                        Err(StoreError::Fields(found)) => errors.extend(found.into_iter().map(|error| (index, error))),
                        other => drop(other?),
                    }
                } else if *meeting == Meeting::Refuse && !preview {
                    let message = "A test of this name is there and says something else.";
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
    let named: Vec<(Uuid, &Sheet)> = sheets.iter().map(|(sheet, _)| (Uuid::nil(), *sheet)).collect();
    errors.extend(taken_names(db, &named).await?.into_iter().map(|(position, error)| (fresh[position], error)));
    if !errors.is_empty() {
        errors.sort_by_key(|(index, _)| *index);
        let placed = |(index, error): (usize, FieldError)| error.within(&format!("tests[{index}].sheet."));
        return Err(StoreError::Fields(errors.into_iter().map(placed).collect()));
    }
    for (index, id) in fresh.into_iter().zip(create_tests(db, &sheets, act).await?) {
        outcomes[index].id = id;
    }
    let tests = bring_results(db, bundle, &outcomes, &works.ids, act).await?;
    let (title, sample, references) = (bundle.title.clone(), bundle.sample, works.added);
    Ok(Imported { title, sample, conditions, structures, references, tests })
}

/// What became of a test's sheet.
struct Outcome {
    id: Uuid,
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

/// Adds the studies and agreement results that are not there yet.
async fn bring_results(
    db: &impl ConnectionTrait,
    bundle: &Bundle,
    outcomes: &[Outcome],
    works: &[Uuid],
    act: Act<'_>,
) -> Result<Vec<ImportedTest>, StoreError> {
    let met: Vec<Uuid> = outcomes.iter().filter(|it| it.fate != Fate::New).map(|it| it.id).collect();
    let mut known: HashMap<Uuid, Vec<Study>> = HashMap::new();
    for record in list_studies(db, &met).await? {
        // Which number its reference has here says nothing about what it reports.
        known.entry(record.test_id).or_default().push(Study { reference_id: None, ..record.study });
    }
    let mut rated: HashMap<Uuid, Vec<Agreement>> = HashMap::new();
    for record in list_agreements(db, &met).await? {
        rated.entry(record.test_id).or_default().push(record.agreement.published_as(None));
    }
    let here = |work: Option<usize>| work.and_then(|place| works.get(place).copied());
    let mut fresh_agreements: Vec<(Uuid, Agreement, bool)> = Vec::new();
    let mut fresh: Vec<(Uuid, Study, bool)> = Vec::new();
    let mut tests = Vec::with_capacity(outcomes.len());
    for (test, Outcome { id, fate, written }) in bundle.tests.iter().zip(outcomes) {
        let there = known.get(id).map(Vec::as_slice).unwrap_or_default();
        let before = fresh.len();
        let missing = test.studies.iter().filter(|it| !there.contains(&it.study));
        fresh.extend(missing.map(|BundleStudy { study, sample, work }| {
            (*id, Study { reference_id: here(*work), ..study.clone() }, *sample)
        }));
        let studies = fresh.len() - before;
        let (name, known_studies) = (test.sheet.name.clone(), test.studies.len() - studies);
        let there = rated.get(id).map(Vec::as_slice).unwrap_or_default();
        let before = fresh_agreements.len();
        let missing = test.agreements.iter().filter(|it| !there.contains(&it.agreement));
        fresh_agreements.extend(missing.map(|BundleAgreement { agreement, sample, work }| {
            (*id, agreement.clone().published_as(here(*work)), *sample)
        }));
        let agreements = fresh_agreements.len() - before;
        tests.push(ImportedTest { name, fate: *fate, written: *written, studies, known_studies, agreements });
    }
    let fresh: Vec<_> = fresh.iter().map(|(test, study, sample)| (*test, study, *sample)).collect();
    create_studies(db, &fresh, act).await?;
    let fresh: Vec<_> = fresh_agreements.iter().map(|(test, it, sample)| (*test, it, *sample)).collect();
    create_agreements(db, &fresh, act).await?;
    Ok(tests)
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
    let found = list_studies(db, &ids).await?;
    let rated = list_agreements(db, &ids).await?;
    // References belong to no region: those that its results were published as, or all with the whole catalogue.
    let cited = found.iter().filter_map(|record| record.study.reference_id);
    let cited = cited.chain(rated.iter().filter_map(|record| record.agreement.written().reference_id));
    let references = match region {
        Some(_) => get_references(db, cited).await?,
        None => list_references(db, &ReferenceQuery::default()).await?.0,
    };
    let places: HashMap<Uuid, usize> = references.iter().enumerate().map(|(place, it)| (it.id, place)).collect();
    let mut studies: HashMap<Uuid, Vec<BundleStudy>> = HashMap::new();
    for StudyRecord { test_id, study, sample, .. } in found {
        let work = study.reference_id.and_then(|id| places.get(&id).copied());
        let study = Study { reference_id: None, ..study };
        studies.entry(test_id).or_default().push(BundleStudy { study, sample, work });
    }
    let mut agreements: HashMap<Uuid, Vec<BundleAgreement>> = HashMap::new();
    for AgreementRecord { test_id, agreement, sample, .. } in rated {
        let work = agreement.written().reference_id.and_then(|id| places.get(&id).copied());
        let agreement = agreement.published_as(None);
        agreements.entry(test_id).or_default().push(BundleAgreement { agreement, sample, work });
    }
    let tests: Vec<BundleTest> = records
        .into_iter()
        .map(|TestRecord { id, sheet, sample, .. }| BundleTest {
            studies: studies.remove(&id).unwrap_or_default(),
            agreements: agreements.remove(&id).unwrap_or_default(),
            sheet,
            sample,
        })
        .collect();
    let made_up = |test: &BundleTest| {
        test.sample && test.studies.iter().all(|it| it.sample) && test.agreements.iter().all(|it| it.sample)
    };
    let bundled = |ReferenceRecord { reference, sample, .. }| BundleReference { reference, sample };
    Ok(Bundle {
        title: title.to_owned(),
        sample: !tests.is_empty() && tests.iter().all(made_up) && references.iter().all(|record| record.sample),
        references: references.into_iter().map(bundled).collect(),
        tests,
        conditions: conditions.filter(|condition| wanted(condition.region)).collect(),
        structures: structures.collect(),
    })
}
