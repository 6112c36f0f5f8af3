//! `pruvex import` and `pruvex export`.

use std::path::PathBuf;

use pruvex_app::AppError;
use pruvex_app::exchange::{Fate, Meeting, export_for_operator, import_for_operator, is_catalogue_empty};
use pruvex_app::people::Operator;
use pruvex_core::catalogue::Region;

use crate::database::{connect, run as wait_for};
use crate::error::CliError;

#[derive(Debug, clap::Args)]
#[command(after_help = "Example:\n  pruvex import demo/hand_wrist.json --preview")]
pub struct Arguments {
    /// The bundles; each is imported whole or not at all.
    #[arg(required = true)]
    files: Vec<PathBuf>,
    /// Try everything, say what would come in, and change nothing.
    #[arg(long)]
    preview: bool,
    /// Do nothing when the catalogue already holds a test.
    #[arg(long)]
    if_empty: bool,
    /// What to do with tests that are there and say something else.
    #[arg(long, value_enum, default_value = "refuse")]
    changed: Changed,
    /// PostgreSQL URL.
    #[arg(long, env = "DATABASE_URL", hide_env_values = true)]
    database_url: String,
}

#[derive(Debug, Clone, Copy, clap::ValueEnum)]
enum Changed {
    /// Import nothing.
    Refuse,
    /// Keep what is there; new studies come in.
    Keep,
    /// Replace the sheet; its history keeps both.
    Replace,
}

pub fn run(arguments: &Arguments) -> Result<(), CliError> {
    crate::log_to_stderr("error");
    let read = |path: &PathBuf| {
        let bytes = std::fs::read(path).map_err(CliError::unreadable(path))?;
        Ok((path.display().to_string(), bytes))
    };
    let files = arguments.files.iter().map(read).collect::<Result<Vec<(String, Vec<u8>)>, CliError>>()?;
    let meeting = match arguments.changed {
        Changed::Refuse => Meeting::Refuse,
        Changed::Keep => Meeting::Keep,
        Changed::Replace => Meeting::Replace,
    };
    wait_for(async {
        let (app, operator) = (connect(&arguments.database_url).await?, Operator::at_this_machine());
        app.migrate().await?;
        if arguments.if_empty && !is_catalogue_empty(&app, &operator).await? {
            crate::emit("The catalogue already holds tests; nothing was imported.");
            return Ok(());
        }
        for (file, bytes) in files {
            let imported = import_for_operator(&app, &operator, bytes, &meeting, arguments.preview).await;
            let imported = imported.map_err(|error| match error {
                AppError::Fields(faults) => CliError::Bundle { file, faults },
                other => other.into(),
            })?;
            let verb = if arguments.preview { "Would import" } else { "Imported" };
            let sample = if imported.sample { ", all of it sample data" } else { "" };
            let of = |fate| imported.tests.iter().filter(|test| test.fate == fate).count();
            crate::emit(&format!(
                "{verb} {}: {} tests ({} new, {} changed, {} the same), {} studies with {} results of accuracy and {} of agreement{sample}.",
                imported.title,
                imported.tests.len(),
                of(Fate::New),
                of(Fate::Changed),
                of(Fate::Same),
                imported.studies,
                imported.results(),
                imported.agreements(),
            ));
        }
        Ok(())
    })
}

#[derive(Debug, clap::Args)]
#[command(after_help = "Example:\n  pruvex export --region neck neck.json")]
pub struct ExportArguments {
    /// The file to write.
    file: PathBuf,
    /// Only this region (its code, such as `hand_wrist`).
    #[arg(long, value_parser = region)]
    region: Option<Region>,
    /// What the bundle calls itself.
    #[arg(long, default_value = "Pruvex catalogue")]
    title: String,
    /// PostgreSQL URL.
    #[arg(long, env = "DATABASE_URL", hide_env_values = true)]
    database_url: String,
}

fn region(code: &str) -> Result<Region, String> {
    let known = Region::ALL.map(Region::code).join(", ");
    Region::from_code(code).ok_or_else(|| format!("use one of: {known}"))
}

pub fn export(arguments: &ExportArguments) -> Result<(), CliError> {
    crate::log_to_stderr("error");
    wait_for(async {
        let (app, operator) = (connect(&arguments.database_url).await?, Operator::at_this_machine());
        let (text, tests) = export_for_operator(&app, &operator, arguments.region, &arguments.title).await?;
        std::fs::write(&arguments.file, text).map_err(CliError::unwritable(&arguments.file))?;
        crate::emit(&format!("Wrote {tests} tests to {}.", arguments.file.display()));
        Ok(())
    })
}
