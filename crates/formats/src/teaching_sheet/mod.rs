//! A test's sheet typeset for paper: one or two pages to teach from, with its likelihood ratios and cautions.

use pruvex_core::catalogue::{Derived, Sheet, Status, TeachingConflict};
use pruvex_core::likelihood::post_test_interval;
use pruvex_core::pooling::{Pooled, Warning};
use pruvex_core::{Estimate, Probability, Ratio};
use serde_json::{Value, json};
use typst_layout::PagedDocument;

use crate::numbers::{percent, percent_interval, percent_point, ratio_interval, ratio_point};
use crate::typesetting::{TypesettingError, pdf, typeset};
use crate::words::codes;

const TEMPLATE: &str = include_str!("sheet.typ");
/// Sizes of the text, points: the largest at which the sheet takes two pages, else the smallest that is still read with ease.
const SIZES: [f64; 3] = [10.0, 9.0, 8.2];
const PAGES: usize = 2;

/// What is set.
#[derive(Debug, Clone, Copy)]
pub struct TeachingSheet<'a> {
    /// The sheet.
    pub sheet: &'a Sheet,
    /// Which of its conditions the figures are about.
    pub condition: &'a str,
    /// Where teaching about it disagrees.
    pub conflicts: &'a [TeachingConflict],
    /// Its version, printed so that a copy on paper can be told from a later one.
    pub version: i32,
    /// Where that version stands.
    pub status: Status,
    /// Something on it is made up.
    pub sample: bool,
    /// Its studies' pooled answer, if there are studies.
    pub pooled: Option<&'a Pooled>,
    /// Pre-test probability at which the results are read.
    pub pre_test: Option<Probability>,
    /// Day of printing, in words.
    pub printed: &'a str,
}

/// Sets a sheet as a PDF of A4 pages. The same sheet gives the same bytes.
///
/// # Errors
/// When the typesetter refuses the document, which says that the template is wrong, not the sheet.
pub fn teaching_sheet(of: &TeachingSheet<'_>) -> Result<Vec<u8>, TypesettingError> {
    let codes = codes();
    let mut set: Option<PagedDocument> = None;
    for size in SIZES {
        let document = typeset(TEMPLATE, &data(of, codes, size))?;
        let fits = document.pages().len() <= PAGES;
        set = Some(document);
        if fits {
            break;
        }
    }
    pdf(&set.ok_or_else(|| TypesettingError::of(&"no size to set it in"))?)
}

fn data(of: &TeachingSheet<'_>, codes: &Value, size: f64) -> Value {
    json!({
        "sheet": of.sheet,
        "derived": Derived::of(of.sheet),
        "condition": of.condition,
        "conflicts": of.conflicts,
        "version": of.version,
        "status": of.status,
        "sample": of.sample,
        "printed": of.printed,
        "size": size,
        "words": codes,
        "figures": of.pooled.map(|pooled| figures(pooled, of.pre_test)),
    })
}

fn figures(pooled: &Pooled, pre_test: Option<Probability>) -> Value {
    let summary = &pooled.summary;
    let share = |p: Estimate<Probability>| json!({ "point": percent_point(p), "interval": percent_interval(p) });
    let bar = |lr: Estimate<Ratio>| {
        // Where it stands on the axis; what has no end is drawn to the axis' own end.
        let log = |ratio: Ratio| ratio.get().ln().clamp(-20.0, 20.0);
        json!({
            "point": ratio_point(lr),
            "interval": ratio_interval(lr),
            "at": [log(lr.lower), log(lr.estimate), log(lr.upper)],
            "after": pre_test.and_then(|before| post_test_interval(before, lr)).map(share),
        })
    };
    json!({
        "studies": pooled.k,
        "people": pooled.diseased + pooled.non_diseased,
        "converged": pooled.converged,
        "level": (100.0 * pooled.level.get()).round(),
        "sensitivity": summary.sensitivity.map(share),
        "specificity": summary.specificity.map(share),
        "positive": summary.lr_positive.map(bar),
        "negative": summary.lr_negative.map(bar),
        "before": pre_test.map(percent),
        "limits": pooled.warnings.iter().filter_map(limit).collect::<Vec<_>>(),
    })
}

/// A perfect arm is never certainty: what the data still allow stands beside the figures.
fn limit(warning: &Warning) -> Option<Value> {
    let (kind, arm, n, upper) = match *warning {
        Warning::PerfectArm { arm, n, upper } => ("perfect", arm, n, upper),
        Warning::NoneCorrect { arm, n, upper } => ("none-correct", arm, n, upper),
        _ => return None,
    };
    Some(json!({ "kind": kind, "arm": arm, "n": n, "upper": percent(upper) }))
}
