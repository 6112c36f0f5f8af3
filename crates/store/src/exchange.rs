//! Bundles into the database: all of it or nothing.

use pruvex_formats::Bundle;
use sea_orm::{DatabaseConnection, TransactionTrait};

use crate::StoreError;
use crate::catalogue::{create_test, put_condition};
use crate::evidence::create_study;

/// What an import brought, or would bring.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct ImportCounts {
    /// Conditions added or completed.
    pub conditions: usize,
    /// Tests added.
    pub tests: usize,
    /// Studies added.
    pub studies: usize,
}

/// Imports a bundle in one transaction. With `preview` everything is tried and then taken back.
///
/// # Errors
/// [`StoreError::Fields`] with every name that is taken and its path in the bundle; nothing is changed then.
pub async fn import(db: &DatabaseConnection, bundle: &Bundle, preview: bool) -> Result<ImportCounts, StoreError> {
    let transaction = db.begin().await?;
    for condition in &bundle.conditions {
        put_condition(&transaction, condition).await?;
    }
    let mut errors = Vec::new();
    let mut studies = 0;
    for (index, test) in bundle.tests.iter().enumerate() {
        match create_test(&transaction, &test.sheet, bundle.sample).await {
            Ok(record) => {
                for study in &test.studies {
                    create_study(&transaction, record.id, study, bundle.sample).await?;
                    studies += 1;
                }
            }
            Err(StoreError::Fields(found)) => {
                errors.extend(found.into_iter().map(|error| error.within(&format!("tests[{index}]."))));
            }
            Err(error) => return Err(error),
        }
    }
    if !errors.is_empty() {
        return Err(StoreError::Fields(errors));
    }
    if preview {
        transaction.rollback().await?;
    } else {
        transaction.commit().await?;
    }
    Ok(ImportCounts { conditions: bundle.conditions.len(), tests: bundle.tests.len(), studies })
}
