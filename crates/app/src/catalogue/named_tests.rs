//! Tests by their names, as far as whoever asks may see them.

use std::collections::{HashMap, HashSet};

use pruvex_core::TestId;
use pruvex_core::people::Role;
use serde::Serialize;
use utoipa::ToSchema;

use crate::{App, AppError};

/// A test and its name.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct NamedTest {
    pub(crate) id: TestId,
    pub(crate) name: String,
}

/// The names of these tests, of those that this role may see.
pub(crate) async fn named(
    app: &App,
    role: Role,
    tests: impl Iterator<Item = TestId>,
) -> Result<HashMap<TestId, NamedTest>, AppError> {
    let tests: HashSet<TestId> = tests.collect();
    if tests.is_empty() {
        return Ok(HashMap::new());
    }
    let catalogue = app.catalogue().await?;
    let rows = catalogue.rows(role).filter(|row| tests.contains(&row.id));
    Ok(rows.map(|row| (row.id, NamedTest { id: row.id, name: row.name.clone() })).collect())
}
