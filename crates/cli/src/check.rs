//! `pruvex check`: what the sheets of a bundle forgot or contradict, and what follows from them without being written.

use pruvex_core::catalogue::{Derived, Digest, Finding, FindingCode, Neighbours, Vocabulary, audit};
use serde::Serialize;
use utoipa::ToSchema;

use crate::error::CliError;
use crate::output::{Format, print, read};

#[derive(Debug, clap::Args)]
#[command(after_help = "Example:\n  pruvex check demo/hand_wrist.json")]
pub struct Arguments {
    /// A bundle, or - for standard input.
    file: String,
    /// How to print the answer.
    #[arg(long, value_enum, default_value_t = Format::Text)]
    format: Format,
}

/// What a sheet forgot or contradicts, and what follows from it.
#[derive(Debug, Serialize, ToSchema)]
pub struct CheckedSheet {
    /// Name of the test.
    name: String,
    /// It is made up.
    sample: bool,
    /// What it forgot or contradicts, by itself and against the other sheets of the file. Names of structures are compared with the file's own only,
    /// so that one of the catalogue's is no fault.
    findings: Vec<Finding>,
    /// What follows from it.
    derived: Derived,
}

pub fn run(arguments: &Arguments) -> Result<(), CliError> {
    let bundle = pruvex_formats::read_bundle(&read(&arguments.file)?).map_err(|faults| {
        let faults: Vec<String> = faults.iter().map(|fault| format!("  {fault}")).collect();
        CliError::Refused(format!("{} was not checked:\n{}", arguments.file, faults.join("\n")))
    })?;
    let vocabulary = Vocabulary::new(bundle.structures);
    let digests: Vec<_> = bundle.tests.iter().map(|test| std::sync::Arc::new(Digest::of(&test.sheet))).collect();
    let neighbours = Neighbours::new((0..).zip(digests));
    let known = |finding: &Finding| finding.code != FindingCode::UnknownStructure;
    let checked = bundle.tests.into_iter().enumerate().map(|(place, test)| {
        let mut findings = audit(&test.sheet, &vocabulary);
        findings.extend(neighbours.compare_stored(place as u128));
        findings.retain(known);
        CheckedSheet { derived: Derived::of(&test.sheet), name: test.sheet.name, sample: test.sample, findings }
    });
    let checked: Vec<CheckedSheet> = checked.collect();
    print(arguments.format, &checked, || {
        let lines = checked.iter().flat_map(|sheet| {
            let sample = if sheet.sample { " (sample data)" } else { "" };
            let head = match sheet.findings.len() {
                0 => format!("{}{sample}: no warnings", sheet.name),
                1 => format!("{}{sample}: 1 warning", sheet.name),
                n => format!("{}{sample}: {n} warnings", sheet.name),
            };
            let found = sheet.findings.iter().map(|it| format!("  {}: {} {}", it.field, it.message, it.remedy));
            std::iter::once(head).chain(found)
        });
        lines.collect::<Vec<_>>().join("\n")
    })
}
