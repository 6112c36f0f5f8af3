//! The pool of one test, as its sheet shows it.

use std::sync::Arc;

use pruvex_core::TestId;
use pruvex_core::accuracy::Uninterpretable;
use pruvex_core::people::Role;
use pruvex_core::pooling::Pooled;
use pruvex_store::evidence::{ResultCandidate, list_candidates};
use serde::Serialize;
use utoipa::ToSchema;

use super::backing::{Backed, Evidence, back, figures_version};
use super::pools::{Standing, Wait};
use crate::blocking::blocking;
use crate::catalogue::{shown_condition, visible_test};
use crate::people::{Reader, current_settings, seen_by};
use crate::{App, AppError};

/// The pooled answer of one test.
#[derive(Debug, Serialize, ToSchema)]
pub struct PooledAnswer {
    /// How much stands behind it.
    evidence: Evidence,
    /// At least one made-up study is in it.
    sample: bool,
    /// `null` when there is no study.
    pooled: Option<Pooled>,
    /// Tests that could not be interpreted, as far as reports tell; the figures leave them out.
    uninterpretable: Uninterpretable,
    /// How it stands.
    standing: Standing,
    /// Version of these figures: another one as soon as they are others.
    figures: String,
}

impl From<Option<Backed>> for PooledAnswer {
    fn from(backed: Option<Backed>) -> Self {
        match backed {
            None => {
                let (evidence, figures) = (Evidence::NotStudied, String::new());
                let uninterpretable = Uninterpretable::default();
                Self { evidence, sample: false, pooled: None, uninterpretable, standing: Standing::Current, figures }
            }
            Some(Backed { evidence, sample, pooled, standing, uninterpretable, .. }) => {
                let figures = figures_version(pooled.as_ref().map(|pooled| &pooled.summary));
                let pooled = pooled.map(|pooled| Pooled::clone(&pooled));
                Self { evidence, sample, pooled, uninterpretable, standing, figures }
            }
        }
    }
}

/// Summary sensitivity, specificity and ratios of a test's studies, with the model used and why.
///
/// # Errors
/// No such test that this person may see, a condition that it does not show.
pub async fn pool_test(app: &App, by: &Reader, id: TestId, condition: Option<&str>) -> Result<PooledAnswer, AppError> {
    let test = visible_test(&app.db, id, by.account()).await?;
    let answer: PooledAnswer =
        backed(app, id, (&test.sheet.condition, shown_condition(&test.sheet, condition)?), by.role()).await?.into();
    Ok(PooledAnswer { evidence: answer.evidence.with(&test.sheet), ..answer })
}

/// What stands behind one test for somebody in this role, taught for one condition and asked about that or another one; none without a
/// study.
pub(crate) async fn backed(
    app: &App,
    test: TestId,
    conditions: (&str, &str),
    role: Role,
) -> Result<Option<Backed>, AppError> {
    let seen = seen_by(role, &app.db).await?;
    backed_by(app, list_candidates(&app.db, Some(&[test]), seen).await?, conditions).await
}

/// What these results of one test would stand behind; none without any.
pub(crate) async fn backed_by(
    app: &App,
    results: Vec<ResultCandidate>,
    (taught, asked): (&str, &str),
) -> Result<Option<Backed>, AppError> {
    let (pools, taught, asked) = (Arc::clone(&app.pools), taught.to_owned(), asked.to_owned());
    let interval = current_settings(&app.db).await?.interval;
    blocking(move || back(&pools, &results, (&taught, &asked), interval, Wait::Now)).await
}
