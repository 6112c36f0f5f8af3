//! `pruvex backup` and `pruvex restore`: the whole database in one file, by PostgreSQL's own tools.

use std::path::{Path, PathBuf};
use std::process::Command;

use percent_encoding::percent_decode_str;
use pruvex_store::history::Kind;
use url::Url;

#[derive(Debug, clap::Args)]
#[command(after_help = "Example:\n  pruvex backup /var/backups/pruvex.backup")]
pub struct Arguments {
    /// The file to write; one that is there is replaced only when the new one is whole.
    file: PathBuf,
    /// PostgreSQL URL.
    #[arg(long, env = "DATABASE_URL", hide_env_values = true)]
    database_url: String,
}

#[derive(Debug, clap::Args)]
#[command(after_help = "Example:\n  pruvex restore /var/backups/pruvex.backup")]
pub struct RestoreArguments {
    /// The file that `pruvex backup` wrote.
    file: PathBuf,
    /// Replace what the database holds; without it only an empty database is filled.
    #[arg(long)]
    replace: bool,
    /// PostgreSQL URL.
    #[arg(long, env = "DATABASE_URL", hide_env_values = true)]
    database_url: String,
}

pub fn run(arguments: &Arguments) -> Result<(), String> {
    let file = &arguments.file;
    let part = file.with_extension("part");
    let part_name = part.display().to_string();
    tool("pg_dump", &arguments.database_url, &["--format=custom", "--no-owner", "--file", &part_name])?;
    check(&part)?;
    std::fs::rename(&part, file).map_err(|error| format!("{} cannot be written: {error}", file.display()))?;
    let size = std::fs::metadata(file).map_err(|error| error.to_string())?.len();
    crate::emit(&format!("Wrote {} ({size} bytes), and read it back whole.", file.display()));
    Ok(())
}

pub fn restore(arguments: &RestoreArguments) -> Result<(), String> {
    let file = arguments.file.display().to_string();
    std::fs::metadata(&arguments.file).map_err(|error| format!("{file} cannot be read: {error}"))?;
    check(&arguments.file)?;
    let url = &arguments.database_url;
    let runtime = tokio::runtime::Runtime::new().map_err(|error| error.to_string())?;
    let words = |error: pruvex_store::StoreError| error.to_string();
    let empty = runtime.block_on(async {
        let db = pruvex_store::connect(url).await.map_err(words)?;
        pruvex_store::has_no_table(&db).await.map_err(words)
    })?;
    if !empty && !arguments.replace {
        let advice = "Restore into an empty database, or say --replace to put the backup in its place.";
        return Err(format!("The database is not empty; nothing was changed. {advice}"));
    }
    // One transaction: a restore that fails leaves what was there.
    let mut options = vec!["--single-transaction", "--exit-on-error", "--no-owner"];
    if !empty {
        options.extend(["--clean", "--if-exists"]);
    }
    options.push(&file);
    tool("pg_restore", url, &options)?;
    let counts = runtime.block_on(async {
        pruvex_store::migrate(url).await.map_err(words)?;
        let db = pruvex_store::connect(url).await.map_err(words)?;
        let tests = pruvex_store::history::count(&db, Kind::Test).await.map_err(words)?;
        let studies = pruvex_store::history::count(&db, Kind::Study).await.map_err(words)?;
        Ok::<_, String>((tests, studies))
    })?;
    crate::emit(&format!("Restored {file}: {} tests and {} studies with their histories.", counts.0, counts.1));
    Ok(())
}

/// Reads the whole archive, so that a torn or damaged file is told now and not on the day it is needed.
fn check(file: &Path) -> Result<(), String> {
    let name = file.display().to_string();
    let output = Command::new("pg_restore")
        .args(["--file=/dev/null", &name])
        .output()
        .map_err(|error| missing("pg_restore", &error))?;
    if output.status.success() {
        return Ok(());
    }
    let why = String::from_utf8_lossy(&output.stderr);
    Err(format!("{name} is not a whole backup; nothing was changed. {}", why.trim()))
}

/// Runs one of PostgreSQL's tools. The password goes by the environment: arguments can be read by everybody on the machine.
fn tool(program: &str, url: &str, arguments: &[&str]) -> Result<(), String> {
    let unreadable = |why: &str| format!("the database's URL cannot be read: {why}");
    let mut url = Url::parse(url).map_err(|error| unreadable(&error.to_string()))?;
    let password = percent_decode_str(url.password().unwrap_or_default()).decode_utf8();
    let password = password.map_err(|error| unreadable(&error.to_string()))?.into_owned();
    url.set_password(None).map_err(|()| unreadable("it names no server"))?;
    let output = Command::new(program)
        .args(["--dbname", url.as_str()])
        .args(arguments)
        .env("PGPASSWORD", password)
        .output()
        .map_err(|error| missing(program, &error))?;
    if output.status.success() { Ok(()) } else { Err(String::from_utf8_lossy(&output.stderr).trim().to_owned()) }
}

fn missing(program: &str, error: &std::io::Error) -> String {
    format!("{program} cannot be run: {error}. It comes with Debian's package postgresql-client.")
}
