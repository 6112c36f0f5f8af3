//! The likelihood ladder for print: tests on one axis of likelihood ratios, as PDF, SVG or PNG.

use pruvex_core::{Estimate, Ratio};
use serde_json::{Value, json};

use crate::numbers::{ratio_interval, ratio_point};
use crate::typesetting::{FigureFormat, TypesettingError, figure, typeset};

const TEMPLATE: &str = include_str!("ladder.typ");

/// Beyond these an interval is cut with an arrow, as on the screen: a ratio of 50 and one of 500 lead to the same decision.
const WIDEST: [f64; 2] = [0.02, 50.0];
const NARROWEST: [f64; 2] = [0.1, 10.0];
const TICKS: [f64; 11] = [0.02, 0.05, 0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 50.0];

/// A test on the ladder.
#[derive(Debug, Clone, PartialEq)]
pub struct LadderTest {
    /// Its name.
    pub name: String,
    /// Studies behind its ratios.
    pub studies: usize,
    /// There is none, but somebody looked and found nothing usable.
    pub looked_for: bool,
    /// At least one of them is made up.
    pub sample: bool,
    /// LR+ and LR-; none when not studied or not estimable.
    pub ratios: [Option<Estimate<Ratio>>; 2],
    /// Where the next study is expected, if that is to be drawn.
    pub ahead: [Option<Estimate<Ratio>>; 2],
}

/// A ladder as it is printed.
#[derive(Debug, Clone, PartialEq)]
pub struct LadderFigure {
    /// What it is about.
    pub title: String,
    /// Tests under a title, which may be empty.
    pub groups: Vec<(String, Vec<LadderTest>)>,
    /// Day of printing, in words.
    pub printed: String,
}

/// Sets a ladder. The same ladder gives the same bytes.
///
/// # Errors
/// When the typesetter refuses the document, which says that the template is wrong, not the ladder.
pub fn ladder_figure(of: &LadderFigure, format: FigureFormat) -> Result<Vec<u8>, TypesettingError> {
    figure(&typeset(TEMPLATE, &data(of))?, format)
}

fn data(of: &LadderFigure) -> Value {
    let tests = || of.groups.iter().flat_map(|(_, tests)| tests);
    let shown = || tests().flat_map(|test| test.ratios.iter().chain(&test.ahead)).flatten();
    let bounds = || {
        let all = shown().flat_map(|lr| [lr.lower, lr.estimate, lr.upper].map(Ratio::get));
        all.filter(|value| *value > 0.0 && value.is_finite())
    };
    let low = bounds().map(|value| value * 0.85).fold(NARROWEST[0], f64::min).max(WIDEST[0]);
    let high = bounds().map(|value| value * 1.15).fold(NARROWEST[1], f64::max).min(WIDEST[1]);
    let place = |value: f64| ((value.clamp(low, high) / low).ln() / (high / low).ln()).clamp(0.0, 1.0);
    let bar = |lr: Estimate<Ratio>| {
        let [lower, point, upper] = [lr.lower, lr.estimate, lr.upper].map(Ratio::get);
        json!({
            "at": ([lower, point, upper].map(place)),
            "cut": [lower < low, upper > high],
            "point": ratio_point(lr),
            "interval": ratio_interval(lr),
        })
    };
    let test = |test: &LadderTest| {
        json!({
            "name": test.name,
            "studies": test.studies,
            "looked_for": test.looked_for,
            "sample": test.sample,
            "thin": test.studies < 4,
            "bars": test.ratios.map(|lr| lr.map(bar)),
            "ahead": test.ahead.map(|lr| lr.map(bar)),
        })
    };
    let group = |(title, tests): &(String, Vec<LadderTest>)| json!({ "title": title, "tests": tests.iter().map(test).collect::<Vec<_>>() });
    json!({
        "title": of.title,
        "printed": of.printed,
        "sample": tests().any(|test| test.sample),
        "ahead": tests().any(|test| test.ahead.iter().any(Option::is_some)),
        "groups": of.groups.iter().map(group).collect::<Vec<_>>(),
        "ticks": TICKS.iter().filter(|tick| **tick >= low && **tick <= high).map(|tick| json!([place(*tick), tick.to_string()]))
            .collect::<Vec<_>>(),
        "one": place(1.0),
    })
}
