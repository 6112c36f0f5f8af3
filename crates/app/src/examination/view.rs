//! An examination as it is shown: what was entered, what it shows by the sheets, and where it stands.

use std::collections::HashMap;

use chrono::{DateTime, NaiveDate, Utc};
use pruvex_core::TestId;
use pruvex_core::catalogue::{Outcome, Sheet};
use pruvex_core::examination::{
    AttemptRules, ExaminationConduct, ExaminationOutcome, ReferenceResult, SuggestedRepeat, TestReading,
    suggested_repeats,
};
use pruvex_core::people::{Right, Role};
use pruvex_core::plan::{ExaminationPlan, FitState};
use pruvex_store::examination::ExaminationRecord;
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

use crate::catalogue::{NamedTest, named};
use crate::likelihood::FindingInput;
use crate::people::Reader;
use crate::plan::{
    PatientFitInput, PlanFitAnswer, PlanStandingAnswer, StandingInput, fit_of, rows_of, sheets, standing_of,
};
use crate::{App, AppError, Versioned};

/// An examination.
#[derive(Debug, Serialize, ToSchema)]
pub struct ExaminationView {
    id: Uuid,
    version: i32,
    /// What it is called. No name of a patient is kept.
    label: String,
    /// The plan that is carried out.
    plan_id: Uuid,
    /// Its version when the examination was begun.
    plan_version: i32,
    /// What it said then.
    plan: ExaminationPlan,
    /// Names of its tests, of those that you may see.
    named_tests: Vec<NamedTest>,
    /// It rests on made-up data.
    sample: bool,
    /// It is yours.
    own: bool,
    /// You may share it for teaching.
    may_share: bool,
    created_at: DateTime<Utc>,
    saved_at: DateTime<Utc>,
    finished_at: Option<DateTime<Utc>>,
    shared_at: Option<DateTime<Utc>>,
    /// When something of it is due.
    due: Option<NaiveDate>,
    patient: PatientFitInput,
    conduct: ExaminationConduct,
    /// Where it stands now; none once it is finished.
    stands: Option<ExaminationStands>,
    /// What it came to; none before.
    outcome: Option<ExaminationOutcome>,
    /// What was found out later; empty while nothing was.
    reference: Vec<ReferenceResult>,
}

/// Where an examination stands that is not finished.
#[derive(Debug, Serialize, ToSchema)]
pub struct ExaminationStands {
    /// Whether its tests fit the patient.
    pub(super) fit: PlanFitAnswer,
    /// What each test of the plan shows by its own rules.
    pub(super) readings: Vec<TestReading>,
    /// Each condition, and what comes next.
    pub(super) standing: PlanStandingAnswer,
    /// What the sheets say is done again.
    repeats: Vec<SuggestedRepeat>,
}

impl ExaminationView {
    pub(crate) fn id(&self) -> Uuid {
        self.id
    }
}

impl Versioned for ExaminationView {
    fn version(&self) -> i32 {
        self.version
    }
}

pub(super) async fn view(app: &App, by: &Reader, record: ExaminationRecord) -> Result<ExaminationView, AppError> {
    let stands = match &record.outcome {
        Some(_) => None,
        None => Some(stands(app, by, &record, &patient_of(&record)?).await?.stands),
    };
    shown(app, by.id(), by.role(), record, stands).await
}

/// As this account sees it.
pub(super) async fn shown(
    app: &App,
    account: Uuid,
    role: Role,
    record: ExaminationRecord,
    stands: Option<ExaminationStands>,
) -> Result<ExaminationView, AppError> {
    let patient = patient_of(&record)?;
    let names = named(app, role, record.plan.tests.iter().map(|it| it.test)).await?;
    let named_tests = record.plan.tests.iter().filter_map(|it| names.get(&it.test).cloned()).collect();
    let own = record.owner == account;
    let sample = record.sample || record.outcome.as_ref().is_some_and(|it| it.sample);
    let due = record.outcome.as_ref().and_then(|_| record.conduct.next_due());
    Ok(ExaminationView {
        id: record.id,
        version: record.version,
        label: record.label,
        plan_id: record.plan_id,
        plan_version: record.plan_version,
        plan: record.plan,
        named_tests,
        sample,
        own,
        may_share: own && record.outcome.is_some() && role.may(Right::WriteSheets),
        created_at: record.created_at,
        saved_at: record.saved_at,
        finished_at: record.finished_at,
        shared_at: record.shared_at,
        due,
        patient,
        conduct: record.conduct,
        stands,
        outcome: record.outcome,
        reference: record.reference,
    })
}

