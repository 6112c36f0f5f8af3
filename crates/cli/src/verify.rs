//! `pruvex verify`: is a frozen pool what was frozen, and does it still compute to its answer?

use pruvex_core::evidence::SnapshotFile;
use serde::Serialize;
use utoipa::ToSchema;

use crate::error::CliError;
use crate::output::{Format, print, read};

#[derive(Debug, clap::Args)]
#[command(after_help = "Example:\n  pruvex verify pruvex-pool.json")]
pub struct Arguments {
    /// The file of a frozen pool, or - for standard input.
    file: String,
    /// The hash that it was cited with; without it the one in the file is compared.
    #[arg(long)]
    hash: Option<String>,
    /// How to print the answer.
    #[arg(long, value_enum, default_value_t = Format::Text)]
    format: Format,
}

/// A frozen pool that is confirmed.
#[derive(Debug, Serialize, ToSchema)]
pub struct VerifyOutput {
    /// What it is called.
    title: String,
    /// When it was frozen.
    frozen_at: String,
    /// What computed it then.
    engine: String,
    /// SHA-256 of its content.
    hash: String,
    /// Results in the pool.
    results: usize,
    /// At least one of them is made up.
    sample: bool,
}

pub fn run(arguments: &Arguments) -> Result<(), CliError> {
    let bytes = read(&arguments.file)?;
    let file: SnapshotFile = serde_json::from_slice(&bytes)
        .map_err(|error| CliError::Refused(format!("{} is not the file of a frozen pool: {error}", arguments.file)))?;
    let stated = arguments.hash.as_deref().unwrap_or(&file.hash).trim().to_lowercase();
    let SnapshotFile { snapshot, .. } = file;
    let not = |error| CliError::Refused(format!("{} is not confirmed: {error}", arguments.file));
    snapshot.confirm(&stated).map_err(not)?;
    let output = VerifyOutput {
        results: snapshot.results.iter().filter(|it| it.out.is_none()).count(),
        title: snapshot.title,
        frozen_at: snapshot.frozen_at,
        engine: snapshot.engine,
        hash: stated,
        sample: snapshot.sample,
    };
    print(arguments.format, &output, || {
        let sample = if output.sample { "\nSAMPLE DATA: at least one result is made up." } else { "" };
        format!(
            "Confirmed: {}\nfrozen {} by {}, {} results\nsha256 {}{sample}",
            output.title, output.frozen_at, output.engine, output.results, output.hash
        )
    })
}
