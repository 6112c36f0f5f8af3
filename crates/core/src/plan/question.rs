//! What an examination decides: a condition, its probability before the first test, and what is done from which probability on.

use std::collections::HashSet;

use serde::{Deserialize, Serialize};

use super::action::{ActionBand, ActionBandInput, ActionShare, PlanAction};
use crate::catalogue::limits::MAX_NAME;
use crate::combine::{PatternResult, sequence, undecided_ends};
use crate::field::Checker;
use crate::likelihood::Thresholds;
use crate::name::name_key;
use crate::{FieldError, FieldErrorCode, Probability};

/// More conditions at once are no plan.
pub const MAX_QUESTIONS: usize = 6;

/// A condition that an examination is to decide about, as a person or a file wrote it.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct PlanQuestionInput {
    /// Name of the target condition.
    pub condition: String,
    /// Probability of the condition before the first test, 0 to 1.
    pub pre_test: Option<f64>,
    /// Below this probability the patient is reassured.
    pub reassure_below: Option<f64>,
    /// Above this probability the condition is treated, or what `above` says.
    pub treat_above: Option<f64>,
    /// What is done between the two, the least probable first; where nothing is said, it is not decided.
    pub between: Vec<ActionBandInput>,
    /// What is done above the upper threshold; treated when nothing is said.
    pub above: Option<PlanAction>,
}

/// A condition that an examination is to decide about.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct PlanQuestion {
    /// Name of the target condition.
    pub condition: String,
    /// Probability of the condition before the first test.
    pub pre_test: Probability,
    /// From where on something is done.
    #[serde(flatten)]
    pub thresholds: Thresholds,
    /// What is done between the two, the least probable first; where nothing is said, it is not decided.
    #[serde(default)]
    pub between: Vec<ActionBand>,
    /// What is done above the upper one.
    #[serde(default)]
    pub above: PlanAction,
}

impl PlanQuestion {
    /// What is done at this probability; none between the thresholds where nothing is said: it is not decided.
    #[must_use]
    pub fn action(&self, p: Probability) -> Option<PlanAction> {
        if p < self.thresholds.reassure_below() {
            Some(PlanAction::Reassure)
        } else if p > self.thresholds.treat_above() {
            Some(self.above)
        } else {
            self.between.iter().rev().find(|it| p >= it.from).map(|it| it.action)
        }
    }
}

/// What is done in the end for patients who are examined until a threshold is crossed ([`sequence`]), the least probable first; the shares sum to 1.
///
/// `patterns` as for [`sequence`]. `None` unless their number is a power of two.
#[must_use]
pub fn action_shares(question: &PlanQuestion, patterns: &[PatternResult]) -> Option<Vec<ActionShare>> {
    let (pre_test, thresholds) = (question.pre_test, &question.thresholds);
    let ends = sequence(patterns, pre_test, thresholds)?;
    let between = undecided_ends(patterns, pre_test, thresholds)?;
    let middle = question.between.iter().map(|it| Some(it.action));
    let middle = [None].into_iter().chain(middle).map(|action| {
        let shares = between.iter().filter(|[p, _]| question.action(*p) == action);
        ActionShare { action, share: Probability::rounded(shares.map(|[_, share]| share.get()).sum()) }
    });
    let reassured = ActionShare { action: Some(PlanAction::Reassure), share: ends.reassured };
    let acted = ActionShare { action: Some(question.above), share: ends.treated };
    Some([reassured].into_iter().chain(middle).chain([acted]).collect())
}

