//! Why a command did not do what was asked.

use std::path::Path;

use pruvex_app::AppError;
use pruvex_core::FieldError;
use pruvex_formats::CsvError;

/// Why a command did not do what was asked; nothing was changed then.
#[derive(Debug, thiserror::Error)]
pub enum CliError {
    /// A file that cannot be read.
    #[error("{file} cannot be read: {cause}")]
    Unreadable {
        /// Its name, or "standard input".
        file: String,
        /// Why.
        cause: std::io::Error,
    },
    /// A file that cannot be written.
    #[error("{file} cannot be written: {cause}")]
    Unwritable {
        /// Its name.
        file: String,
        /// Why.
        cause: std::io::Error,
    },
    /// A table with faults.
    #[error("{file} was not read:\n{}", lines(.faults))]
    Table {
        /// Its name.
        file: String,
        /// All of them.
        faults: Vec<CsvError>,
    },
    /// A bundle with faults.
    #[error("{file} was not imported; nothing was changed.\n{}", lines(.faults))]
    Bundle {
        /// Its name.
        file: String,
        /// All of them.
        faults: Vec<FieldError>,
    },
    /// The application did not do it.
    #[error("{}", told(.0))]
    App(#[from] AppError),
    /// A program that this one needs did not do its part.
    #[error("{0}")]
    Tool(String),
    /// What was given cannot be computed with, or makes no sense together.
    #[error("{0}")]
    Refused(String),
    /// An answer that cannot be written as JSON.
    #[error("the answer cannot be written as JSON: {0}")]
    Json(#[from] serde_json::Error),
    /// The machine gives no means to run.
    #[error("{0}")]
    Runtime(#[source] std::io::Error),
}

impl CliError {
    /// By the words of whatever refused.
    pub fn refused(cause: impl std::fmt::Display) -> Self {
        Self::Refused(cause.to_string())
    }

    pub fn unreadable(file: &Path) -> impl FnOnce(std::io::Error) -> Self {
        let file = file.display().to_string();
        move |cause| Self::Unreadable { file, cause }
    }

    pub fn unwritable(file: &Path) -> impl FnOnce(std::io::Error) -> Self {
        let file = file.display().to_string();
        move |cause| Self::Unwritable { file, cause }
    }

    pub fn table(file: &str) -> impl FnOnce(Vec<CsvError>) -> Self {
        let file = if file == "-" { "standard input".to_owned() } else { file.to_owned() };
        move |faults| Self::Table { file, faults }
    }
}

/// Who is at the machine can look after the database; whoever asks over HTTP can only wait.
fn told(error: &AppError) -> String {
    match error {
        AppError::DatabaseUnavailable => {
            "The database cannot be reached; nothing was changed. See that it runs, and that --database-url names it."
                .to_owned()
        }
        other => other.to_string(),
    }
}

fn lines(faults: &[impl std::fmt::Display]) -> String {
    faults.iter().map(|fault| format!("  {fault}")).collect::<Vec<_>>().join("\n")
}
