//! `pruvex pool`: the screen's pooled answer for a CSV table, and the analyses around it.

mod words;

use clap::ValueEnum;
use pruvex_core::Level;
use pruvex_core::accuracy::Counts;
use pruvex_core::pooling::{
    Correction, Heterogeneity, IntervalChoice, IntervalMethod, LeftOut, LevelComparison, Model, ModelChoice,
    OtherScale, PoolOptions, Pooled, Prediction, PriorScales, RocSpace, SmallStudyTest, Summary, compare_levels,
    heterogeneity, leave_one_out, other_scales, pool, prediction, roc_space, small_study_effects,
};
use pruvex_formats::{CountsTable, CsvError};
use serde::Serialize;
use utoipa::ToSchema;

use crate::error::CliError;
use crate::output::{Format, level, print, read};

#[derive(Debug, clap::Args)]
#[command(
    after_help = "Example:\n  pruvex pool studies.csv --format json --by setting --leave-one-out\n\nThe file needs a \
    header with study,tp,fp,fn,tn; other columns may serve --by and --without. Empty tp and fn (or fp and tn) make a \
    one-armed study."
)]
pub struct Arguments {
    /// CSV file, or - for standard input.
    file: String,
    /// How to print the answer.
    #[arg(long, value_enum, default_value_t = Format::Text)]
    format: Format,
    /// Confidence level.
    #[arg(long, default_value = "0.95", value_parser = level)]
    level: Level,
    /// The model.
    #[arg(long, value_enum, default_value_t = Choice::Auto)]
    model: Choice,
    /// Intervals of sensitivity and specificity.
    #[arg(long, value_enum, default_value_t = Interval::Auto)]
    interval: Interval,
    /// Scale of the half-normal priors of the standard deviations between studies, on the logit scale; for posterior intervals.
    #[arg(long, value_parser = prior, default_value = "1.5")]
    prior_scale: PriorScales,
    /// Also compare the levels of this column; the level of the first study is the one compared with.
    #[arg(long, value_name = "COLUMN")]
    by: Option<String>,
    /// Also pool without the studies that have this value in a column, such as risk=high; may be repeated.
    #[arg(long, value_name = "COLUMN=VALUE")]
    without: Vec<String>,
    /// Also pool without studies that report one group only.
    #[arg(long)]
    without_one_armed: bool,
    /// Also pool without each study in turn.
    #[arg(long)]
    leave_one_out: bool,
    /// Also test for small-study effects (ten studies at least).
    #[arg(long)]
    small_study: bool,
    /// Also give the regions and the curve in ROC space (JSON only).
    #[arg(long)]
    roc: bool,
}

#[derive(Debug, Clone, Copy, ValueEnum)]
enum Choice {
    /// The richest that the data can carry.
    Auto,
    /// Sensitivity and specificity together, exact likelihood, also with two or three studies.
    Bivariate,
    /// Each by itself, exact likelihood.
    Independent,
    /// No variance between studies.
    Fixed,
    /// Both together on observed logits, restricted maximum likelihood: for comparison with published analyses.
    NormalReml,
    /// The same by maximum likelihood.
    NormalMl,
}

impl From<Choice> for ModelChoice {
    fn from(choice: Choice) -> Self {
        match choice {
            Choice::Auto => Self::Auto,
            Choice::Bivariate => Self::Bivariate,
            Choice::Independent => Self::Independent,
            Choice::Fixed => Self::Fixed,
            Choice::NormalReml => Self::NormalReml,
            Choice::NormalMl => Self::NormalMl,
        }
    }
}

#[derive(Debug, Clone, Copy, ValueEnum)]
enum Interval {
    /// Posterior up to 20 studies, then profile; Wald for the normal models.
    Auto,
    /// Posterior median and quantiles of the bivariate model under weak priors: holds from two studies on.
    Posterior,
    /// Profile likelihood: better than Wald with few studies, slower; not for the normal models.
    Profile,
    /// From the standard error of the mean logit.
    Wald,
    /// From the studies' own scatter, with the t distribution: sensitivity and specificity each by itself, no priors.
    Sandwich,
}

fn prior(scale: &str) -> Result<PriorScales, String> {
    let number = scale.parse().map_err(|_| format!("'{scale}' is not a number"))?;
    PriorScales::with_spread(number).map_err(|fault| format!("{} {}", fault.message, fault.remedy))
}

impl From<Interval> for IntervalChoice {
    fn from(interval: Interval) -> Self {
        match interval {
            Interval::Auto => Self::Auto,
            Interval::Posterior => Self::Posterior,
            Interval::Profile => Self::Profile,
            Interval::Wald => Self::Wald,
            Interval::Sandwich => Self::Sandwich,
        }
    }
}

/// The pooled answer, and what was asked for besides; its own fields keep their names and places.
#[derive(Debug, Serialize, ToSchema)]
pub struct PoolOutput {
    #[serde(flatten)]
    pooled: Pooled,
    heterogeneity: Heterogeneity,
    /// Where a new study's true values are expected.
    prediction: Prediction,
    /// Where the summary is a posterior's: what it is with priors half as wide and twice as wide.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    other_scales: Vec<OtherScale>,
    #[serde(skip_serializing_if = "Option::is_none")]
    comparison: Option<NamedComparison>,
    /// Why the levels that were asked for are not compared.
    #[serde(skip_serializing_if = "Option::is_none")]
    comparison_refused: Option<String>,
    /// Pools of a part of the studies, in the order asked for.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    sensitivity_analyses: Vec<PartPooled>,
    #[serde(skip_serializing_if = "Option::is_none")]
    leave_one_out: Option<Vec<NamedLeftOut>>,
    #[serde(skip_serializing_if = "Option::is_none")]
    small_study: Option<SmallStudyTest>,
    /// Why that test was asked for and not made.
    #[serde(skip_serializing_if = "Option::is_none")]
    small_study_refused: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    roc_space: Option<RocSpace>,
}

