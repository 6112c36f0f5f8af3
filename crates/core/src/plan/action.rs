//! What is done for a patient, from which probability on.

use serde::{Deserialize, Serialize};

use super::examination::{PlanQuestion, PlanQuestionInput};
use crate::combine::{PatternResult, sequence, undecided_ends};
use crate::field::Checker;
use crate::likelihood::Thresholds;
use crate::{FieldError, FieldErrorCode, Probability};

/// What is done for a patient.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum PlanAction {
    /// Reassured: nothing more is done.
    Reassure,
    /// Examined again later.
    RepeatLater,
    /// Sent to imaging.
    Image,
    /// Referred.
    Refer,
    /// Treated.
    Treat,
}

/// What is done from a probability between the two thresholds on, as a person or a file wrote it.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ActionBandInput {
    /// What is done.
    pub action: Option<PlanAction>,
    /// From this probability on, up to the next action.
    pub from: Option<f64>,
}

/// What is done from a probability between the two thresholds on.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ActionBand {
    /// What is done.
    pub action: PlanAction,
    /// From this probability on, up to the next action.
    pub from: Probability,
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

/// For how many patients something is done.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ActionShare {
    /// What is done; none where it is not decided.
    pub action: Option<PlanAction>,
    /// For how many of the patients.
    pub share: Probability,
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

impl Default for PlanAction {
    /// What is done above the upper threshold unless a plan says otherwise.
    fn default() -> Self {
        Self::Treat
    }
}

/// The actions of a question: between the thresholds, and above the upper one. Each stands once, so that a share of patients tells which is meant.
pub(super) fn actions(
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
