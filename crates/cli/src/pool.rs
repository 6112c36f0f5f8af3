//! `pruvex pool`: the screen's pooled answer for a CSV table.

use std::io::Read;

use clap::ValueEnum;
use pruvex_core::accuracy::Counts;
use pruvex_core::pooling::{Boundary, Model, PoolOptions, Pooled, Reason, Warning, pool};
use pruvex_core::{Estimate, Probability, Ratio};

#[derive(Debug, Clone, Copy, ValueEnum)]
enum Format {
    Text,
    Json,
}

#[derive(Debug, clap::Args)]
#[command(after_help = "Example:\n  pruvex pool studies.csv --format json\n\nThe file needs a header with \
    study,tp,fp,fn,tn; other columns are ignored. Empty tp and fn (or fp and tn) make a one-armed study.")]
pub struct Arguments {
    /// CSV file, or - for standard input.
    file: String,
    /// How to print the answer.
    #[arg(long, value_enum, default_value_t = Format::Text)]
    format: Format,
}

pub fn run(arguments: &Arguments) -> Result<(), String> {
    let bytes = read(&arguments.file).map_err(|error| format!("{} cannot be read: {error}", arguments.file))?;
    let table = pruvex_formats::read_counts(&bytes).map_err(|errors| {
        let lines: Vec<String> = errors.iter().map(|error| format!("  {error}")).collect();
        format!("{} was not pooled:\n{}", arguments.file, lines.join("\n"))
    })?;
    let counts: Vec<Counts> = table.rows.iter().map(|(_, counts)| *counts).collect();
    let pooled = pool(&counts, PoolOptions::default()).map_err(|error| error.to_string())?;
    match arguments.format {
        Format::Json => crate::emit(&serde_json::to_string_pretty(&pooled).map_err(|error| error.to_string())?),
        Format::Text => crate::emit(&text(&pooled)),
    }
    Ok(())
}

fn read(file: &str) -> std::io::Result<Vec<u8>> {
    if file != "-" {
        return std::fs::read(file);
    }
    let mut bytes = Vec::new();
    std::io::stdin().read_to_end(&mut bytes)?;
    Ok(bytes)
}

fn text(pooled: &Pooled) -> String {
    let share = |name: &str, value: Option<Estimate<Probability>>| {
        let percent = |p: Probability| format!("{:.1} %", 100.0 * p.get());
        line(name, value.map(|e| [e.estimate, e.lower, e.upper].map(percent)))
    };
    let ratio = |name: &str, value: Option<Estimate<Ratio>>| {
        line(name, value.map(|e| [e.estimate, e.lower, e.upper].map(|r| two_digits(r.get()))))
    };
    let summary = &pooled.summary;
    let level = 100.0 * pooled.level.get();
    let mut lines = vec![
        format!("{} studies, {} people with the condition, {} without", pooled.k, pooled.diseased, pooled.non_diseased),
        format!("Model: {}, since {}.", model(pooled.model), reason(pooled.reason)),
        format!("Estimates with {level:.0} % intervals:"),
        share("sensitivity", summary.sensitivity),
        share("specificity", summary.specificity),
        ratio("LR+", summary.lr_positive),
        ratio("LR-", summary.lr_negative),
        ratio("diagnostic odds ratio", summary.dor),
    ];
    lines.extend(pooled.warnings.iter().map(|warning| format!("Note: {}.", note(warning))));
    if !pooled.converged {
        lines.push("The fit did not converge: do not use these figures.".to_owned());
    }
    lines.push("Educational and decision-support material; not a diagnosis. Local protocols rule.".to_owned());
    lines.join("\n")
}

fn line(name: &str, parts: Option<[String; 3]>) -> String {
    match parts {
        Some([estimate, lower, upper]) => format!("  {name:<22} {estimate:>9}  ({lower} to {upper})"),
        None => format!("  {name:<22} not estimable"),
    }
}

fn two_digits(value: f64) -> String {
    if value.is_infinite() {
        return "infinite".to_owned();
    }
    if value == 0.0 {
        return "0".to_owned();
    }
    let digits = (1 - value.abs().log10().floor() as i32).clamp(0, 8);
    format!("{value:.0$}", digits as usize)
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
    let percent = |p: &Probability| format!("{:.1} %", 100.0 * p.get());
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
            format!("not one error among {n} people; up to {} errors are still compatible", percent(upper))
        }
        Warning::HopelessArm { n, upper, .. } => {
            format!("not one correct result among {n} people; up to {} are still compatible", percent(upper))
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
