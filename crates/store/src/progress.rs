//! How far a long piece of work is.

use serde::Serialize;
use utoipa::ToSchema;

/// What an import is doing.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ImportPhase {
    /// Reading the file.
    Reading,
    /// Comparing what it holds with what is on record.
    Comparing,
    /// Writing it.
    Writing,
}

/// Is told what is done in a phase, and of how many; answers whether to go on.
pub type Step<'a> = dyn Fn(ImportPhase, usize, usize) -> bool + Sync + 'a;
