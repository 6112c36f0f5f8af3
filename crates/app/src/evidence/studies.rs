//! Studies: the people of whom results are reported, which of them are on record, and their correction.

use std::collections::{HashMap, HashSet};

use pruvex_core::evidence::{Study, StudyInput};
use pruvex_core::{FieldError, FieldErrorCode, StudyId};
use pruvex_formats::{CitationStyle, cite};
use pruvex_store::DatabaseConnection;
use pruvex_store::evidence::{self as store, OfStudy, StudyRecord};
use pruvex_store::history::Act;
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

use super::appraisals::AppraisalView;
use crate::app::commit;
use crate::blocking::blocking;
use crate::catalogue::{NamedTest, named};
use crate::people::StudyWriter;
use crate::{App, AppError, Versioned};

/// A study.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct StudyView {
    id: StudyId,
    version: i32,
    /// Made up, for demonstration.
    sample: bool,
    #[serde(flatten)]
    study: Study,
    /// The reference on record that it was published as.
    cited: Option<Cited>,
    /// How many results are reported from it, of accuracy and of agreement.
    results: usize,
    /// How far it can be trusted, as far as somebody judged it.
    appraisals: Vec<AppraisalView>,
}

impl StudyView {
    /// As learners see it: notes are for those who check how the figures came about.
    pub(super) fn without_notes(mut self) -> Self {
        self.study.note.clear();
        self
    }
}

impl Versioned for StudyView {
    fn version(&self) -> i32 {
        self.version
    }
}

/// A reference in the words of a list.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Cited {
    /// Short name: first authors and year.
    label: String,
    /// As it stands in a list of literature.
    citation: String,
}

/// Studies as views, by id.
pub(crate) async fn views(
    db: &DatabaseConnection,
    records: Vec<StudyRecord>,
) -> Result<HashMap<StudyId, StudyView>, AppError> {
    let ids: HashSet<Uuid> = records.iter().filter_map(|record| record.study.reference_id).collect();
    let references = if ids.is_empty() { Vec::new() } else { store::get_references(db, ids).await? };
    let mut appraisals = store::appraisals_of(db, &records.iter().map(|record| record.id).collect::<Vec<_>>()).await?;
    let mut results: HashMap<StudyId, usize> = HashMap::new();
    for (study, _) in store::reported_from(db, &records.iter().map(|record| record.id).collect::<Vec<_>>()).await? {
        *results.entry(study).or_default() += 1;
    }
    blocking(move || {
        let citations = cite(CitationStyle::default(), &references.iter().map(|it| &it.reference).collect::<Vec<_>>());
        let cited: HashMap<Uuid, Cited> = references
            .iter()
            .zip(citations)
            .map(|(it, citation)| (it.id, Cited { label: it.reference.label(), citation }))
            .collect();
        let view = |StudyRecord { id, version, sample, study }| {
            let cited = study.reference_id.and_then(|id| cited.get(&id).cloned());
            let results = results.get(&id).copied().unwrap_or_default();
            let appraisals = appraisals.remove(&id).unwrap_or_default().into_iter().map(AppraisalView::from).collect();
            (id, StudyView { id, version, sample, study, cited, results, appraisals })
        };
        records.into_iter().map(view).collect()
    })
    .await
}

/// What a result says of its study: a new one, or one on record with its version. `study` holds its words.
pub(crate) fn of_study(
    id: Option<StudyId>,
    version: Option<i32>,
    study: Option<&StudyInput>,
) -> Result<Option<OfStudy>, Vec<FieldError>> {
    let missing = |field: &str, message: &str, remedy: &str| {
        Err(vec![FieldError::new(field, FieldErrorCode::Missing, "", message, remedy)])
    };
    let Some(study) = study else {
        return match id {
            None => Ok(None),
            Some(_) => {
                missing("study", "The description of the study is missing.", "Send its words as they were read.")
            }
        };
    };
    let study = Study::check(study)
        .map_err(|errors| errors.into_iter().map(|error| error.within("study.")).collect::<Vec<_>>())?;
    match (id, version) {
        (None, _) => Ok(Some(OfStudy::New(study))),
        (Some(id), Some(version)) => Ok(Some(OfStudy::Known { id, version, study })),
        (Some(_), None) => {
            missing("study_version", "The version of the study is missing.", "Send the one that was read.")
        }
    }
}

/// A new result needs a study.
pub(crate) fn needed(of: Option<OfStudy>) -> Result<OfStudy, Vec<FieldError>> {
    let message = "The study of this result is missing.";
    let remedy = "Say who was examined, and where it was published.";
    of.ok_or_else(|| vec![FieldError::new("study", FieldErrorCode::Missing, "", message, remedy)])
}

/// Both of them, or the faults of both.
pub(crate) fn both<A, B>(a: Result<A, Vec<FieldError>>, b: Result<B, Vec<FieldError>>) -> Result<(A, B), AppError> {
    match (a, b) {
        (Ok(a), Ok(b)) => Ok((a, b)),
        (a, b) => Err(AppError::Fields(a.err().into_iter().chain(b.err()).flatten().collect())),
    }
}

/// A study on record, with the tests of which it reports a result.
#[derive(Debug, Serialize, ToSchema)]
pub struct KnownStudy {
    #[serde(flatten)]
    view: StudyView,
    tests: Vec<NamedTest>,
}

/// By what studies are looked for.
#[derive(Debug)]
pub enum PublishedAs {
    /// A reference on record.
    Reference(Uuid),
    /// The text of one.
    Text(String),
}

/// Studies that were published as a reference, or under its text: a further result may be of the same people.
///
/// # Errors
/// Database errors.
pub async fn list_studies(app: &App, by: &StudyWriter, published: &PublishedAs) -> Result<Vec<KnownStudy>, AppError> {
    let wanted = match published {
        PublishedAs::Reference(id) => Ok(*id),
        PublishedAs::Text(text) => Err(text.as_str()),
    };
    let records = store::studies_published_as(&app.db, wanted).await?;
    let ids: Vec<StudyId> = records.iter().map(|record| record.id).collect();
    let reported = store::reported_from(&app.db, &ids).await?;
    let names = named(app, by.role(), reported.iter().map(|(_, test)| *test)).await?;
    let mut views = views(&app.db, records).await?;
    let known = |id: StudyId| {
        let mut seen = HashSet::new();
        let of_study = reported.iter().filter(|(study, test)| *study == id && seen.insert(*test));
        let tests = of_study.filter_map(|(_, test)| names.get(test).cloned()).collect();
        views.remove(&id).map(|view| KnownStudy { view, tests })
    };
    Ok(ids.into_iter().filter_map(known).collect())
}

/// Corrects a study that was read at this version, for all of its results.
///
/// # Errors
/// A study that breaks rules or examined fewer people than its results hold, [`AppError::Conflict`].
pub async fn update_study(
    app: &App,
    by: &StudyWriter,
    id: StudyId,
    version: i32,
    input: StudyInput,
) -> Result<StudyView, AppError> {
    let study = Study::check(&input).map_err(AppError::Fields)?;
    let transaction = app.begin().await?;
    let record = store::update_study(&transaction, id, version, &study, Act::of("edited", Some(by.id()))).await?;
    commit(transaction).await?;
    views(&app.db, vec![record]).await?.remove(&id).ok_or_else(|| AppError::internal("a saved study has no view"))
}
