//! `pruvex combine`: rules over several tests, claims about them, and tests one after the other.

use pruvex_core::Estimate;
use pruvex_core::Probability;
use pruvex_core::accuracy::{Counts, Rounded};
use pruvex_core::combine::{
    Battery, BatteryDependence, BatteryTest, Claim, ClaimsCheck, ClusterAnswer, ClusterSource, CountResult,
    FigureCheck, LatentCorrelation, PatternResult, RuleAccuracy, RuleBounds, RulesAt, Sequence, SingleRange,
    TestAccuracy, at_least, battery, check_claims, cluster_answer, count_results, count_results_latent,
    expected_information, pattern_results, pattern_results_latent, rule_bounds, rules_by_correlation, sequence,
};
use pruvex_core::likelihood::Thresholds;
use pruvex_core::pooling::PoolOptions;
use pruvex_formats::{CsvError, CsvRow, CsvTable};
use serde::Serialize;
use utoipa::ToSchema;

use crate::error::CliError;
use crate::output::{Format, percent, print, probability, ratio_line, read, share_line, two_digits};
use crate::pool::counts;

#[derive(Debug, clap::Args)]
#[command(
    allow_negative_numbers = true,
    after_help = "Examples:\n  printf 'test,sensitivity,specificity\\nA,0.8,0.9\\nB,0.7,0.85\\n' | pruvex combine -\n  \
    pruvex combine tests.csv --correlation 0.4 --at-least 2 --published cluster.csv\n  \
    pruvex combine tests.csv --pre-test 0.3 --reassure-below 0.05 --treat-above 0.7\n  \
    printf 'at_least,sensitivity,specificity\\n2,85,95\\n' > claims.csv; pruvex combine tests.csv --claims claims.csv\n\n\
    With the columns sensitivity_lower, sensitivity_upper, specificity_lower and specificity_upper the rules have intervals, too.\n\
    Conditional independence is assumed unless a correlation is given. Tests of the same tissue break it: then a published \
    cluster outranks this calculation."
)]
pub struct Arguments {
    /// CSV file with test,sensitivity,specificity (between 0 and 1), or - for standard input.
    file: String,
    /// Correlation of the variables behind any two tests, with and without the condition, from 0 to 0.99.
    #[arg(long, value_name = "R")]
    correlation: Option<f64>,
    /// The correlation without the condition, when it is another one.
    #[arg(long, value_name = "R", requires = "correlation")]
    correlation_without: Option<f64>,
    /// The rule that a cluster uses, from how many positive tests on it is positive.
    #[arg(long, value_name = "K", requires = "published")]
    at_least: Option<usize>,
    /// CSV file of 2x2 counts of studies of that very rule; they outrank the calculation.
    #[arg(long, value_name = "FILE", requires = "at_least")]
    published: Option<String>,
    /// Two tests: their covariance in people with the condition, within what their accuracies allow.
    #[arg(long, value_name = "COV", conflicts_with = "correlation")]
    covariance: Option<f64>,
    /// The covariance without the condition; 0 unless given.
    #[arg(long, value_name = "COV", requires = "covariance")]
    covariance_without: Option<f64>,
    /// CSV file of claims, at_least,sensitivity,specificity in percent as they are written; a figure may be left empty.
    #[arg(long, value_name = "FILE")]
    claims: Option<String>,
    /// Also list every pattern of results (JSON only).
    #[arg(long)]
    patterns: bool,
    /// Also follow the tests one after the other from this probability, in the order of the file.
    #[arg(long, value_parser = probability, requires_all = ["reassure_below", "treat_above"])]
    pre_test: Option<Probability>,
    /// Below this probability testing stops and the patient is reassured.
    #[arg(long, value_parser = probability, requires = "pre_test")]
    reassure_below: Option<Probability>,
    /// Above this probability testing stops and the patient is treated.
    #[arg(long, value_parser = probability, requires = "pre_test")]
    treat_above: Option<Probability>,
    /// How to print the answer.
    #[arg(long, value_enum, default_value_t = Format::Text)]
    format: Format,
}

