//! A pool for print: the paired forest with its summaries and the studies in ROC space, as PDF, SVG or PNG; and the table behind them.

use pruvex_core::accuracy::{Counts, Methods, study_accuracy};
use pruvex_core::pooling::{Pooled, Prediction, RocPoint, RocSpace, Weight};
use pruvex_core::{Estimate, Probability};
use serde_json::{Value, json};

use crate::csv_table::write_csv;
use crate::numbers::{percent, percent_interval, percent_point, ratio_interval, ratio_point};
use crate::typesetting::{FigureFormat, TypesettingError, figure, typeset};

const TEMPLATE: &str = include_str!("figure.typ");

/// A result in a figure.
#[derive(Debug, Clone, PartialEq)]
pub struct FigureRow {
    /// Short name of the report.
    pub report: String,
    /// In what it differs; empty when in nothing.
    pub differs: String,
    /// Made up.
    pub sample: bool,
    /// The four cells.
    pub counts: Counts,
    /// Its share of what is known.
    pub weight: Weight,
}

/// Results that are pooled together, or one value of what is compared.
#[derive(Debug, Clone, PartialEq)]
pub struct FigureGroup {
    /// The value; empty when nothing is compared.
    pub title: String,
    /// Its results.
    pub rows: Vec<FigureRow>,
    /// Their own summary, if values are compared.
    pub pooled: Option<Pooled>,
}

/// A pool as it is printed.
#[derive(Debug, Clone, PartialEq)]
pub struct PoolFigure {
    /// What is pooled.
    pub title: String,
    /// For which condition.
    pub condition: String,
    /// The results.
    pub groups: Vec<FigureGroup>,
    /// The summary of all.
    pub pooled: Option<Pooled>,
    /// Where the next study is expected.
    pub prediction: Prediction,
    /// Regions and curve; none while values are compared.
    pub roc: Option<RocSpace>,
    /// At least one result is made up.
    pub sample: bool,
    /// Day of printing, in words.
    pub printed: String,
}

/// Sets a pool's figure. The same pool gives the same bytes.
///
/// # Errors
/// When the typesetter refuses the document, which says that the template is wrong, not the pool.
pub fn pool_figure(of: &PoolFigure, format: FigureFormat) -> Result<Vec<u8>, TypesettingError> {
    figure(&typeset(TEMPLATE, &data(of))?, format)
}

fn share(p: Estimate<Probability>) -> Value {
    json!({ "text": format!("{} ({})", percent_point(p), percent_interval(p)), "at": [p.lower, p.estimate, p.upper] })
}

/// Two shares side by side.
fn pair(sensitivity: Option<Estimate<Probability>>, specificity: Option<Estimate<Probability>>) -> Value {
    json!([sensitivity.map(share), specificity.map(share)])
}

