//! `pruvex import` and `pruvex export`.

use std::path::PathBuf;

use pruvex_core::FieldError;
use pruvex_core::catalogue::Region;
use pruvex_store::exchange::{Fate, Meeting};
use pruvex_store::history::Act;
use pruvex_store::{StoreError, catalogue, exchange};

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

pub fn run(arguments: &Arguments) -> Result<(), String> {
    let mut bundles = Vec::new();
    for path in &arguments.files {
        let file = path.display().to_string();
        let bytes = std::fs::read(path).map_err(|error| format!("{file} cannot be read: {error}"))?;
        bundles.push((pruvex_formats::read_bundle(&bytes).map_err(|errors| listed(&file, &errors))?, file));
    }
    let meeting = match arguments.changed {
        Changed::Refuse => Meeting::Refuse,
        Changed::Keep => Meeting::Keep,
        Changed::Replace => Meeting::Replace,
    };
    runtime()?.block_on(async {
        pruvex_store::migrate(&arguments.database_url).await.map_err(|error| error.to_string())?;
        let db = pruvex_store::connect(&arguments.database_url).await.map_err(|error| error.to_string())?;
        if arguments.if_empty && !catalogue::is_empty(&db).await.map_err(|error| error.to_string())? {
            crate::emit("The catalogue already holds tests; nothing was imported.");
            return Ok(());
        }
        for (bundle, file) in &bundles {
            let act = Act::of("imported", None);
            let imported = exchange::import(&db, bundle, &meeting, act, arguments.preview).await;
            let imported = imported.map_err(|error| match error {
                StoreError::Fields(errors) => listed(file, &errors),
                other => other.to_string(),
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

fn listed(file: &str, errors: &[FieldError]) -> String {
    let lines: Vec<String> = errors.iter().map(|error| format!("  {error}")).collect();
    format!("{file} was not imported; nothing was changed.\n{}", lines.join("\n"))
}

fn runtime() -> Result<tokio::runtime::Runtime, String> {
    tokio::runtime::Runtime::new().map_err(|error| error.to_string())
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

pub fn export(arguments: &ExportArguments) -> Result<(), String> {
    runtime()?.block_on(async {
        let db = pruvex_store::connect(&arguments.database_url).await.map_err(|error| error.to_string())?;
        let bundle =
            exchange::export(&db, arguments.region, &arguments.title).await.map_err(|error| error.to_string())?;
        let text = pruvex_formats::write_bundle(&bundle).map_err(|error| error.to_string())?;
        let file = arguments.file.display();
        std::fs::write(&arguments.file, text).map_err(|error| format!("{file} cannot be written: {error}"))?;
        crate::emit(&format!("Wrote {} tests to {file}.", bundle.tests.len()));
        Ok(())
    })
}
