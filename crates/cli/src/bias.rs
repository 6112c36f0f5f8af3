//! `pruvex bias`: what a test would look like with a reference standard that never errs, and with everybody verified.

use pruvex_core::accuracy::{
    CorrectedReference, CorrectedShare, ReferenceErrors, ReferenceFlag, VerificationCounts, VerificationFlag,
    VerifiedAccuracy, correct_for_reference, correct_for_verification,
};
use pruvex_core::{Count, Estimate, Level, Probability};
use serde::Serialize;
use utoipa::ToSchema;

use crate::error::CliError;
use crate::output::{Format, level, percent, print, probability, two_digits};

#[derive(Debug, clap::Args)]
pub struct Arguments {
    #[command(subcommand)]
    of: Of,
}

#[derive(Debug, clap::Subcommand)]
enum Of {
    /// Correct a table for the errors of its reference standard.
    Reference(Reference),
    /// Correct a study in which not everybody was verified.
    Verification(Verification),
}

#[derive(Debug, clap::Args)]
#[command(
    after_help = "Example:\n  pruvex bias reference --tp 80 --fp 15 --fn 20 --tn 85 --reference-sensitivity 0.9 --reference-specificity 0.95"
)]
struct Reference {
    /// Both positive.
    #[arg(long, value_parser = count)]
    tp: Count,
    /// Test positive, reference negative.
    #[arg(long, value_parser = count)]
    fp: Count,
    /// Test negative, reference positive.
    #[arg(long = "fn", value_parser = count)]
    fn_: Count,
    /// Both negative.
    #[arg(long, value_parser = count)]
    tn: Count,
    /// How often the reference standard is right in people with the condition.
    #[arg(long, value_parser = probability)]
    reference_sensitivity: Probability,
    /// How often it is right in people without it.
    #[arg(long, value_parser = probability)]
    reference_specificity: Probability,
    /// How to print the answer.
    #[arg(long, value_enum, default_value_t = Format::Text)]
    format: Format,
}

#[derive(Debug, clap::Args)]
#[command(
    after_help = "Example:\n  pruvex bias verification --positive-with 80 --positive-without 20 --negative-with 5 --negative-without 45 \\\n    \
    --negative-unverified 150"
)]
struct Verification {
    /// Test positive, with the condition.
    #[arg(long, value_parser = count)]
    positive_with: Count,
    /// Test positive, without it.
    #[arg(long, value_parser = count)]
    positive_without: Count,
    /// Test positive, not verified.
    #[arg(long, value_parser = count, default_value = "0")]
    positive_unverified: Count,
    /// Test negative, with the condition.
    #[arg(long, value_parser = count)]
    negative_with: Count,
    /// Test negative, without it.
    #[arg(long, value_parser = count)]
    negative_without: Count,
    /// Test negative, not verified.
    #[arg(long, value_parser = count, default_value = "0")]
    negative_unverified: Count,
    /// Confidence level.
    #[arg(long, default_value = "0.95", value_parser = level)]
    level: Level,
    /// How to print the answer.
    #[arg(long, value_enum, default_value_t = Format::Text)]
    format: Format,
}

/// A correction.
#[derive(Debug, Serialize, ToSchema)]
#[serde(untagged)]
pub enum BiasOutput {
    /// For the errors of the reference standard.
    Reference(CorrectedReference),
    /// For people who were not verified.
    Verification(VerifiedAccuracy),
}

fn count(text: &str) -> Result<Count, String> {
    let number: f64 = text.parse().map_err(|_| format!("'{text}' is not a number"))?;
    Count::new(number).map_err(|fault| fault.to_string())
}

pub fn run(arguments: &Arguments) -> Result<(), CliError> {
    match &arguments.of {
        Of::Reference(of) => {
            let cells = [of.tp, of.fp, of.fn_, of.tn].map(|cell| f64::from(cell.get()));
            let reference =
                ReferenceErrors { sensitivity: of.reference_sensitivity, specificity: of.reference_specificity };
            answer(of.format, &BiasOutput::Reference(correct_for_reference(cells, reference)))
        }
        Of::Verification(of) => {
            let counts = VerificationCounts {
                positive_with: of.positive_with,
                positive_without: of.positive_without,
                positive_unverified: of.positive_unverified,
                negative_with: of.negative_with,
                negative_without: of.negative_without,
                negative_unverified: of.negative_unverified,
            };
            answer(of.format, &BiasOutput::Verification(correct_for_verification(&counts, of.level)))
        }
    }
}

fn answer(format: Format, output: &BiasOutput) -> Result<(), CliError> {
    print(format, output, || match output {
        BiasOutput::Reference(of) => reference_text(of),
        BiasOutput::Verification(of) => verification_text(of),
    })
}

