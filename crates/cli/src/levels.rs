//! `pruvex levels`: a likelihood ratio for each level of a finding.

use pruvex_core::Level;
use pruvex_core::accuracy::{LevelCounts, LevelInput, LevelTable, check_levels, level_table};
use pruvex_core::pooling::{PoolOptions, PooledLevelRatio, pool, pool_level_ratios, sharing_levels};
use pruvex_formats::CsvTable;
use serde::Serialize;
use utoipa::ToSchema;

use crate::error::CliError;
use crate::output::{Format, level, print, ratio_line, read};

#[derive(Debug, clap::Args)]
#[command(
    after_help = "Example:\n  printf 'study,level,with,without\\nA,easy,11,32\\nA,hard,26,4\\nA,cannot,12,1\\n' | pruvex levels -\n\n\
    The most normal level comes first. Studies that name the same levels in the same order are pooled."
)]
pub struct Arguments {
    /// CSV file with study,level,with,without, one level a row, or - for standard input.
    file: String,
    /// Confidence level.
    #[arg(long, default_value = "0.95", value_parser = level)]
    level: Level,
    /// How to print the answer.
    #[arg(long, value_enum, default_value_t = Format::Text)]
    format: Format,
}

/// Ratios of levels, study by study and pooled.
#[derive(Debug, Serialize, ToSchema)]
pub struct LevelsOutput {
    /// Each study by itself.
    studies: Vec<StudyLevels>,
    /// Over the studies that share their levels.
    pooled: Vec<PooledLevelRatio>,
    /// Studies that have other levels and are not pooled.
    apart: Vec<String>,
}

/// The levels of one study.
#[derive(Debug, Serialize, ToSchema)]
struct StudyLevels {
    study: String,
    #[serde(flatten)]
    table: LevelTable,
}

pub fn run(arguments: &Arguments) -> Result<(), CliError> {
    let refused = |faults| CliError::Table { file: arguments.file.clone(), faults };
    let bytes = read(&arguments.file)?;
    let table = CsvTable::read(&bytes, &["study", "level", "with", "without"]).map_err(refused)?;
    let (mut named, mut faults): (Vec<(String, Vec<LevelInput>)>, Vec<_>) = (Vec::new(), Vec::new());
    for row in &table.rows {
        let [with, without] = ["with", "without"].map(|column| {
            table.number(row, column).unwrap_or_else(|fault| {
                faults.push(fault);
                None
            })
        });
        let level = LevelInput { name: table.text(row, "level").to_owned(), with, without };
        let study = table.text(row, "study");
        match named.iter_mut().find(|(name, _)| name == study) {
            Some((_, levels)) => levels.push(level),
            None => named.push((study.to_owned(), vec![level])),
        }
    }
    if !faults.is_empty() {
        return Err(refused(faults));
    }
    let mut studies: Vec<(String, Vec<LevelCounts>)> = Vec::new();
    let mut wrong = Vec::new();
    for (study, levels) in named {
        match check_levels(&levels, None) {
            Ok(levels) => studies.push((study, levels)),
            Err(errors) => wrong.extend(errors.into_iter().map(|error| format!("  {study}: {error}"))),
        }
    }
    if !wrong.is_empty() {
        return Err(CliError::Refused(format!("{} was not read:\n{}", arguments.file, wrong.join("\n"))));
    }
    let all: Vec<&[LevelCounts]> = studies.iter().map(|(_, levels)| levels.as_slice()).collect();
    let sharing = sharing_levels(&all);
    let shared: Vec<&[LevelCounts]> = sharing.iter().map(|place| all[*place]).collect();
    let options = PoolOptions { level: arguments.level, ..PoolOptions::default() };
    let pooled = pool_level_ratios(&shared, |tables| pool(tables, options));
    let pooled = pooled.map_err(|error| CliError::Refused(error.to_string()))?;
    let apart = (0..studies.len()).filter(|place| !sharing.contains(place)).map(|place| studies[place].0.clone());
    let output = LevelsOutput {
        apart: apart.collect(),
        pooled,
        studies: studies
            .iter()
            .map(|(study, levels)| StudyLevels { study: study.clone(), table: level_table(levels, arguments.level) })
            .collect(),
    };
    print(arguments.format, &output, || {
        let ratios = |title: String, lines: Vec<String>| format!("{title}\n{}", lines.join("\n"));
        let mut parts: Vec<String> = output
            .studies
            .iter()
            .map(|it| {
                let lines = it.table.levels.iter().map(|level| ratio_line(&level.counts.name, level.ratio));
                ratios(format!("{}: likelihood ratio of each level", it.study), lines.collect())
            })
            .collect();
        if sharing.len() > 1 {
            let lines = output.pooled.iter().map(|it| ratio_line(&it.name, it.ratio)).collect();
            parts.push(ratios(format!("Pooled over {} studies", sharing.len()), lines));
        }
        if !output.apart.is_empty() {
            parts.push(format!("Other levels, not pooled: {}", output.apart.join(", ")));
        }
        parts.join("\n\n")
    })
}
