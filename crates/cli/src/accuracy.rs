//! `pruvex accuracy`: every study of a CSV table by itself.

use pruvex_core::Level;
use pruvex_core::accuracy::{Methods, StudyAccuracy, study_accuracy};
use serde::Serialize;

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
}

#[derive(Serialize)]
struct Named {
    study: String,
    #[serde(flatten)]
    accuracy: StudyAccuracy,
}

pub fn run(arguments: &Arguments) -> Result<(), String> {
    let methods = Methods { level: arguments.level, ..Methods::default() };
    let studies: Vec<Named> = counts(&arguments.file)?
        .into_iter()
        .map(|(study, counts)| Named { study, accuracy: study_accuracy(&counts, methods) })
        .collect();
    print(arguments.format, &studies, || studies.iter().map(text).collect::<Vec<_>>().join("\n"))
}

fn text(Named { study, accuracy }: &Named) -> String {
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
