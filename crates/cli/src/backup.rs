//! `pruvex backup` and `pruvex restore`: the whole database in one file, by PostgreSQL's own tools.

use std::path::{Path, PathBuf};
use std::process::Command;

use percent_encoding::percent_decode_str;
use pruvex_app::backup::{is_blank, records};
use pruvex_app::people::Operator;
use url::Url;

use crate::database::{connect, run as wait_for};
use crate::error::CliError;

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

pub fn run(arguments: &Arguments) -> Result<(), CliError> {
    let file = &arguments.file;
    let part = file.with_extension("part");
    let part_name = part.display().to_string();
    private(&part)?;
    tool("pg_dump", &arguments.database_url, &["--format=custom", "--no-owner", "--file", &part_name])?;
    check(&part)?;
    std::fs::rename(&part, file).map_err(CliError::unwritable(file))?;
    let size = std::fs::metadata(file).map_err(CliError::unreadable(file))?.len();
    crate::emit(&format!("Wrote {} ({size} bytes), and read it back whole.", file.display()));
    Ok(())
}

pub fn restore(arguments: &RestoreArguments) -> Result<(), CliError> {
    let file = arguments.file.display().to_string();
    std::fs::metadata(&arguments.file).map_err(CliError::unreadable(&arguments.file))?;
    crate::log_to_stderr("error");
    check(&arguments.file)?;
    let url = &arguments.database_url;
    let operator = Operator::at_this_machine();
    let empty = wait_for(async { Ok(is_blank(&connect(url).await?, &operator).await?) })?;
    if !empty && !arguments.replace {
        let advice = "Restore into an empty database, or say --replace to put the backup in its place.";
        return Err(CliError::Refused(format!("The database is not empty; nothing was changed. {advice}")));
    }
    // One transaction: a restore that fails leaves what was there.
    let mut options = vec!["--single-transaction", "--exit-on-error", "--no-owner"];
    if !empty {
        options.extend(["--clean", "--if-exists"]);
    }
    options.push(&file);
    tool("pg_restore", url, &options)?;
    let (tests, studies) = wait_for(async {
        let app = connect(url).await?;
        app.migrate().await?;
        Ok(records(&app, &operator).await?)
    })?;
    crate::emit(&format!("Restored {file}: {tests} tests and {studies} studies with their histories."));
    Ok(())
}

/// Makes the file, empty, for nobody else to read: it will hold the hashes of passwords. Who writes into it later keeps that.
fn private(file: &Path) -> Result<(), CliError> {
    match std::fs::remove_file(file) {
        Err(error) if error.kind() != std::io::ErrorKind::NotFound => return Err(CliError::unwritable(file)(error)),
        _ => {}
    }
    let mut options = std::fs::OpenOptions::new();
    options.write(true).create_new(true);
    #[cfg(unix)]
    std::os::unix::fs::OpenOptionsExt::mode(&mut options, 0o600);
    options.open(file).map_err(CliError::unwritable(file))?;
    Ok(())
}

/// Reads the whole archive, so that a torn or damaged file is told now and not on the day it is needed.
fn check(file: &Path) -> Result<(), CliError> {
    let name = file.display().to_string();
    let output = Command::new("pg_restore")
        .args(["--file=/dev/null", &name])
        .output()
        .map_err(|error| missing("pg_restore", &error))?;
    if output.status.success() {
        return Ok(());
    }
    let why = String::from_utf8_lossy(&output.stderr);
    Err(CliError::Tool(format!("{name} is not a whole backup; nothing was changed. {}", why.trim())))
}

/// Runs one of PostgreSQL's tools. The password goes by the environment: arguments can be read by everybody on the machine.
fn tool(program: &str, url: &str, arguments: &[&str]) -> Result<(), CliError> {
    let unreadable = |why: &str| CliError::Refused(format!("the database's URL cannot be read: {why}"));
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
    let why = || String::from_utf8_lossy(&output.stderr).trim().to_owned();
    if output.status.success() { Ok(()) } else { Err(CliError::Tool(why())) }
}

fn missing(program: &str, error: &std::io::Error) -> CliError {
    CliError::Tool(format!("{program} cannot be run: {error}. It comes with Debian's package postgresql-client."))
}
