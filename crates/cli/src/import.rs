//! `pruvex import`.

use std::path::PathBuf;

use pruvex_core::FieldError;
use pruvex_store::{StoreError, catalogue, exchange};

#[derive(Debug, clap::Args)]
#[command(after_help = "Example:\n  pruvex import demo/fenwater.json --preview")]
pub struct Arguments {
    /// The bundle.
    file: PathBuf,
    /// Try everything, say what would come in, and change nothing.
    #[arg(long)]
    preview: bool,
    /// Do nothing when the catalogue already holds a test.
    #[arg(long)]
    if_empty: bool,
    /// PostgreSQL URL.
    #[arg(long, env = "DATABASE_URL", hide_env_values = true)]
    database_url: String,
}

pub fn run(arguments: &Arguments) -> Result<(), String> {
    let file = arguments.file.display();
    let bytes = std::fs::read(&arguments.file).map_err(|error| format!("{file} cannot be read: {error}"))?;
    let bundle = pruvex_formats::read_bundle(&bytes).map_err(|errors| listed(&file.to_string(), &errors))?;
    let runtime = tokio::runtime::Runtime::new().map_err(|error| error.to_string())?;
    runtime.block_on(async {
        let words = |error: StoreError| match error {
            StoreError::Fields(errors) => listed(&file.to_string(), &errors),
            other => other.to_string(),
        };
        pruvex_store::migrate(&arguments.database_url).await.map_err(words)?;
        let db = pruvex_store::connect(&arguments.database_url).await.map_err(words)?;
        if arguments.if_empty && !catalogue::is_empty(&db).await.map_err(words)? {
            crate::emit("The catalogue already holds tests; nothing was imported.");
            return Ok(());
        }
        let counts = exchange::import(&db, &bundle, arguments.preview).await.map_err(words)?;
        let verb = if arguments.preview { "Would import" } else { "Imported" };
        let sample = if bundle.sample { ", all of it sample data" } else { "" };
        crate::emit(&format!(
            "{verb} {}: {} conditions, {} tests, {} studies{sample}.",
            bundle.title, counts.conditions, counts.tests, counts.studies
        ));
        Ok(())
    })
}

fn listed(file: &str, errors: &[FieldError]) -> String {
    let lines: Vec<String> = errors.iter().map(|error| format!("  {error}")).collect();
    format!("{file} was not imported; nothing was changed.\n{}", lines.join("\n"))
}
