//! `pruvex rebuild`: the 2x2 tables behind a rounded report.

use pruvex_core::accuracy::{Fact, RebuildError, Rebuilt, RebuiltTable, Spread, rebuild};
use pruvex_formats::{StatementError, read_statement};
use serde::Serialize;
use utoipa::ToSchema;

use crate::error::CliError;
use crate::output::{Format, print};

#[derive(Debug, clap::Args)]
#[command(
    allow_negative_numbers = true,
    after_help = "Example:\n  pruvex rebuild N=60 sens=0.78 spec=0.84 ppv=0.75\n\nFigures: sens spec ppv npv accuracy prevalence \
    lr+ lr- dor, as printed (78% and 0.78 differ in their digits). Numbers: N diseased nondiseased positive negative. \
    Intervals: sens_ci=0.58-0.90 (Wilson) or sens_ci=0.58-0.90:exact."
)]
pub struct Arguments {
    /// What the report states, as name=value.
    #[arg(required = true)]
    facts: Vec<String>,
    /// Largest group to try when the number of people is unknown, up to 300.
    #[arg(long, default_value_t = 150)]
    max_per_arm: u32,
    /// How to print the answer.
    #[arg(long, value_enum, default_value_t = Format::Text)]
    format: Format,
}

/// What the search found.
#[derive(Debug, Serialize, ToSchema)]
#[serde(tag = "outcome", rename_all = "snake_case")]
pub enum RebuildOutput {
    /// One table. A limit is the largest group that was tried, where the number of people is not given.
    Unique { table: RebuiltTable, limit: Option<u32> },
    /// Several, and how far they differ.
    Several { tables: Vec<RebuiltTable>, spread: Spread, limit: Option<u32> },
    /// None whatever the size of the groups: these statements, as they were written, contradict each other.
    Contradiction { facts: Vec<String> },
    /// None with groups up to the limit; larger ones were not tried.
    NotFound { limit: u32 },
}

pub fn run(arguments: &Arguments) -> Result<(), CliError> {
    let facts = arguments.facts.iter().map(|text| fact(text)).collect::<Result<Vec<_>, _>>()?;
    let rebuilt = rebuild(&facts, arguments.max_per_arm).map_err(|error| match error {
        RebuildError::BoundsOrder { fact } => CliError::Refused(format!("{:?}: {error}", arguments.facts[fact])),
        _ => CliError::refused(error),
    })?;
    let output = match rebuilt {
        Rebuilt::Unique { table, limit } => RebuildOutput::Unique { table, limit },
        Rebuilt::Several { tables, spread, limit } => RebuildOutput::Several { tables, spread, limit },
        Rebuilt::NotFound { limit } => RebuildOutput::NotFound { limit },
        Rebuilt::Contradiction { facts } => RebuildOutput::Contradiction {
            facts: facts.into_iter().map(|index| arguments.facts[index].clone()).collect(),
        },
    };
    print(arguments.format, &output, || text(&output))
}

fn fact(text: &str) -> Result<Fact, CliError> {
    let (name, value) = text.split_once('=').ok_or_else(|| CliError::Refused(format!("{text:?} is not name=value")))?;
    read_statement(name, value).map_err(|error| match error {
        StatementError::Name => CliError::Refused(format!("{name:?}: {error}; see pruvex rebuild --help")),
        StatementError::Value => CliError::Refused(format!("{text:?}: {error}")),
    })
}

fn text(output: &RebuildOutput) -> String {
    let table = |t: &RebuiltTable| format!("  TP {}, FP {}, FN {}, TN {}", t.tp, t.fp, t.fn_, t.tn);
    let tried = |limit: Option<u32>| {
        limit.map(|limit| format!("Groups of up to {limit} people were tried; state N to find every table."))
    };
    match output {
        RebuildOutput::Unique { table: only, limit } => {
            let lines = [Some(format!("One table gives all these figures:\n{}", table(only))), tried(*limit)];
            lines.into_iter().flatten().collect::<Vec<_>>().join("\n")
        }
        RebuildOutput::Several { tables, spread, limit } => {
            let range = |name: &str, range: Option<[f64; 2]>| {
                range.map(|[low, high]| format!("  {name} {low:.3} to {high:.3}"))
            };
            let mut lines = vec![format!("{} tables give all these figures:", tables.len())];
            lines.extend(tables.iter().take(40).map(table));
            if tables.len() > 40 {
                lines.push(format!("  and {} more (all of them with --format json)", tables.len() - 40));
            }
            lines.push("They differ by:".to_owned());
            lines.extend(range("sensitivity", spread.sensitivity));
            lines.extend(range("specificity", spread.specificity));
            lines.extend(range("LR+", spread.lr_positive));
            lines.extend(range("LR-", spread.lr_negative));
            lines.extend(tried(*limit));
            lines.join("\n")
        }
        RebuildOutput::Contradiction { facts } => {
            format!("No table gives all these figures. These contradict each other:\n  {}", facts.join(", "))
        }
        RebuildOutput::NotFound { limit } => {
            format!(
                "No table with up to {limit} people in each group gives all these figures. Larger groups were not tried: state N."
            )
        }
    }
}
