//! Numbers as a reader wants them: as few digits as the data carry, and never a rounded certainty.

use pruvex_core::{Estimate, Probability, Ratio};

/// A narrow space that does not break between a number and its sign.
const THIN: char = '\u{202f}';

/// Per cent, whole in the middle, one decimal near the ends, never a rounded 0 or 100.
pub(crate) fn percent(p: Probability) -> String {
    match p.get() {
        p if p > 0.0 && p < 0.0005 => format!("<{THIN}0.1{THIN}%"),
        p if p < 1.0 && p > 0.9995 => format!(">{THIN}99.9{THIN}%"),
        p => format!("{}{THIN}%", bare(p)),
    }
}

fn bare(p: f64) -> String {
    let whole = p == 0.0 || p == 1.0 || (0.0995..=0.9005).contains(&p);
    // Halves go up, as readers round and as the screen does.
    if whole { format!("{:.0}", (100.0 * p).round()) } else { format!("{:.1}", 100.0 * p) }
}

/// The point; a probability of 0 or 1 rests on a ratio without a finite bound: the bound that the data do support is said.
pub(crate) fn percent_point(p: Estimate<Probability>) -> String {
    let Estimate { estimate, lower, upper } = p;
    if estimate.get() == 1.0 && lower.get() < 1.0 {
        format!(">{THIN}{}", percent(lower))
    } else if estimate.get() == 0.0 && upper.get() > 0.0 {
        format!("<{THIN}{}", percent(upper))
    } else {
        percent(estimate)
    }
}

/// `54–67 %`: whole numbers unless it is narrow, or a bound would turn into a false 0 or 100.
pub(crate) fn percent_interval(p: Estimate<Probability>) -> String {
    let [lower, upper] = [p.lower, p.upper].map(Probability::get);
    let bound = |value: f64| {
        let short = format!("{:.0}", (100.0 * value).round());
        let honest = value == 0.0 || value == 1.0 || (short != "0" && short != "100");
        if upper - lower > 0.1 && honest { short } else { bare(value) }
    };
    format!("{}–{}{THIN}%", bound(lower), bound(upper))
}

/// A ratio with two significant digits.
pub(crate) fn ratio(ratio: Ratio) -> String {
    let value = ratio.get();
    if value == 0.0 {
        return "0".to_owned();
    }
    if value < 0.001 {
        return format!("<{THIN}0.001");
    }
    if value.is_infinite() {
        return "∞".to_owned();
    }
    if value >= 100_000.0 {
        return format!(">{THIN}100{THIN}000");
    }
    // Rounded first: 0.0996 is 0.10, and how many decimals that takes is told by the rounded value.
    let exponent = |value: f64| value.log10().floor() as i32;
    let unit = 10_f64.powi(exponent(value) - 1);
    let rounded = (value / unit).round() * unit;
    if value >= 1_000.0 {
        let whole = format!("{rounded:.0}");
        let (thousands, rest) = whole.split_at(whole.len() - 3);
        return format!("{thousands}{THIN}{rest}");
    }
    if value >= 100.0 {
        return format!("{value:.0}");
    }
    // A hair of tolerance: the product of the rounding may fall just short of a power of ten.
    let decimals = usize::try_from(1 - exponent(rounded * (1.0 + 1e-12))).unwrap_or(0);
    format!("{rounded:.decimals$}")
}

/// The point; when it is infinite or zero, the bound that the data do support.
pub(crate) fn ratio_point(lr: Estimate<Ratio>) -> String {
    if lr.estimate.get().is_infinite() {
        format!(">{THIN}{}", ratio(lr.lower))
    } else if lr.estimate.get() == 0.0 {
        format!("<{THIN}{}", ratio(lr.upper))
    } else {
        ratio(lr.estimate)
    }
}

/// Both bounds.
pub(crate) fn ratio_interval(lr: Estimate<Ratio>) -> String {
    format!("{}–{}", ratio(lr.lower), ratio(lr.upper))
}

#[cfg(test)]
mod tests {
    use std::fmt::Debug;

    use serde::de::DeserializeOwned;
    use serde_json::Value;

    use super::*;

    /// The front end writes numbers by the same vectors: paper and screen must not differ.
    #[test]
    fn numbers_are_written_as_on_the_screen() {
        let vectors: Value = serde_json::from_str(include_str!("../../../web/src/shared/format.vectors.json")).unwrap();
        let each = |name: &str, write: &dyn Fn(&[Value]) -> String| {
            for row in vectors[name].as_array().unwrap() {
                let (expected, given) = row.as_array().unwrap().split_last().unwrap();
                assert_eq!(write(given).replace(THIN, "_"), expected.as_str().unwrap(), "{name} {given:?}");
            }
        };
        fn of<T: DeserializeOwned + Debug>(given: &[Value]) -> Estimate<T> {
            let [estimate, lower, upper] = [0, 1, 2].map(|at| serde_json::from_value(given[at].clone()).unwrap());
            Estimate { estimate, lower, upper }
        }
        each("percent", &|given| percent(serde_json::from_value(given[0].clone()).unwrap()));
        each("percent_interval", &|given| percent_interval(of(given)));
        each("percent_point", &|given| percent_point(of(given)));
        each("ratio", &|given| ratio(serde_json::from_value(given[0].clone()).unwrap()));
        each("ratio_point", &|given| ratio_point(of(given)));
    }
}