pub(super) fn questions(c: &mut Checker, input: &[PlanQuestionInput]) -> Vec<PlanQuestion> {
    if input.is_empty() {
        let message = "The plan decides about no condition.";
        let remedy = "Add the condition that the examination is to show or to rule out.";
        c.push(FieldError::new("questions", FieldErrorCode::Missing, "", message, remedy));
    }
    if input.len() > MAX_QUESTIONS {
        too_many(c, "questions", input.len(), MAX_QUESTIONS);
        return Vec::new();
    }
    let mut seen = HashSet::new();
    let mut questions = Vec::with_capacity(input.len());
    for (nth, it) in input.iter().enumerate() {
        let at = |field: &str| format!("questions[{nth}].{field}");
        let condition = c.required(&at("condition"), &it.condition, MAX_NAME, "Choose a condition of the region.");
        if !condition.is_empty() && !seen.insert(name_key(&condition)) {
            let message = "This condition is asked about twice.";
            let field = at("condition");
            c.push(FieldError::new(field, FieldErrorCode::Duplicate, &condition, message, "Ask about it once."));
        }
        let mut share = |field: &str, value: Option<f64>, remedy: &str| {
            let value = c.present(&at(field), value, remedy)?;
            if let Ok(share) = Probability::new(value) {
                return Some(share);
            }
            c.invalid(&at(field), value, format!("{value} is no probability."), "Give a number from 0 to 1.");
            None
        };
        let pre_test = share("pre_test", it.pre_test, "Give the probability before the first test.");
        let low = share("reassure_below", it.reassure_below, "Give the threshold below which you reassure.");
        let high = share("treat_above", it.treat_above, "Give the threshold above which you treat.");
        let thresholds = low.zip(high).and_then(|(low, high)| {
            let ordered = Thresholds::new(low, high);
            if ordered.is_err() {
                let message = format!("Reassuring below {} would begin above treating from {}.", low.get(), high.get());
                let remedy = "Put the threshold for reassuring below the one for treating.";
                c.invalid(&at("reassure_below"), low.get(), message, remedy);
            }
            ordered.ok()
        });
        let (between, above) = actions(c, &format!("questions[{nth}]"), it, thresholds);
        questions.extend(pre_test.zip(thresholds).map(|(pre_test, thresholds)| PlanQuestion {
            condition,
            pre_test,
            thresholds,
            between,
            above,
        }));
    }
    questions
}

pub(super) fn too_many(c: &mut Checker, field: &str, n: usize, most: usize) {
    let message = format!("This list has {n} entries; at most {most} fit.");
    c.push(FieldError::new(field, FieldErrorCode::TooLong, n, message, "Leave some out."));
}

/// The actions of a question: between the thresholds, and above the upper one. Each stands once, so that a share of patients tells which is meant.
fn actions(
    c: &mut Checker,
    at: &str,
    input: &PlanQuestionInput,
    thresholds: Option<Thresholds>,
) -> (Vec<ActionBand>, PlanAction) {
    let above = input.above.unwrap_or_default();
    if above == PlanAction::Reassure {
        let message = "Nobody is reassured above the upper threshold.";
        c.invalid(&format!("{at}.above"), "reassure", message, "Choose what is done there.");
    }
    let mut bands: Vec<ActionBand> = Vec::with_capacity(input.between.len());
    for (nth, it) in input.between.iter().enumerate() {
        let field = |name: &str| format!("{at}.between[{nth}].{name}");
        let action = c.present(&field("action"), it.action, "Choose what is done from there on.");
        if let Some(action) = action {
            if action == PlanAction::Reassure {
                let message = "Reassuring ends at the lower threshold.";
                c.invalid(&field("action"), "reassure", message, "Choose another action, or raise the threshold.");
            } else if action == above || input.between[..nth].iter().any(|other| other.action == Some(action)) {
                let message = "This action stands there already.";
                let remedy = "Give each action once.";
                let name = serde_json::to_value(action).ok().and_then(|it| it.as_str().map(str::to_owned));
                let value = name.unwrap_or_default();
                c.push(FieldError::new(field("action"), FieldErrorCode::Duplicate, value, message, remedy));
            }
        }
        let Some(from) = c.present(&field("from"), it.from, "Give the probability from which it is done.") else {
            continue;
        };
        let Ok(share) = Probability::new(from) else {
            c.invalid(&field("from"), from, format!("{from} is no probability."), "Give a number from 0 to 1.");
            continue;
        };
        if thresholds.is_some_and(|it| share < it.reassure_below() || share > it.treat_above()) {
            let message = format!("{from} does not lie between the two thresholds.");
            c.invalid(&field("from"), from, message, "Give a probability between them.");
        } else if bands.last().is_some_and(|last| share <= last.from) {
            let message = format!("{from} does not lie above the action before it.");
            c.invalid(&field("from"), from, message, "Put the actions in order, the least probable first.");
        }
        bands.extend(action.map(|action| ActionBand { action, from: share }));
    }
    (bands, above)
}
