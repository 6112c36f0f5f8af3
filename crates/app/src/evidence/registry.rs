//! Asks a registry of published works for one of them. Without a registry of its own the server starts the simulated one that
//! ships with it, and both sides speak as over a network.

use std::time::Duration;

use pruvex_core::evidence::{Identifier, Reference};
use pruvex_formats::read_csl_item;
use reqwest::{Client, StatusCode};
use tracing::warn;

use crate::AppError;

/// Whoever waits longer types the reference in.
const PATIENCE: Duration = Duration::from_secs(6);

/// The registry's address, if there is one.
#[derive(Debug, Clone)]
pub(crate) struct Registry {
    base: Option<String>,
    client: Client,
}

impl Registry {
    pub fn new(base: Option<&str>) -> Self {
        Self { base: base.map(|base| base.trim_end_matches('/').to_owned()), client: Client::new() }
    }

    /// The work that an identifier stands for.
    ///
    /// # Errors
    /// No registry, one that does not answer or answers something else, or one that does not know the work.
    pub async fn look_up(&self, identifier: &Identifier) -> Result<Reference, AppError> {
        let base = self.base.as_ref().ok_or(AppError::NoRegistry)?;
        let (path, name) = match identifier {
            Identifier::Doi(doi) => ("works", doi),
            Identifier::Pmid(number) => ("pubmed", number),
        };
        // A DOI may hold signs that mean something in an address; its slashes separate parts there too.
        let name: String = name.split('/').map(|part| format!("/{}", encoded(part))).collect();
        let failed = |cause: String| {
            warn!(%cause, "the registry failed");
            AppError::RegistryFailed
        };
        let request = self.client.get(format!("{base}/{path}{name}")).timeout(PATIENCE);
        let request = request.header("Accept", "application/vnd.citationstyles.csl+json");
        let answer = request.send().await.map_err(|error| failed(error.to_string()))?;
        match answer.status() {
            StatusCode::OK => {}
            StatusCode::NOT_FOUND => return Err(AppError::WorkUnknown),
            other => return Err(failed(format!("it answered {other}"))),
        }
        let item = answer.json().await.map_err(|error| failed(error.to_string()))?;
        let input = read_csl_item(&item).map_err(|error| failed(error.to_string()))?;
        Reference::check(&input)
            .map_err(|errors| failed(errors.iter().map(ToString::to_string).collect::<Vec<_>>().join(" ")))
    }
}

fn encoded(part: &str) -> String {
    percent_encoding::utf8_percent_encode(part, percent_encoding::NON_ALPHANUMERIC).to_string()
}
