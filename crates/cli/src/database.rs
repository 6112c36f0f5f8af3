//! The application for commands that need the database.

use pruvex_app::{App, AppConfig};

use crate::error::CliError;

/// Runs work that waits for the database.
pub fn run<T>(work: impl Future<Output = Result<T, CliError>>) -> Result<T, CliError> {
    tokio::runtime::Runtime::new().map_err(CliError::Runtime)?.block_on(work)
}

/// The application on this database, without a registry of works.
pub async fn connect(database_url: &str) -> Result<App, CliError> {
    let config = AppConfig { database_url: database_url.to_owned(), demo: false, registry: None };
    Ok(App::connect(config).await?)
}