/// Rules over several tests; independence is always shown, also beside dependence.
#[derive(Debug, Serialize, ToSchema)]
pub struct CombineOutput {
    /// How many tests.
    tests: usize,
    /// "conditional_independence", for `rules` and `counts`: nobody should take them for measured.
    assumption: &'static str,
    /// "At least k positive", for each k.
    rules: Vec<RuleAccuracy>,
    /// Each number of positive tests.
    counts: Vec<CountResult>,
    /// What each rule can be at all, whatever the dependence.
    bounds: Vec<RuleBounds>,
    /// Each rule along the correlation, and whether it raises both figures above those of every single test.
    along: Vec<RulesAt>,
    /// Rules and numbers of positive tests with intervals, where the single tests have them; with the dependence that is assumed.
    #[serde(skip_serializing_if = "Option::is_none")]
    battery: Option<Battery>,
    #[serde(skip_serializing_if = "Option::is_none")]
    claims: Option<CheckedClaims>,
    /// Each pattern of results, with dependence when it is assumed.
    #[serde(skip_serializing_if = "Option::is_none")]
    patterns: Option<Vec<PatternResult>>,
    #[serde(skip_serializing_if = "Option::is_none")]
    dependent: Option<Dependent>,
    #[serde(skip_serializing_if = "Option::is_none")]
    cluster: Option<ClusterAnswer>,
    #[serde(skip_serializing_if = "Option::is_none")]
    sequence: Option<NamedSequence>,
}

/// Whether claims can be true.
#[derive(Debug, Serialize, ToSchema)]
struct CheckedClaims {
    /// With every single figure as it stands.
    exactly: ClaimsCheck,
    /// With every single figure anywhere in its rounding, or in its interval where it has one.
    loosely: ClaimsCheck,
}

/// A test as the file describes it.
struct ReadTest {
    name: String,
    accuracy: TestAccuracy,
    /// As it is printed: from where to where its figures may lie.
    range: SingleRange,
    /// With its intervals, where the file has them.
    estimated: Option<BatteryTest>,
}

/// The same with an assumed dependence.
#[derive(Debug, Serialize, ToSchema)]
struct Dependent {
    correlation: LatentCorrelation,
    rules: Vec<RuleAccuracy>,
    counts: Vec<CountResult>,
}

/// Tests one after the other.
#[derive(Debug, Serialize, ToSchema)]
struct NamedSequence {
    /// Names of the tests in their order.
    names: Vec<String>,
    /// Information expected of each as the first test, in bits.
    information_first: Vec<f64>,
    #[serde(flatten)]
    sequence: Sequence,
}