/// Where an examination stands, with the sheets by which it is read.
pub(super) struct Standing {
    pub stands: ExaminationStands,
    pub sheets: HashMap<TestId, Sheet>,
}

/// Reads what was entered by the sheets as they are now, and follows the plan's conditions through it. What is equivocal or could not be read tells
/// nothing; a level counts with its own ratio where studies tell it, and else as it is read.
pub(super) async fn stands(
    app: &App,
    by: &Reader,
    record: &ExaminationRecord,
    patient: &PatientFitInput,
) -> Result<Standing, AppError> {
    let ExaminationRecord { plan, conduct, .. } = record;
    let ids: Vec<TestId> = plan.tests.iter().map(|it| it.test).collect();
    let sheets = sheets(app, by, &ids).await?;
    let fit = fit_of(app, by, plan, patient).await?;
    let reading = |(place, test): (usize, &TestId)| {
        let attempts = conduct.of(*test).map(|it| it.attempts.as_slice()).unwrap_or_default();
        let rules = sheets.get(test).map(|sheet| AttemptRules::of(sheet, &plan.tests[place].variant));
        rules.unwrap_or_default().read_all(attempts)
    };
    let readings: Vec<TestReading> = ids.iter().enumerate().map(reading).collect();
    let catalogue = app.catalogue().await?;
    let rows = rows_of(plan, &catalogue, by);
    let mut input = StandingInput { asked: conduct.asked.clone(), ..StandingInput::default() };
    let place_of = |test: TestId| ids.iter().position(|id| *id == test);
    // In the order in which they were found.
    for (test, reading) in conduct.tests.iter().filter_map(|it| Some((it.test?, &readings[place_of(it.test?)?]))) {
        let known = |it: &FindingInput| rows[&test].iter().any(|row| it.speaks_of(row));
        let level = reading.level.clone().map(|level| FindingInput::at_level(test, level)).filter(known);
        let plain = match reading.outcome {
            Some(Outcome::Positive) => Some(FindingInput::of(test, true)),
            Some(Outcome::Negative) => Some(FindingInput::of(test, false)),
            Some(Outcome::Equivocal | Outcome::NotInterpretable) | None => None,
        };
        input.findings.extend(level.or(plain));
    }
    for (test, (fitted, reading)) in ids.iter().zip(fit.tests.iter().zip(&readings)) {
        let passed = conduct.of(*test).is_some_and(|it| it.skipped);
        let out = fitted.left_out || fitted.fit.state == FitState::NotNow;
        if (passed || out || reading.outcome.is_some()) && !input.findings.iter().any(|it| it.test == *test) {
            input.without.push(*test);
        }
    }
    let standing = standing_of(app, by, plan, &input).await?;
    let today = Utc::now().date_naive();
    let repeats = ids.iter().zip(&readings).flat_map(|(test, reading)| {
        let repeats = sheets.get(test).map(|sheet| sheet.repeats.as_slice()).unwrap_or_default();
        suggested_repeats(*test, reading, repeats, today)
    });
    let repeats = repeats.collect();
    Ok(Standing { stands: ExaminationStands { fit, readings, standing, repeats }, sheets })
}

pub(super) fn patient_of(record: &ExaminationRecord) -> Result<PatientFitInput, AppError> {
    serde_json::from_value(record.patient.clone()).map_err(AppError::internal)
}

pub(super) fn patient_value(patient: &PatientFitInput) -> Result<serde_json::Value, AppError> {
    serde_json::to_value(patient).map_err(AppError::internal)
}
