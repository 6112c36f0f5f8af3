//! `pruvex pool`: the screen's pooled answer for a CSV table.

use clap::ValueEnum;
use pruvex_core::accuracy::Counts;
use pruvex_core::pooling::{
    Boundary, Correction, IntervalMethod, LeftOut, Model, PoolOptions, Pooled, Reason, SmallStudyTest, Warning,
    leave_one_out, pool, small_study_effects,
};
use pruvex_core::{Estimate, Level, Probability, Ratio};
use serde::Serialize;

use crate::output::{Format, level, percent, print, ratio_line, read, share_line, two_digits};

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
    /// Intervals of sensitivity and specificity.
    #[arg(long, value_enum, default_value_t = Interval::Wald)]
    interval: Interval,
    /// Also pool without each study in turn.
    #[arg(long)]
    leave_one_out: bool,
    /// Also test for small-study effects (ten studies at least).
    #[arg(long)]
    small_study: bool,
}

#[derive(Debug, Clone, Copy, ValueEnum)]
enum Interval {
    /// From the standard error of the mean logit.
    Wald,
    /// Profile likelihood: better with few studies, slower.
    Profile,
}

impl From<Interval> for IntervalMethod {
    fn from(interval: Interval) -> Self {
        match interval {
            Interval::Wald => Self::Wald,
            Interval::Profile => Self::Profile,
        }
    }
}

/// The pooled answer, and what was asked for besides; its own fields keep their names and places.
#[derive(Serialize)]
struct Answer {
    #[serde(flatten)]
    pooled: Pooled,
    #[serde(skip_serializing_if = "Option::is_none")]
    leave_one_out: Option<Vec<Named>>,
    #[serde(skip_serializing_if = "Option::is_none")]
    small_study: Option<SmallStudyTest>,
    /// Why that test was asked for and not made.
    #[serde(skip_serializing_if = "Option::is_none")]
    small_study_refused: Option<String>,
}

#[derive(Serialize)]
struct Named {
    name: String,
    #[serde(flatten)]
    left_out: LeftOut,
}

pub fn run(arguments: &Arguments) -> Result<(), String> {
    let (names, counts): (Vec<String>, Vec<Counts>) = counts(&arguments.file)?.into_iter().unzip();
    let options = PoolOptions { level: arguments.level, interval: arguments.interval.into() };
    let pooled = pool(&counts, options).map_err(|error| error.to_string())?;
    let left_out = arguments.leave_one_out.then(|| leave_one_out(&counts, &pooled, options)).transpose();
    let left_out = left_out.map_err(|_| "leaving one out needs two studies at least".to_owned())?;
    let named = |rows: Vec<LeftOut>| {
        rows.into_iter().map(|left_out| Named { name: names[left_out.study].clone(), left_out }).collect()
    };
    let (small_study, small_study_refused) =
        match arguments.small_study.then(|| small_study_effects(&counts, Correction::default())) {
            Some(Ok(test)) => (Some(test), None),
            Some(Err(why)) => (None, Some(why.to_string())),
            None => (None, None),
        };
    let answer = Answer { pooled, leave_one_out: left_out.map(named), small_study, small_study_refused };
    print(arguments.format, &answer, || text(&answer))
}

/// The rows of a CSV table of counts.
pub fn counts(file: &str) -> Result<Vec<(String, Counts)>, String> {
    let table = pruvex_formats::read_counts(&read(file)?).map_err(|errors| {
        let lines: Vec<String> = errors.iter().map(|error| format!("  {error}")).collect();
        format!("{file} was not read:\n{}", lines.join("\n"))
    })?;
    Ok(table.rows)
}

fn text(Answer { pooled, leave_one_out, small_study, small_study_refused }: &Answer) -> String {
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
    if let Some(rows) = leave_one_out {
        lines.push("Without one study:".to_owned());
        lines.extend(rows.iter().map(without));
    }
    lines.extend(small_study.map(|test| {
        let p = test.p.map_or("p not estimable".to_owned(), |p| format!("p = {p:.3}"));
        format!("Small-study effects (Deeks): slope {:.1}, {p}; little power when accuracy varies.", test.slope)
    }));
    lines.extend(small_study_refused.iter().map(|why| format!("Small-study effects: {why}.")));
    lines.join("\n")
}

fn without(Named { name, left_out }: &Named) -> String {
    let share = |value: Option<Estimate<Probability>>| value.map_or("-".to_owned(), |e| percent(e.estimate));
    let ratio = |value: Option<Estimate<Ratio>>| value.map_or("-".to_owned(), |e| two_digits(e.estimate.get()));
    let summary = &left_out.summary;
    let cook = left_out.cook_distance.map_or(String::new(), |d| format!(", Cook's distance {d:.2}"));
    format!(
        "  {name}: sensitivity {}, specificity {}, LR+ {}, LR- {}{cook}",
        share(summary.sensitivity),
        share(summary.specificity),
        ratio(summary.lr_positive),
        ratio(summary.lr_negative)
    )
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