/// Levels of a column compared.
#[derive(Debug, Serialize, ToSchema)]
struct NamedComparison {
    /// The column.
    column: String,
    /// What each level is called, in the order of their positions.
    names: Vec<String>,
    #[serde(flatten)]
    comparison: LevelComparison,
}

/// The pool without some studies.
#[derive(Debug, Serialize, ToSchema)]
struct PartPooled {
    /// Which were left out.
    without: String,
    /// Studies that remain.
    k: usize,
    /// The model they could carry; `null` when none remain.
    model: Option<Model>,
    #[serde(flatten)]
    summary: Option<Summary>,
}

/// The pool without one study.
#[derive(Debug, Serialize, ToSchema)]
struct NamedLeftOut {
    /// Name of the study.
    name: String,
    #[serde(flatten)]
    left_out: LeftOut,
}

pub fn run(arguments: &Arguments) -> Result<(), CliError> {
    let file = &arguments.file;
    let table = counts(file)?;
    let studies = &table.counts;
    let options = PoolOptions {
        level: arguments.level,
        interval: arguments.interval.into(),
        model: arguments.model.into(),
        prior: arguments.prior_scale,
    };
    let pooled = pool(studies, options).map_err(|error| CliError::Refused(format!("{file}: {error}")))?;
    let (comparison, comparison_refused) = match &arguments.by {
        None => (None, None),
        Some(column) => match compare(&table, column, options).map_err(CliError::table(file))? {
            Ok(comparison) => (Some(comparison), None),
            Err(why) => (None, Some(why)),
        },
    };
    let left_out = arguments.leave_one_out.then(|| leave_one_out(studies, options)).transpose();
    let left_out =
        left_out.map_err(|_| CliError::Refused(format!("{file}: leaving one out needs two studies at least")))?;
    let named = |left_out: LeftOut| NamedLeftOut { name: table.names[left_out.study].clone(), left_out };
    let (small_study, small_study_refused) =
        match arguments.small_study.then(|| small_study_effects(studies, Correction::default())) {
            Some(Ok(test)) => (Some(test), None),
            Some(Err(why)) => (None, Some(why.to_string())),
            None => (None, None),
        };
    let output = PoolOutput {
        heterogeneity: heterogeneity(studies, &pooled),
        prediction: prediction(studies, &pooled),
        other_scales: match pooled.posterior {
            Some(_) => other_scales(studies, arguments.level, arguments.prior_scale),
            None => Vec::new(),
        },
        comparison,
        comparison_refused,
        sensitivity_analyses: parts(arguments, &table, options)?,
        leave_one_out: left_out.map(|rows| rows.into_iter().map(named).collect()),
        small_study,
        small_study_refused,
        roc_space: arguments.roc.then(|| roc_space(&pooled, studies)).flatten(),
        pooled,
    };
    print(arguments.format, &output, || words::text(&output))
}

/// The rows of a CSV table of counts.
pub fn counts(file: &str) -> Result<CountsTable, CliError> {
    pruvex_formats::read_counts(&read(file)?).map_err(CliError::table(file))
}

/// The inner result is a comparison that these studies do not allow.
fn compare(
    table: &CountsTable,
    column: &str,
    options: PoolOptions,
) -> Result<Result<NamedComparison, String>, Vec<CsvError>> {
    let mut names: Vec<String> = Vec::new();
    let values = table.values(column)?;
    let levels: Vec<usize> = values
        .into_iter()
        .map(|value| {
            names.iter().position(|name| name == value).unwrap_or_else(|| {
                names.push(value.to_owned());
                names.len() - 1
            })
        })
        .collect();
    let posterior = options.interval.method(options.model, table.counts.len()) == IntervalMethod::Posterior;
    Ok(match compare_levels(&table.counts, &levels, options.level) {
        Ok(found) => {
            let comparison = if posterior { found.by_posterior(&table.counts, &levels, options.prior) } else { found };
            Ok(NamedComparison { column: column.to_owned(), names, comparison })
        }
        Err(why) => Err(why.to_string()),
    })
}

fn parts(arguments: &Arguments, table: &CountsTable, options: PoolOptions) -> Result<Vec<PartPooled>, CliError> {
    let pooled = |without: String, keep: &dyn Fn(usize) -> bool| {
        let studies: Vec<Counts> = (0..table.counts.len()).filter(|i| keep(*i)).map(|i| table.counts[i]).collect();
        let pooled = pool(&studies, options).ok();
        let (model, summary) = pooled.map(|pooled| (pooled.model, pooled.summary)).unzip();
        PartPooled { without, k: studies.len(), model, summary }
    };
    let mut parts = Vec::new();
    for wanted in &arguments.without {
        let (column, value) = wanted
            .split_once('=')
            .ok_or_else(|| CliError::Refused(format!("--without {wanted:?} is not COLUMN=VALUE")))?;
        let values = table.values(column).map_err(CliError::table(&arguments.file))?;
        parts.push(pooled(wanted.clone(), &|i| values[i] != value));
    }
    if arguments.without_one_armed {
        parts.push(pooled("one-armed studies".to_owned(), &|i| table.counts[i].has_both_arms()));
    }
    Ok(parts)
}