pub fn run(arguments: &Arguments) -> Result<(), CliError> {
    let read = tests(&arguments.file)?;
    let names: Vec<String> = read.iter().map(|it| it.name.clone()).collect();
    let tests: Vec<TestAccuracy> = read.iter().map(|it| it.accuracy).collect();
    let core = |error: pruvex_core::combine::CombineError| CliError::refused(error);
    let correlation = arguments.correlation.map(|diseased| LatentCorrelation {
        diseased,
        non_diseased: arguments.correlation_without.unwrap_or(diseased),
    });
    let independent = count_results(&tests).map_err(core)?;
    let rules = (1..=tests.len()).map(|k| at_least(&tests, k)).collect::<Result<Vec<_>, _>>().map_err(core)?;
    let dependent = correlation.map(|correlation| dependent(&tests, correlation)).transpose()?;
    let dependence = match (correlation, arguments.covariance) {
        (Some(correlation), _) => BatteryDependence::Latent(correlation),
        (None, Some(diseased)) => {
            BatteryDependence::Covariance { diseased, non_diseased: arguments.covariance_without.unwrap_or_default() }
        }
        (None, None) => BatteryDependence::Independent,
    };
    let estimated: Option<Vec<BatteryTest>> = read.iter().map(|it| it.estimated).collect();
    let points = || read.iter().map(|it| exact(it.accuracy)).collect::<Vec<_>>();
    // A covariance is checked, and answered, even where no test has an interval.
    let with_intervals = estimated.or_else(|| arguments.covariance.map(|_| points()));
    let battery = with_intervals.map(|tests| battery(&tests, dependence)).transpose().map_err(core)?;
    let claims = arguments.claims.as_ref().map(|file| checked_claims(&read, file)).transpose()?;
    let bounds = (1..=tests.len()).map(|k| rule_bounds(&tests, k)).collect::<Result<Vec<_>, _>>().map_err(core)?;
    let along = rules_by_correlation(&tests).map_err(core)?;
    let cluster = match (&arguments.published, arguments.at_least) {
        (Some(file), Some(k)) => {
            let studies: Vec<Counts> = counts(file)?.counts;
            Some(cluster_answer(&tests, k, correlation, &studies, PoolOptions::default()).map_err(core)?)
        }
        _ => None,
    };
    let patterns = match correlation {
        Some(correlation) => pattern_results_latent(&tests, correlation),
        None => pattern_results(&tests),
    };
    let patterns = patterns.map_err(core)?;
    let ends = arguments.reassure_below.zip(arguments.treat_above);
    let sequence = match arguments.pre_test.zip(ends) {
        None => None,
        Some((pre_test, (reassure, treat))) => {
            let thresholds = Thresholds::new(reassure, treat).map_err(CliError::refused)?;
            sequence(&patterns, pre_test, &thresholds).map(|sequence| NamedSequence {
                names: names.clone(),
                information_first: tests.iter().map(|test| expected_information(pre_test, *test)).collect(),
                sequence,
            })
        }
    };
    let output = CombineOutput {
        tests: tests.len(),
        assumption: "conditional_independence",
        rules,
        counts: independent,
        bounds,
        along,
        battery,
        claims,
        patterns: arguments.patterns.then_some(patterns),
        dependent,
        cluster,
        sequence,
    };
    print(arguments.format, &output, || text(&output))
}

fn dependent(tests: &[TestAccuracy], correlation: LatentCorrelation) -> Result<Dependent, CliError> {
    let counts = count_results_latent(tests, correlation).map_err(CliError::refused)?;
    let rules = (1..=tests.len())
        .map(|k| {
            cluster_answer(tests, k, Some(correlation), &[], PoolOptions::default()).map(|answer| answer.dependent)
        })
        .collect::<Result<Vec<_>, _>>()
        .map_err(CliError::refused)?;
    Ok(Dependent { correlation, rules: rules.into_iter().flatten().collect(), counts })
}

/// A test whose figures are taken as exact.
fn exact(accuracy: TestAccuracy) -> BatteryTest {
    let point = |p| Estimate { estimate: p, lower: p, upper: p };
    let (sensitivity, specificity) = (point(accuracy.sensitivity), point(accuracy.specificity));
    BatteryTest { sensitivity, specificity, correlation: 0.0 }
}

fn tests(file: &str) -> Result<Vec<ReadTest>, CliError> {
    let columns = ["test", "sensitivity", "specificity"];
    let table = CsvTable::read(&read(file)?, &columns).map_err(CliError::table(file))?;
    let (mut tests, mut errors) = (Vec::new(), Vec::new());
    for row in &table.rows {
        match (figure(&table, row, "sensitivity"), figure(&table, row, "specificity")) {
            (Ok(sensitivity), Ok(specificity)) => {
                let estimated = sensitivity.interval.zip(specificity.interval);
                tests.push(ReadTest {
                    name: table.text(row, "test").to_owned(),
                    accuracy: TestAccuracy { sensitivity: sensitivity.value, specificity: specificity.value },
                    range: SingleRange { sensitivity: sensitivity.range, specificity: specificity.range },
                    estimated: estimated.map(|(sensitivity, specificity)| BatteryTest {
                        sensitivity,
                        specificity,
                        correlation: 0.0,
                    }),
                });
            }
            (one, other) => errors.extend([one.err(), other.err()].into_iter().flatten()),
        }
    }
    if errors.is_empty() { Ok(tests) } else { Err(CliError::table(file)(errors)) }
}

/// A figure of a test in the file.
struct Figure {
    value: Probability,
    /// From where to where it may lie.
    range: [f64; 2],
    interval: Option<Estimate<Probability>>,
}

