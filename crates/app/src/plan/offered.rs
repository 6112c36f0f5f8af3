//! The tests that a plan may take, with what speaks for each of them.

use pruvex_core::TestId;
use pruvex_core::catalogue::{Basis, Region};
use serde::Serialize;
use utoipa::ToSchema;

use crate::people::Reader;
use crate::{App, AppError};

/// A test that a plan may take.
#[derive(Debug, Serialize, ToSchema)]
pub struct OfferedTest {
    test: TestId,
    name: String,
    /// Which part of the basic examination it is; `null` for a special test.
    basis: Option<Basis>,
    /// Mechanisms of injury that its sheet names as an indication.
    mechanisms: Vec<String>,
    /// Structures that it puts under test.
    structures: Vec<String>,
}

/// The tests of a region, or of all of them, those of the basic examination first, each once, by name.
///
/// # Errors
/// Database errors.
pub async fn list_offered_tests(app: &App, by: &Reader, region: Option<Region>) -> Result<Vec<OfferedTest>, AppError> {
    let catalogue = app.catalogue().await?;
    let mut offered: Vec<OfferedTest> = catalogue
        .rows(by.role())
        .filter(|row| region.is_none_or(|region| row.region == region))
        .map(|row| OfferedTest {
            test: row.id,
            name: row.name.clone(),
            basis: row.basis,
            mechanisms: row.placing.mechanisms.clone(),
            structures: row.placing.structures.clone(),
        })
        .collect();
    offered.sort_by(|a, b| (a.basis.is_none(), &a.name).cmp(&(b.basis.is_none(), &b.name)));
    Ok(offered)
}
