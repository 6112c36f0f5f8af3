//! Tests by their names, beside what is reported of them.

use std::collections::{HashMap, HashSet};

use pruvex_core::TestId;
use pruvex_core::people::Role;
use serde::Serialize;
use utoipa::ToSchema;

use crate::{App, AppError};

/// A test of which a result is reported.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct ReportedTest {
    pub(super) id: TestId,
    pub(super) name: String,
}

/// The names of tests, as far as whoever asks may see them.
pub(super) async fn named(
    app: &App,
    role: Role,
    tests: impl Iterator<Item = TestId>,
) -> Result<HashMap<TestId, ReportedTest>, AppError> {
    let tests: HashSet<TestId> = tests.collect();
    if tests.is_empty() {
        return Ok(HashMap::new());
    }
    let catalogue = app.catalogue().await?;
    let rows = catalogue.rows(role).filter(|row| tests.contains(&row.id));
    Ok(rows.map(|row| (row.id, ReportedTest { id: row.id, name: row.name.clone() })).collect())
}