fn figure(table: &CsvTable, row: &CsvRow, column: &str) -> Result<Figure, CsvError> {
    let share = |column: &str| -> Result<Option<Probability>, CsvError> {
        let value = table.number(row, column)?;
        value.map(|it| Probability::new(it).map_err(|error| row.fault(column, error.to_string()))).transpose()
    };
    let missing = || row.fault(column, "no value is given; enter a number between 0 and 1".to_owned());
    let value = share(column)?.ok_or_else(missing)?;
    let [lower, upper] = ["lower", "upper"].map(|end| format!("{column}_{end}"));
    let interval = match (share(&lower)?, share(&upper)?) {
        (Some(low), Some(high)) => {
            Some(Estimate::new(value, low, high).map_err(|error| row.fault(&lower, error.to_string()))?)
        }
        (None, None) => None,
        _ => return Err(row.fault(&lower, "an interval needs both ends; enter both or none".to_owned())),
    };
    let printed = Rounded::parse(table.text(row, column), false).map(|it| it.window().map(|end| end.clamp(0.0, 1.0)));
    let range = interval.map(|it| [it.lower.get(), it.upper.get()]).or(printed).unwrap_or([value.get(); 2]);
    Ok(Figure { value, range, interval })
}

fn checked_claims(tests: &[ReadTest], file: &str) -> Result<CheckedClaims, CliError> {
    let table =
        CsvTable::read(&read(file)?, &["at_least", "sensitivity", "specificity"]).map_err(CliError::table(file))?;
    let (mut claims, mut errors) = (Vec::new(), Vec::new());
    for row in &table.rows {
        let rule = table.text(row, "at_least").parse().ok().filter(|k| (1..=tests.len()).contains(k));
        let rule = rule.ok_or_else(|| row.fault("at_least", format!("enter a whole number from 1 to {}", tests.len())));
        let figure = |column: &str| match table.text(row, column) {
            "" => Ok(None),
            text => {
                let figure = Rounded::parse(text, true).filter(|it| it.value() <= 1.0);
                let wrong =
                    || row.fault(column, format!("{text:?} is no share in percent; enter 0 to 100, or leave it empty"));
                figure.map(Some).ok_or_else(wrong)
            }
        };
        match (rule, figure("sensitivity"), figure("specificity")) {
            (Ok(k), Ok(sensitivity), Ok(specificity)) => claims.push(Claim { k, sensitivity, specificity }),
            (rule, one, other) => errors.extend([rule.err(), one.err(), other.err()].into_iter().flatten()),
        }
    }
    if !errors.is_empty() {
        return Err(CliError::table(file)(errors));
    }
    let points = |it: &ReadTest| SingleRange {
        sensitivity: [it.accuracy.sensitivity.get(); 2],
        specificity: [it.accuracy.specificity.get(); 2],
    };
    let check = |ranges: Vec<SingleRange>| check_claims(&ranges, &claims).map_err(CliError::refused);
    Ok(CheckedClaims {
        exactly: check(tests.iter().map(points).collect())?,
        loosely: check(tests.iter().map(|it| it.range).collect())?,
    })
}

/// Each claim in a line or two.
fn claims_text(checked: &CheckedClaims) -> Vec<String> {
    let figure = |name: &str, it: Option<FigureCheck>| {
        it.map(|it| {
            let [low, high] = it.possible.map(percent);
            let would = match (it.fault, it.shift) {
                (None, _) => String::new(),
                (Some(_), Some(by)) => format!("; every single one would have to be {:+.1} points", 100.0 * by),
                (Some(_), None) => "; no single figures make it possible".to_owned(),
            };
            format!("    {name}: {low} to {high} is possible{would}")
        })
    };
    let claims = checked.exactly.claims.iter().zip(&checked.loosely.claims).flat_map(|(exactly, loosely)| {
        let verdict = match (exactly.possible, loosely.possible) {
            (true, _) => "possible",
            (false, true) => "possible only if the single figures differ, within their rounding or interval",
            (false, false) => "impossible",
        };
        let head = format!("  claim about at least {}: {verdict}", exactly.k);
        let figures = [figure("sensitivity", exactly.sensitivity), figure("specificity", exactly.specificity)];
        std::iter::once(head).chain(figures.into_iter().flatten())
    });
    let mut lines: Vec<String> = claims.collect();
    if checked.exactly.claims.len() > 1 && !checked.exactly.together_possible {
        lines.push("  they cannot all be true of the same people".to_owned());
    }
    lines
}

