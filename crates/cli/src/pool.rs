//! `pruvex pool`: the screen's pooled answer for a CSV table.

use pruvex_core::Level;
use pruvex_core::accuracy::Counts;
use pruvex_core::pooling::{Boundary, Model, PoolOptions, Pooled, Reason, Warning, pool};

use crate::output::{Format, level, percent, print, ratio_line, read, share_line};

#[derive(Debug, clap::Args)]
#[command(after_help = "Example:\n  pruvex pool studies.csv --format json\n\nThe file needs a header with \
    study,tp,fp,fn,tn; other columns are ignored. Empty tp and fn (or fp and tn) make a one-armed study.")]
pub struct Arguments {
    /// CSV file, or - for standard input.
    file: String,
    /// How to print the answer.
    #[arg(long, value_enum, default_value_t = Format::Text)]
    format: Format,
    /// Confidence level.
    #[arg(long, default_value = "0.95", value_parser = level)]
    level: Level,
}

pub fn run(arguments: &Arguments) -> Result<(), String> {
    let counts: Vec<Counts> = counts(&arguments.file)?.into_iter().map(|(_, counts)| counts).collect();
    let pooled = pool(&counts, PoolOptions { level: arguments.level }).map_err(|error| error.to_string())?;
    print(arguments.format, &pooled, || text(&pooled))
}

/// The rows of a CSV table of counts.
pub fn counts(file: &str) -> Result<Vec<(String, Counts)>, String> {
    let table = pruvex_formats::read_counts(&read(file)?).map_err(|errors| {
        let lines: Vec<String> = errors.iter().map(|error| format!("  {error}")).collect();
        format!("{file} was not read:\n{}", lines.join("\n"))
    })?;
    Ok(table.rows)
}

fn text(pooled: &Pooled) -> String {
    let summary = &pooled.summary;
    let level = 100.0 * pooled.level.get();
    let mut lines = vec![
        format!("{} studies, {} people with the condition, {} without", pooled.k, pooled.diseased, pooled.non_diseased),
        format!("Model: {}, since {}.", model(pooled.model), reason(pooled.reason)),
        format!("Estimates with {level:.0} % intervals:"),
        share_line("sensitivity", summary.sensitivity),
        share_line("specificity", summary.specificity),
        ratio_line("LR+", summary.lr_positive),
        ratio_line("LR-", summary.lr_negative),
        ratio_line("diagnostic odds ratio", summary.dor),
    ];
    lines.extend(pooled.warnings.iter().map(|warning| format!("Note: {}.", note(warning))));
    if !pooled.converged {
        lines.push("The fit did not converge: do not use these figures.".to_owned());
    }
    lines.join("\n")
}

fn model(model: Model) -> &'static str {
    match model {
        Model::SingleStudy => "one study by itself",
        Model::Bivariate => "bivariate random effects, exact binomial likelihood",
        Model::Independent => "random effects for each group by itself, exact binomial likelihood",
        Model::Fixed => "no variance between studies",
    }
}

fn reason(reason: Reason) -> &'static str {
    match reason {
        Reason::SingleStudy => "there is only one study",
        Reason::EnoughStudies => "four or more studies report both groups",
        Reason::FewStudies => "fewer than four studies report both groups",
        Reason::OneArmOnly => "every study reports the same group only",
        Reason::NoFiniteMaximum => "a group has no error, or no correct result, in any study",
        Reason::NotIdentified => "the data do not identify a fuller model",
    }
}

fn note(warning: &Warning) -> String {
    match warning {
        Warning::FewStudies { both_arms } => {
            format!("only {both_arms} studies report both groups; the spread between studies is hardly estimable")
        }
        Warning::OneArmedStudies { count } => format!("{count} one-armed studies took part with the group they report"),
        Warning::AtBoundary { boundary } => match boundary {
            Boundary::RhoMinusOne | Boundary::RhoPlusOne => {
                "the correlation between sensitivity and specificity is at its limit; intervals may be too narrow"
                    .to_owned()
            }
            _ => "no spread between studies was found in at least one group".to_owned(),
        },
        Warning::PerfectArm { n, upper, .. } => {
            format!("not one error among {n} people; up to {} errors are still compatible", percent(*upper))
        }
        Warning::HopelessArm { n, upper, .. } => {
            format!("not one correct result among {n} people; up to {} are still compatible", percent(*upper))
        }
        Warning::ConservativeRatios => {
            "the ratios' bounds combine both intervals' ends and are conservative".to_owned()
        }
        Warning::VarianceNotIdentified => {
            "the spread between studies could not be estimated; the interval is widened by the studies' scatter"
                .to_owned()
        }
        Warning::QuadratureLimit { .. } => "the data are so extreme that the last digits are approximate".to_owned(),
        Warning::NoArm { .. } => "nobody was examined in one group; what needs it is not estimable".to_owned(),
    }
}
