//! `pruvex accuracy`: every study of a CSV table by itself.

use clap::ValueEnum;
use pruvex_core::Level;
use pruvex_core::accuracy::{Methods, ProportionMethod, RatioMethod, StudyAccuracy, study_accuracy};
use serde::Serialize;
use utoipa::ToSchema;

use crate::error::CliError;
use crate::output::{Format, level, print, ratio_line, share_line};
use crate::pool::counts;

#[derive(Debug, clap::Args)]
#[command(after_help = "Example:\n  printf 'study,tp,fp,fn,tn\\nA,20,0,5,24\\n' | pruvex accuracy -")]
pub struct Arguments {
    /// CSV file with study,tp,fp,fn,tn, or - for standard input.
    file: String,
    /// How to print the answer.
    #[arg(long, value_enum, default_value_t = Format::Text)]
    format: Format,
    /// Confidence level.
    #[arg(long, default_value = "0.95", value_parser = level)]
    level: Level,
    /// Intervals of proportions.
    #[arg(long, value_enum, default_value_t = Proportion::Wilson)]
    proportion: Proportion,
    /// Intervals of likelihood ratios.
    #[arg(long, value_enum, default_value_t = LikelihoodRatio::Score)]
    ratio: LikelihoodRatio,
}

#[derive(Debug, Clone, Copy, ValueEnum)]
enum Proportion {
    /// Score interval.
    Wilson,
    /// Clopper and Pearson's exact interval.
    Exact,
    /// Agresti and Coull's.
    AgrestiCoull,
    /// Jeffreys' Bayesian interval.
    Jeffreys,
}

#[derive(Debug, Clone, Copy, ValueEnum)]
enum LikelihoodRatio {
    /// Koopman's score interval: needs no correction, and is finite where the data allow.
    Score,
    /// Simel's log interval; 0.5 is added to all cells when one is zero.
    Log,
}

/// One study of the table.
#[derive(Debug, Serialize, ToSchema)]
pub struct AccuracyOutput {
    /// Its name.
    study: String,
    #[serde(flatten)]
    accuracy: StudyAccuracy,
}

pub fn run(arguments: &Arguments) -> Result<(), CliError> {
    let methods = Methods {
        level: arguments.level,
        proportion: match arguments.proportion {
            Proportion::Wilson => ProportionMethod::Wilson,
            Proportion::Exact => ProportionMethod::ClopperPearson,
            Proportion::AgrestiCoull => ProportionMethod::AgrestiCoull,
            Proportion::Jeffreys => ProportionMethod::Jeffreys,
        },
        ratio: match arguments.ratio {
            LikelihoodRatio::Score => RatioMethod::Score,
            LikelihoodRatio::Log => RatioMethod::Log,
        },
    };
    let table = counts(&arguments.file)?;
    let studies: Vec<AccuracyOutput> = table
        .names
        .into_iter()
        .zip(table.counts)
        .map(|(study, counts)| AccuracyOutput { study, accuracy: study_accuracy(&counts, methods) })
        .collect();
    print(arguments.format, &studies, || studies.iter().map(text).collect::<Vec<_>>().join("\n"))
}

fn text(AccuracyOutput { study, accuracy }: &AccuracyOutput) -> String {
    [
        study.clone(),
        share_line("sensitivity", accuracy.sensitivity),
        share_line("specificity", accuracy.specificity),
        ratio_line("LR+", accuracy.lr_positive),
        ratio_line("LR-", accuracy.lr_negative),
        ratio_line("diagnostic odds ratio", accuracy.dor),
    ]
    .join("\n")
}