fn text(output: &CombineOutput) -> String {
    let lr = |lr: Option<pruvex_core::Ratio>| lr.map_or("not estimable".to_owned(), |lr| two_digits(lr.get()));
    let rule = |rule: &RuleAccuracy| {
        format!(
            "  at least {} of {}: sensitivity {}, specificity {}, LR+ {}, LR- {}",
            rule.k,
            output.tests,
            percent(rule.sensitivity),
            percent(rule.specificity),
            lr(rule.lr_positive),
            lr(rule.lr_negative)
        )
    };
    let mut lines = vec!["If the tests were independent given the condition:".to_owned()];
    lines.extend(output.rules.iter().map(rule));
    match &output.dependent {
        None => lines.push("Tests of the same tissue are not independent: the true gain is smaller.".to_owned()),
        Some(dependent) => {
            let LatentCorrelation { diseased, non_diseased } = dependent.correlation;
            lines.push(format!("With a correlation of {diseased} (without the condition {non_diseased}):"));
            lines.extend(dependent.rules.iter().map(rule));
        }
    }
    lines.push("Whatever the dependence:".to_owned());
    lines.extend(output.bounds.iter().map(|it| {
        let range = |[low, high]: [Probability; 2]| format!("{} to {}", percent(low), percent(high));
        let both = if it.both_can_rise { ", both can rise" } else { "" };
        let (sensitivity, specificity) = (range(it.sensitivity), range(it.specificity));
        format!("  at least {} of {}: sensitivity {sensitivity}, specificity {specificity}{both}", it.k, output.tests)
    }));
    if let Some(battery) = &output.battery {
        lines.push("With the intervals of the single tests:".to_owned());
        for rule in &battery.rules {
            lines.push(format!("  at least {} of {}", rule.k, output.tests));
            lines.push(share_line("sensitivity", Some(rule.sensitivity)));
            lines.push(share_line("specificity", Some(rule.specificity)));
            lines.push(ratio_line("LR+", rule.lr_positive));
            lines.push(ratio_line("LR-", rule.lr_negative));
        }
    }
    if let Some(claims) = &output.claims {
        lines.push("Claims:".to_owned());
        lines.extend(claims_text(claims));
    }
    if let Some(cluster) = &output.cluster {
        match (&cluster.published, cluster.source) {
            (Some(pooled), ClusterSource::Published) => {
                lines.push(format!(
                    "Use the {} studies of the rule \"at least {}\", not the calculation:",
                    pooled.k, cluster.independent.k
                ));
                lines.push(share_line("sensitivity", pooled.summary.sensitivity));
                lines.push(share_line("specificity", pooled.summary.specificity));
                lines.push(ratio_line("LR+", pooled.summary.lr_positive));
                lines.push(ratio_line("LR-", pooled.summary.lr_negative));
            }
            _ => lines.push("No study of the rule itself: only calculated figures.".to_owned()),
        }
    }
    if let Some(NamedSequence { names, information_first, sequence }) = &output.sequence {
        lines.push("One after the other, until a threshold is crossed:".to_owned());
        for ((name, step), first) in names.iter().zip(&sequence.steps).zip(information_first) {
            lines.push(format!(
                "  {name}: needed in {}, then tells {:.2} bits (as the first test {first:.2})",
                percent(step.needed),
                step.information
            ));
        }
        lines.push(format!(
            "  on average {:.2} tests; reassured {}, treated {}, undecided {}",
            sequence.expected_tests,
            percent(sequence.reassured),
            percent(sequence.treated),
            percent(sequence.undecided)
        ));
        let chance = |p: Option<Probability>| p.map_or("nobody".to_owned(), percent);
        lines.push(format!(
            "  condition among the reassured {}, among the treated {}",
            chance(sequence.condition_if_reassured),
            chance(sequence.condition_if_treated)
        ));
    }
    lines.join("\n")
}
