//! What the computing commands share: the format, reading input, and numbers as a person writes them.

use std::io::Read;

use clap::ValueEnum;
use pruvex_core::{Estimate, Level, Probability, Ratio};
use serde::Serialize;

use crate::error::CliError;

#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub enum Format {
    Text,
    Json,
}

pub const CAUTION: &str = "Educational and decision-support material; not a diagnosis. Local protocols rule.";

/// Prints a value as JSON, or the text made of it with the caution below.
pub fn print<T: Serialize>(format: Format, value: &T, text: impl FnOnce() -> String) -> Result<(), CliError> {
    let text = match format {
        Format::Json => serde_json::to_string_pretty(value)?,
        Format::Text => format!("{}\n{CAUTION}", text()),
    };
    crate::emit(&text);
    Ok(())
}

/// The bytes of a file, or of standard input for `-`.
pub fn read(file: &str) -> Result<Vec<u8>, CliError> {
    let mut bytes = Vec::new();
    let result = if file == "-" {
        std::io::stdin().read_to_end(&mut bytes).map(|_| ())
    } else {
        std::fs::read(file).map(|b| bytes = b)
    };
    result.map_err(|cause| CliError::Unreadable { file: file.to_owned(), cause })?;
    Ok(bytes)
}

/// For clap: a level such as 0.95.
pub fn level(text: &str) -> Result<Level, String> {
    let value: f64 = text.parse().map_err(|_| format!("{text:?} is not a number"))?;
    Level::new(value).map_err(|error| error.to_string())
}

/// For clap: a probability such as 0.35.
pub fn probability(text: &str) -> Result<Probability, String> {
    let value: f64 = text.parse().map_err(|_| format!("{text:?} is not a number"))?;
    Probability::new(value).map_err(|error| error.to_string())
}

/// For clap: a ratio such as 3.2, or `infinity`.
pub fn ratio(text: &str) -> Result<Ratio, String> {
    let value: f64 = text.parse().map_err(|_| format!("{text:?} is not a number"))?;
    Ratio::new(value).map_err(|error| error.to_string())
}

pub fn percent(p: Probability) -> String {
    format!("{:.1} %", 100.0 * p.get())
}

/// A ratio or coefficient with two significant digits.
pub fn two_digits(value: f64) -> String {
    if value.is_infinite() {
        return "infinite".to_owned();
    }
    if value == 0.0 {
        return "0".to_owned();
    }
    let digits = (1 - value.abs().log10().floor() as i32).clamp(0, 8);
    format!("{value:.0$}", digits as usize)
}

pub fn share_line(name: &str, value: Option<Estimate<Probability>>) -> String {
    line(name, value.map(|e| [e.estimate, e.lower, e.upper].map(percent)))
}

pub fn ratio_line(name: &str, value: Option<Estimate<Ratio>>) -> String {
    line(name, value.map(|e| [e.estimate, e.lower, e.upper].map(|r| two_digits(r.get()))))
}

pub fn number_line(name: &str, value: Option<Estimate<f64>>) -> String {
    line(name, value.map(|e| [e.estimate, e.lower, e.upper].map(|v| format!("{v:.3}"))))
}

fn line(name: &str, parts: Option<[String; 3]>) -> String {
    match parts {
        Some([estimate, lower, upper]) => format!("  {name:<22} {estimate:>9}  ({lower} to {upper})"),
        None => format!("  {name:<22} not estimable"),
    }
}
