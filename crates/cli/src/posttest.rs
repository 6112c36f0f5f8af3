//! `pruvex posttest`: what a result is worth at a pre-test probability.

use pruvex_core::likelihood::post_test_interval;
use pruvex_core::{Estimate, Probability, Ratio};

use crate::output::{Format, print, probability, ratio, share_line};

#[derive(Debug, clap::Args)]
#[command(after_help = "Example:\n  pruvex posttest --pre-test 0.35 --lr 3.2 --lower 2.5 --upper 4.1")]
pub struct Arguments {
    /// Pre-test probability, between 0 and 1.
    #[arg(long, value_parser = probability)]
    pre_test: Probability,
    /// Likelihood ratio of the result seen.
    #[arg(long, value_parser = ratio)]
    lr: Ratio,
    /// Lower bound of its interval; the ratio itself unless given.
    #[arg(long, value_parser = ratio)]
    lower: Option<Ratio>,
    /// Upper bound of its interval; the ratio itself unless given.
    #[arg(long, value_parser = ratio)]
    upper: Option<Ratio>,
    /// How to print the answer.
    #[arg(long, value_enum, default_value_t = Format::Text)]
    format: Format,
}

pub fn run(arguments: &Arguments) -> Result<(), String> {
    let Arguments { pre_test, lr, lower, upper, format } = *arguments;
    let (lower, upper) = (lower.unwrap_or(lr), upper.unwrap_or(lr));
    if lower > lr || upper < lr {
        return Err("the ratio must lie within its interval: --lower <= --lr <= --upper".to_owned());
    }
    let post = post_test_interval(pre_test, Estimate { estimate: lr, lower, upper })
        .ok_or("a certain pre-test probability contradicts this ratio: there is no answer")?;
    print(format, &post, || share_line("post-test probability", Some(post)))
}