fn data(of: &PoolFigure) -> Value {
    let weight = |share: Option<f64>| share.and_then(|it| Probability::new(it).ok()).map(percent);
    let row = |row: &FigureRow| {
        let accuracy = study_accuracy(&row.counts, Methods::default());
        let arms = [row.counts.diseased(), row.counts.non_diseased()];
        json!({
            "report": row.report,
            "differs": row.differs,
            "sample": row.sample,
            "shares": pair(accuracy.sensitivity, accuracy.specificity),
            "people": arms.map(|arm| arm.map(|arm| [arm.correct, arm.n])),
            "weights": [weight(row.weight.sensitivity), weight(row.weight.specificity)],
        })
    };
    let group = |group: &FigureGroup| {
        let summary = group.pooled.as_ref().filter(|it| it.k > 1).map(|it| &it.summary);
        json!({
            "title": group.title,
            "rows": group.rows.iter().map(row).collect::<Vec<_>>(),
            "summary": summary.map(|it| pair(it.sensitivity, it.specificity)),
            "point": group.pooled.as_ref().and_then(|it| Some([it.summary.sensitivity?.estimate, it.summary.specificity?.estimate])),
        })
    };
    let outline = |points: &[RocPoint]| -> Vec<[Probability; 2]> {
        points.iter().map(|it| [it.sensitivity, it.specificity]).collect()
    };
    let pooled = of.pooled.as_ref();
    let ratios = pooled.map(|it| {
        let text = |lr| format!("{} ({})", ratio_point(lr), ratio_interval(lr));
        [it.summary.lr_positive.map(text), it.summary.lr_negative.map(text)]
    });
    json!({
        "title": of.title,
        "condition": of.condition,
        "sample": of.sample,
        "printed": of.printed,
        "groups": of.groups.iter().map(group).collect::<Vec<_>>(),
        "compared": of.groups.iter().any(|it| !it.title.is_empty()),
        "summary": pooled.filter(|it| it.k > 1).map(|it| pair(it.summary.sensitivity, it.summary.specificity)),
        "ahead": of.prediction.sensitivity.or(of.prediction.specificity)
            .map(|_| pair(of.prediction.sensitivity, of.prediction.specificity)),
        "ratios": ratios,
        "method": pooled.map(|it| &it.method),
        "roc": of.roc.as_ref().map(|roc| json!({
            "summary": [roc.summary.sensitivity, roc.summary.specificity],
            "confidence": outline(&roc.confidence.outline),
            "prediction": outline(&roc.prediction.outline),
            "curve": outline(&roc.curve),
        })),
    })
}

/// The figures behind the picture: a line a result, then the summaries; shares between 0 and 1, unrounded.
///
/// # Errors
/// None that are known: it is written to memory.
pub fn pool_csv(of: &PoolFigure) -> Result<String, csv::Error> {
    let head = "row,value,report,tp,fp,fn,tn,sensitivity,sensitivity_lower,sensitivity_upper,specificity,specificity_lower,\
                specificity_upper,weight_sensitivity,weight_specificity,sample";
    let number = |value: Option<f64>| value.map(|it| it.to_string()).unwrap_or_default();
    let bounds = |of: Option<Estimate<Probability>>| {
        let parts = of.map(|it| [it.estimate, it.lower, it.upper].map(|p| Some(p.get()))).unwrap_or_default();
        parts.map(number)
    };
    let mut lines: Vec<Vec<String>> = vec![head.split(',').map(|it| it.trim().to_owned()).collect()];
    let mut line = |kind: &str,
                    start: [String; 2],
                    cells: [Option<u32>; 4],
                    shares: [Option<Estimate<Probability>>; 2],
                    weight: Weight,
                    sample: bool| {
        let mut fields = vec![kind.to_owned()];
        fields.extend(start);
        fields.extend(cells.map(|cell| cell.map(|it| it.to_string()).unwrap_or_default()));
        shares.into_iter().for_each(|share| fields.extend(bounds(share)));
        fields.extend([weight.sensitivity, weight.specificity].map(number));
        fields.push(if sample { "sample data" } else { "" }.to_owned());
        lines.push(fields);
    };
    for group in &of.groups {
        for row in &group.rows {
            let accuracy = study_accuracy(&row.counts, Methods::default());
            let start = [group.title.clone(), row.report.clone()];
            let shares = [accuracy.sensitivity, accuracy.specificity];
            line("result", start, row.counts.cells(), shares, row.weight, row.sample);
        }
        if let Some(pooled) = group.pooled.as_ref().filter(|_| !group.title.is_empty()) {
            let start = [group.title.clone(), String::new()];
            let shares = [pooled.summary.sensitivity, pooled.summary.specificity];
            line("summary", start, [None; 4], shares, Weight::default(), of.sample);
        }
    }
    if let Some(pooled) = &of.pooled {
        let shares = [pooled.summary.sensitivity, pooled.summary.specificity];
        line("summary", Default::default(), [None; 4], shares, Weight::default(), of.sample);
        let ahead = [of.prediction.sensitivity, of.prediction.specificity];
        line("prediction", Default::default(), [None; 4], ahead, Weight::default(), of.sample);
    }
    write_csv(&lines)
}