/// A figure that may lie outside of 0 to 100 %.
fn shown(value: Option<f64>) -> String {
    value.map_or("not estimable".to_owned(), |value| format!("{:.1} %", 100.0 * value))
}

fn reference_text(of: &CorrectedReference) -> String {
    let line = |name: &str, value: Option<f64>, bounds: Option<[f64; 2]>| {
        let bounds = bounds.map_or(String::new(), |[low, high]| {
            format!("   whatever the dependence {} to {}", shown(Some(low)), shown(Some(high)))
        });
        format!("  {name:<24}{:>14}{bounds}", shown(value))
    };
    let ratio = |name: &str, value: Option<pruvex_core::Ratio>| {
        value.map(|it| format!("  {name:<24}{:>14}", two_digits(it.get())))
    };
    let mut lines = vec![
        "If test and reference standard err independently of each other:".to_owned(),
        line("sensitivity", of.sensitivity, of.any_dependence.sensitivity),
        line("specificity", of.specificity, of.any_dependence.specificity),
    ];
    lines.extend([ratio("LR+", of.lr_positive), ratio("LR-", of.lr_negative)].into_iter().flatten());
    lines.push(line("with the condition", of.prevalence, None));
    lines.extend(of.flags.iter().map(|flag| format!("Not to be believed: {}.", reference_flag(*flag))));
    lines.push("A sensitivity analysis: the errors of the reference standard are stated, not known.".to_owned());
    lines.join("\n")
}

fn reference_flag(flag: ReferenceFlag) -> &'static str {
    match flag {
        ReferenceFlag::ReferenceUninformative => "this reference standard is right as often as a coin",
        ReferenceFlag::ReferenceReversed => "this reference standard is worse than chance",
        ReferenceFlag::PrevInadmissible => "fewer than nobody or more than everybody would have the condition",
        ReferenceFlag::SensInadmissible => "sensitivity would lie outside of 0 to 100 %",
        ReferenceFlag::SpecInadmissible => "specificity would lie outside of 0 to 100 %",
        ReferenceFlag::PrevUndefined => "there is nobody in the table",
        ReferenceFlag::SensUndefined => "nobody would have the condition",
        ReferenceFlag::SpecUndefined => "everybody would have the condition",
        ReferenceFlag::NegativeCell => "a cell of the corrected table would be below zero",
    }
}

fn verification_text(of: &VerifiedAccuracy) -> String {
    let plain = |value: Option<Probability>| value.map_or("not estimable".to_owned(), percent);
    let bounds = |it: Estimate<Probability>| format!(" ({} to {})", percent(it.lower), percent(it.upper));
    let line = |name: &str, it: Option<CorrectedShare>, naive: Option<Probability>, range: Option<[Probability; 2]>| {
        let interval = it.and_then(|it| it.interval).map_or(String::new(), bounds);
        let range = range.map_or(String::new(), |[low, high]| {
            format!("; without any assumption {} to {}", percent(low), percent(high))
        });
        let naive = plain(naive);
        format!("  {name:<13}{}{interval}; of the verified alone {naive}{range}", plain(it.map(|it| it.estimate)))
    };
    let mut lines = vec![
        format!(
            "Verified: {} of the test-positives, {} of the test-negatives.",
            plain(of.positives_verified),
            plain(of.negatives_verified)
        ),
        "If who was verified depended on the test's result alone (Begg and Greenes 1983):".to_owned(),
        line("sensitivity", of.sensitivity, of.naive_sensitivity, of.sensitivity_range),
        line("specificity", of.specificity, of.naive_specificity, of.specificity_range),
    ];
    if of.empty_cell {
        let half = [of.sensitivity_half_added, of.specificity_half_added].map(|it| plain(it.map(|it| it.estimate)));
        lines.push(format!("With half a person added to each verified cell: {}, {}.", half[0], half[1]));
    }
    lines.extend(of.flags.iter().map(|flag| format!("Note: {}.", verification_flag(*flag))));
    lines.join("\n")
}

fn verification_flag(flag: VerificationFlag) -> &'static str {
    match flag {
        VerificationFlag::NoPositiveVerified => {
            "nobody with a positive test was verified: there is nothing to correct by"
        }
        VerificationFlag::NoNegativeVerified => {
            "nobody with a negative test was verified: there is nothing to correct by"
        }
        VerificationFlag::NoPositive => "nobody had a positive test",
        VerificationFlag::NoNegative => "nobody had a negative test",
        VerificationFlag::SensAtBoundary => "sensitivity is at 0 or 100 %, or not to be had: no interval",
        VerificationFlag::SpecAtBoundary => "specificity is at 0 or 100 %, or not to be had: no interval",
    }
}
