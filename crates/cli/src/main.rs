//! The binary `pruvex`: the server, and the same core on the command line.

mod accuracy;
mod agreement;
mod backup;
mod bias;
mod calibration;
mod check;
mod combine;
mod database;
mod drill;
mod error;
mod import;
mod levels;
mod output;
mod plan;
mod pool;
mod posttest;
mod prevalence;
mod rebuild;
mod schema;
mod serve;
mod verify;

use std::process::ExitCode;

use clap::{Parser, Subcommand};

use crate::error::CliError;

/// The system's keeps what a busy minute took, hundreds of megabytes of hashed passwords and read files; this one gives it back.
#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

/// Catalogue special tests, pool their accuracy, and read what a result is worth.
///
/// Educational and decision-support material for licensed professionals and supervised learners; not for use by patients or
/// unsupervised learners; not a diagnosis.
#[derive(Debug, Parser)]
#[command(version, arg_required_else_help = true)]
struct Arguments {
    #[command(subcommand)]
    command: Command,
}

#[derive(Debug, Subcommand)]
enum Command {
    /// Serve the application.
    Serve(serve::Arguments),
    /// Import an exchange bundle, all of it or nothing.
    Import(import::Arguments),
    /// Export the catalogue, or one region of it, as an exchange bundle.
    Export(import::ExportArguments),
    /// Write the whole database to one file, and read it back.
    Backup(backup::Arguments),
    /// Put a backup back.
    Restore(backup::RestoreArguments),
    /// Pool a CSV table of 2x2 counts.
    Pool(pool::Arguments),
    /// Accuracy of each study of a CSV table.
    Accuracy(accuracy::Arguments),
    /// A likelihood ratio for each level of a finding.
    Levels(levels::Arguments),
    /// What biases make of a table: a reference standard that errs, people who were not verified.
    Bias(bias::Arguments),
    /// What a result is worth at a pre-test probability.
    Posttest(posttest::Arguments),
    /// Rules over several tests.
    Combine(combine::Arguments),
    /// The order of an examination, and when enough is known.
    Plan(plan::Arguments),
    /// Reliability from a table of ratings or measurements.
    Agreement(agreement::Arguments),
    /// The 2x2 tables behind a rounded report.
    Rebuild(rebuild::Arguments),
    /// How common a condition is with and without symptoms.
    Prevalence(prevalence::Arguments),
    /// How well probabilities agree with what came true, and own estimates with Bayes' rule.
    Calibration(calibration::Arguments),
    /// Questions made of the sheets of a bundle.
    Drill(drill::Arguments),
    /// What the sheets of a bundle forgot or contradict, and what follows from them.
    Check(check::Arguments),
    /// Confirm a frozen pool: its hash, and its answer computed again.
    Verify(verify::Arguments),
    /// Print the OpenAPI document.
    Openapi,
    /// Print a JSON Schema: of what the computing commands print with --format json, or of bundles.
    Schema { of: schema::Of },
}

fn main() -> ExitCode {
    let result = match Arguments::parse().command {
        Command::Serve(arguments) => serve::run(arguments),
        Command::Import(arguments) => import::run(&arguments),
        Command::Export(arguments) => import::export(&arguments),
        Command::Levels(arguments) => levels::run(&arguments),
        Command::Prevalence(arguments) => prevalence::run(&arguments),
        Command::Calibration(arguments) => calibration::run(&arguments),
        Command::Drill(arguments) => drill::run(&arguments),
        Command::Check(arguments) => check::run(&arguments),
        Command::Backup(arguments) => backup::run(&arguments),
        Command::Restore(arguments) => backup::restore(&arguments),
        Command::Pool(arguments) => pool::run(&arguments),
        Command::Accuracy(arguments) => accuracy::run(&arguments),
        Command::Bias(arguments) => bias::run(&arguments),
        Command::Posttest(arguments) => posttest::run(&arguments),
        Command::Combine(arguments) => combine::run(&arguments),
        Command::Plan(arguments) => plan::run(&arguments),
        Command::Agreement(arguments) => agreement::run(&arguments),
        Command::Rebuild(arguments) => rebuild::run(&arguments),
        Command::Verify(arguments) => verify::run(&arguments),
        Command::Schema { of } => schema::document(of).map(|text| emit(&text)),
        Command::Openapi => pruvex_server::openapi_json().map(|text| emit(&text)).map_err(CliError::from),
    };
    match result {
        Ok(()) => ExitCode::SUCCESS,
        Err(error) => {
            eprintln!("pruvex: {error}");
            ExitCode::FAILURE
        }
    }
}

/// The one place that writes to standard output; a reader that went away (`| head`) is no error.
fn emit(text: &str) {
    use std::io::Write;
    let _ = writeln!(std::io::stdout(), "{text}");
}

/// Structured logs on standard error, at this level unless `RUST_LOG` chooses another.
fn log_to_stderr(usual: &str) {
    let filter = tracing_subscriber::EnvFilter::try_from_default_env()
        .unwrap_or_else(|_| tracing_subscriber::EnvFilter::new(usual));
    tracing_subscriber::fmt().json().flatten_event(true).with_env_filter(filter).with_writer(std::io::stderr).init();
}
