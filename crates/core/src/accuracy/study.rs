//! Everything that one 2x2 table says, with what has to be said beside it.

use serde::{Deserialize, Serialize};

use super::{
    Arm, Counts, ProportionMethod, RatioMethod, corrected_ratio, diagnostic_odds_ratio, proportion_interval,
    score_ratio_interval,
};
use crate::{Estimate, Level, Probability, Ratio};

/// The interval methods chosen.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Methods {
    /// Confidence level; 0.95 unless stated.
    pub level: Level,
    /// For sensitivity, specificity, predictive values and accuracy.
    pub proportion: ProportionMethod,
    /// For LR+ and LR-.
    pub ratio: RatioMethod,
}

/// Something a reader of the figures must know.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[serde(tag = "code", rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Note {
    /// 0.5 was added to every cell for this study's odds ratio (and its log-method LRs), as one cell is zero.
    HalfAdded,
    /// Nobody with the condition was missed, out of `n`; up to `upper` false negatives remain compatible.
    NoFalseNegatives {
        /// People with the condition.
        n: u64,
        /// Upper bound of the false-negative proportion.
        upper: Probability,
    },
    /// Nobody without the condition was positive, out of `n`; up to `upper` false positives remain compatible.
    NoFalsePositives {
        /// People without the condition.
        n: u64,
        /// Upper bound of the false-positive proportion.
        upper: Probability,
    },
    /// Nobody with the condition: sensitivity and the ratios are not estimable.
    NoDiseasedArm,
    /// Nobody without the condition: specificity and the ratios are not estimable.
    NoNonDiseasedArm,
    /// No positive result at all: LR+ is 0/0.
    NoPositiveResult,
    /// No negative result at all: LR- is 0/0.
    NoNegativeResult,
}

/// Accuracy of one study. `None` means "not estimable", for a reason found in `notes`.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct StudyAccuracy {
    /// TP / (TP + FN).
    pub sensitivity: Option<Estimate<Probability>>,
    /// TN / (TN + FP).
    pub specificity: Option<Estimate<Probability>>,
    /// Se / (1 - Sp); infinite when FP = 0.
    pub lr_positive: Option<Estimate<Ratio>>,
    /// (1 - Se) / Sp; infinite when TN = 0.
    pub lr_negative: Option<Estimate<Ratio>>,
    /// Diagnostic odds ratio, Woolf's interval.
    pub dor: Option<Estimate<Ratio>>,
    /// TP / (TP + FP), at this study's own prevalence.
    pub ppv: Option<Estimate<Probability>>,
    /// TN / (TN + FN), at this study's own prevalence.
    pub npv: Option<Estimate<Probability>>,
    /// (TP + TN) / N.
    pub accuracy: Option<Estimate<Probability>>,
    /// (TP + FN) / N.
    pub prevalence: Option<Estimate<Probability>>,
    /// Se + Sp - 1, from -1 to 1.
    pub youden: Option<f64>,
    /// The methods behind the intervals.
    pub methods: Methods,
    /// What has to be said beside the figures.
    pub notes: Vec<Note>,
}

/// All accuracy measures of one 2x2 table.
///
/// `Se = TP/(TP+FN)`, `Sp = TN/(TN+FP)`, `LR+ = Se/(1-Sp)`, `LR- = (1-Se)/Sp`, intervals by the chosen methods
/// (see [`proportion_interval`], [`score_ratio_interval`], [`corrected_ratio`], [`diagnostic_odds_ratio`]).
/// Total: every checked table has an answer; an empty or missing arm makes what needs it `None`.
#[must_use]
pub fn study_accuracy(counts: &Counts, methods: Methods) -> StudyAccuracy {
    let Methods { level, proportion, ratio } = methods;
    let interval = |x, n| proportion_interval(x, n, level, proportion);
    let [diseased, others] = counts.arms();
    let mut result = StudyAccuracy {
        sensitivity: diseased.and_then(|arm| interval(arm.correct, arm.n)),
        specificity: others.and_then(|arm| interval(arm.correct, arm.n)),
        lr_positive: None,
        lr_negative: None,
        dor: None,
        ppv: None,
        npv: None,
        accuracy: None,
        prevalence: None,
        youden: None,
        methods,
        notes: Vec::new(),
    };
    let Some(((d, o), cells)) =
        diseased.zip(others).map(|(d, o)| ((d, o), [d.correct, o.n - o.correct, d.n - d.correct, o.correct]))
    else {
        if diseased.is_none() {
            result.notes.push(Note::NoDiseasedArm);
        }
        if others.is_none() {
            result.notes.push(Note::NoNonDiseasedArm);
        }
        note_perfect_arms(&mut result, diseased, others);
        return result;
    };
    let [tp, fp, fn_, tn] = cells;
    (result.lr_positive, result.lr_negative) = match ratio {
        RatioMethod::Score => {
            (score_ratio_interval((tp, d.n), (fp, o.n), level), score_ratio_interval((fn_, d.n), (tn, o.n), level))
        }
        RatioMethod::Log => (corrected_ratio(cells, true, level), corrected_ratio(cells, false, level)),
    };
    result.dor = diagnostic_odds_ratio(cells, level);
    result.ppv = interval(tp, tp + fp);
    result.npv = interval(tn, tn + fn_);
    result.accuracy = interval(tp + tn, d.n + o.n);
    result.prevalence = interval(d.n, d.n + o.n);
    result.youden = Some(tp as f64 / d.n as f64 + tn as f64 / o.n as f64 - 1.0);
    if cells.contains(&0) {
        result.notes.push(Note::HalfAdded);
    }
    if tp + fp == 0 {
        result.notes.push(Note::NoPositiveResult);
    }
    if tn + fn_ == 0 {
        result.notes.push(Note::NoNegativeResult);
    }
    note_perfect_arms(&mut result, diseased, others);
    result
}

/// "Specificity 100 %" is not certainty: say how many false positives the data still allow.
fn note_perfect_arms(result: &mut StudyAccuracy, diseased: Option<Arm>, others: Option<Arm>) {
    let perfect = |arm: Option<Arm>| arm.filter(|arm| arm.correct == arm.n);
    if let (Some(arm), Some(se)) = (perfect(diseased), result.sensitivity) {
        result.notes.push(Note::NoFalseNegatives { n: arm.n, upper: se.lower.complement() });
    }
    if let (Some(arm), Some(sp)) = (perfect(others), result.specificity) {
        result.notes.push(Note::NoFalsePositives { n: arm.n, upper: sp.lower.complement() });
    }
}
