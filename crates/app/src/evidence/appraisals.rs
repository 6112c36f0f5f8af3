//! Appraisals of studies: what is asked, and saving what was judged.

use std::collections::BTreeMap;

use pruvex_core::StudyId;
use pruvex_core::evidence::{Appraisal, AppraisalInput, Aspect, Domain, Judgement, SignallingQuestion, suggestions};
use pruvex_store::evidence::{AppraisalRecord, put_appraisal};
use pruvex_store::history::Act;
use serde::Serialize;
use utoipa::ToSchema;

use crate::app::commit;
use crate::people::{Reader, StudyWriter};
use crate::{App, AppError, Versioned};

/// An appraisal of a study.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct AppraisalView {
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

impl Versioned for AppraisalView {
    fn version(&self) -> i32 {
        self.version
    }
}

/// What is asked about one aspect of studies.
#[derive(Debug, Serialize, ToSchema)]
pub struct AskedAspect {
    aspect: Aspect,
    domains: Vec<AskedDomain>,
}

/// What is asked in one domain.
#[derive(Debug, Serialize, ToSchema)]
pub struct AskedDomain {
    domain: Domain,
    /// Whether it can apply to the question at hand more or less.
    concern: bool,
    questions: &'static [SignallingQuestion],
}

/// The domains and questions of both appraisals, in their order.
#[must_use]
pub fn list_questions(_by: &Reader) -> Vec<AskedAspect> {
    let asked = |aspect: Aspect| {
        let domains = aspect.domains().iter().map(|domain| AskedDomain {
            domain: *domain,
            concern: Aspect::has_concern(*domain),
            questions: aspect.questions(*domain),
        });
        AskedAspect { aspect, domains: domains.collect() }
    };
    Aspect::ALL.map(asked).into()
}

/// What the answers suggest that were given so far, by domain. Nothing is stored.
#[must_use]
pub fn suggest_judgements(_by: &StudyWriter, aspect: Aspect, input: &AppraisalInput) -> BTreeMap<Domain, Judgement> {
    suggestions(aspect, input)
}

/// Saves the appraisal of a study that was read at the version in `If-Match`; 0 when there was none.
pub async fn save_appraisal(
    app: &App,
    by: &StudyWriter,
    id: StudyId,
    aspect: Aspect,
    version: i32,
    input: AppraisalInput,
) -> Result<AppraisalView, AppError> {
    let appraisal = Appraisal::check(aspect, &input).map_err(AppError::Fields)?;
    let transaction = app.begin().await?;
    let act = Act::of("edited", Some(by.id()));
    let record = put_appraisal(&transaction, id, aspect, version, &appraisal, act).await?;
    commit(transaction).await?;
    Ok(record.into())
}
