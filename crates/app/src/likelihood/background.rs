//! What stands behind the figures of a patient's tests.

use std::sync::Arc;

use pruvex_core::evidence::{PooledAgreement, PooledPrevalence, PrevalenceOf, SpectrumPart, other_spectrum, spectrum};
use pruvex_core::likelihood::after_result;
use pruvex_core::pooling::{Limit, ModelChoice, read};
use pruvex_core::{Estimate, Level, Probability, TestId};
use pruvex_store::condition::find_condition;
use pruvex_store::evidence as store;
use serde::Serialize;
use utoipa::ToSchema;

use super::patient::PatientInput;
use crate::blocking::blocking;
use crate::evidence::prevalence_of;
use crate::people::{Reader, seen_by};
use crate::pooling::{PoolInput, gather, pooled_agreements, provenance};
use crate::{App, AppError};

/// What limits the figures of one test.
#[derive(Debug, Serialize, ToSchema)]
pub struct TestLimits {
    test: TestId,
    limits: Vec<Limit>,
}

/// The results at the prevalence of some kind of patients.
#[derive(Debug, Serialize, ToSchema)]
pub struct SpectrumRow {
    /// The people it was seen in; `null` for the usual pre-test probability of the condition.
    studied: Option<SpectrumPart>,
    /// The prevalence.
    share: Probability,
    /// Probability after the results found; without any, after a positive and after a negative result of the test that is looked at.
    after: Vec<Option<Estimate<Probability>>>,
}

/// What stands behind the figures of a patient's tests.
#[derive(Debug, Serialize, ToSchema)]
pub struct PatientBackground {
    limits: Vec<TestLimits>,
    /// The least and the most common prevalence among the people studied, if the condition is much rarer or much more common here.
    other_spectrum: Option<[Probability; 2]>,
    spectrum: Vec<SpectrumRow>,
    /// How common the condition is with and without symptoms; `null` for a condition that is not known.
    prevalence: Option<PooledPrevalence>,
}

/// What limits the figures that a patient's results rest on, and what the same results would mean where the condition is as common as it
/// was among the people studied.
///
/// # Errors
/// As [`super::answer_patient`].
pub async fn explain_patient(app: &App, by: &Reader, input: PatientInput) -> Result<PatientBackground, AppError> {
    let pre_test = input.pre_test()?;
    let catalogue = app.catalogue().await?;
    let (rows, found) = input.rows(&catalogue, by.role())?;
    let focus = input.focus.and_then(|id| rows.iter().find(|row| row.id == id).copied());
    let looked_at: Vec<TestId> = if found.is_empty() {
        focus.into_iter().filter(|row| row.summary.is_some()).map(|row| row.id).collect()
    } else {
        found.iter().map(|row| row.id).collect()
    };
    let (mut limits, mut members, mut counts) = (Vec::new(), Vec::new(), Vec::new());
    if !looked_at.is_empty() {
        let mut pool = PoolInput {
            tests: looked_at.clone(),
            condition: Some(input.condition.clone()),
            selection: Default::default(),
            by: None,
            model: ModelChoice::default(),
            interval: None,
        };
        let all = gather(&pool, by.account(), &app.db).await?;
        let agreement = store::list_agreements(&app.db, &pool.tests, seen_by(by.role(), &app.db).await?).await?;
        let agreement = pooled_agreements(&agreement);
        let pools = Arc::clone(&app.pools);
        let read_each = move || {
            for test in looked_at {
                pool.tests = vec![test];
                let gathered = all.of_test(test);
                let chosen = gathered.choose(&pool, &pools);
                if let Ok(pooled) = &chosen.pooled {
                    let own: Vec<PooledAgreement> = agreement.iter().filter(|it| it.test == test).cloned().collect();
                    let known = provenance(&gathered, &chosen.out, &own);
                    limits.push(TestLimits { test, limits: read(&chosen.counts, pooled, &chosen.ahead, known).limits });
                }
                members.extend(gathered.kept(&chosen.out).map(|index| gathered.members[index].clone()));
                counts.extend(chosen.counts);
            }
            (limits, members, counts)
        };
        (limits, members, counts) = blocking(read_each).await?;
    }
    let parts = spectrum(&members, &counts);
    let known = find_condition(&app.db, input.region, &input.condition).await?.map(|record| record.condition);
    let usual = known.as_ref().and_then(|it| it.pre_test).filter(|usual| *usual != input.pre_test);
    let prevalence = match known {
        Some(condition) => Some(prevalence_of(app, condition, PrevalenceOf::default()).await?),
        None => None,
    };
    let after = |share: Probability| -> Result<Vec<Option<Estimate<Probability>>>, AppError> {
        let from = Estimate { estimate: share, lower: share, upper: share };
        if !found.is_empty() {
            return Ok(vec![Some(input.chain(from, &found)?.end)]);
        }
        let summary = focus.and_then(|row| row.summary).unwrap_or_default();
        let ends = [summary.lr_positive, summary.lr_negative];
        Ok(ends.into_iter().map(|lr| after_result(from, lr?, Level::default())).collect())
    };
    let row = |studied: Option<SpectrumPart>, share| Ok(SpectrumRow { studied, share, after: after(share)? });
    let mut rows = usual.map(|usual| row(None, usual)).into_iter().collect::<Result<Vec<_>, AppError>>()?;
    let other_spectrum = other_spectrum(pre_test.estimate, &parts);
    for part in parts {
        let share = part.share;
        rows.push(row(Some(part), share)?);
    }
    Ok(PatientBackground { limits, other_spectrum, spectrum: rows, prevalence })
}
