//! What came of an import.

use pruvex_formats::{ReferenceFormat, Remark};
use pruvex_store::evidence::ReferencesImported;
use pruvex_store::exchange::{Imported, ImportedTable};
use serde::Serialize;
use utoipa::ToSchema;

/// What came of an import.
#[derive(Debug, Clone)]
pub(crate) enum Outcome {
    /// Of a bundle.
    Bundle(Imported),
    /// Of a table of studies and results.
    Table { table: Box<ImportedTable>, remarks: Vec<Remark> },
    /// Of a file of references.
    References(Box<ReferenceFile>),
}

/// What an import of references brought, or would bring.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct ReferenceFile {
    /// The format that the file is in.
    format: ReferenceFormat,
    #[serde(flatten)]
    imported: ReferencesImported,
}

impl ReferenceFile {
    pub(super) fn new(format: ReferenceFormat, imported: ReferencesImported) -> Self {
        Self { format, imported }
    }
}
