//! Whether a result can be in a pool at all: the one place that decides it, for the pool of a test as for one that somebody puts
//! together.

use std::collections::HashMap;

use serde::{Deserialize, Serialize};

use super::facet::Facet;
use crate::StudyId;
use crate::catalogue::name_key;

/// Why a result is not in a pool.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(tag = "code", rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum WhyOut {
    /// It is about several tests together.
    Together,
    /// It is about another target condition.
    OtherCondition,
    /// What it says of this facet is not asked for.
    Facet {
        /// Which.
        facet: Facet,
    },
    /// It was examined in other years, or does not say in which.
    Years,
    /// Switched off by hand.
    SwitchedOff,
    /// It is of somebody's own examinations: those are pooled only where that is asked for.
    OwnRecords,
    /// Another result of the same people is in the pool; no group of people counts twice.
    SamePeople,
}

/// Why a result does not answer what a pool asks; none when it does. Its condition is the one that it names, else the one that its test
/// is taught for; conditions are told apart by their names ([`name_key`]).
#[must_use]
pub fn does_not_answer(named: &str, taught: &str, together: bool, asked: &str) -> Option<WhyOut> {
    let about = if named.trim().is_empty() { taught } else { named };
    if together {
        Some(WhyOut::Together)
    } else {
        (name_key(about) != name_key(asked)).then_some(WhyOut::OtherCondition)
    }
}

/// Whose people a result counted.
#[derive(Debug, Clone, Copy)]
pub struct Candidate<'a> {
    /// Its study.
    pub study: StudyId,
    /// Which of the study's people; empty for all.
    pub group: &'a str,
    /// Of several results of the same people this one is chosen.
    pub preferred: bool,
}

/// For each result, in the order given, whether others that a pool takes count the same people already. Of results of the same people
/// only one is taken: the preferred one, else the first. Two named groups of one study are taken for different people; who is not in
/// a named group may be in all of them.
#[must_use]
pub fn counted_already(candidates: &[Candidate<'_>]) -> Vec<bool> {
    let mut order: Vec<usize> = (0..candidates.len()).collect();
    order.sort_by_key(|index| !candidates[*index].preferred);
    let mut already = vec![false; candidates.len()];
    let mut taken: HashMap<StudyId, Vec<String>> = HashMap::new();
    for index in order {
        let Candidate { study, group, .. } = candidates[index];
        let groups = taken.entry(study).or_default();
        let group = name_key(group);
        if groups.iter().any(|other| other.is_empty() || group.is_empty() || *other == group) {
            already[index] = true;
        } else {
            groups.push(group);
        }
    }
    already
}

/// A result of a test, as far as it decides whether the pool of its sheet takes it.
#[derive(Debug, Clone, Copy)]
pub struct OfTest<'a> {
    /// The condition that it names, if any.
    pub condition: &'a str,
    /// It is about several tests.
    pub together: bool,
    /// It is of somebody's own examinations.
    pub own_records: bool,
    /// Whose people it counted.
    pub candidate: Candidate<'a>,
}

/// Why each result of one test, in the order given, is not in the pool that its sheet shows; none when it is. Own records never are. The test is `taught` for one
/// condition before all others, and `asked` about that or another one.
#[must_use]
pub fn left_out(results: &[OfTest<'_>], taught: &str, asked: &str) -> Vec<Option<WhyOut>> {
    let mut why: Vec<Option<WhyOut>> =
        results.iter().map(|it| does_not_answer(it.condition, taught, it.together, asked)).collect();
    for (why, it) in why.iter_mut().zip(results) {
        *why = why.or(it.own_records.then_some(WhyOut::OwnRecords));
    }
    let fit: Vec<usize> = (0..results.len()).filter(|index| why[*index].is_none()).collect();
    let candidates: Vec<Candidate<'_>> = fit.iter().map(|index| results[*index].candidate).collect();
    for (index, already) in fit.into_iter().zip(counted_already(&candidates)) {
        why[index] = already.then_some(WhyOut::SamePeople);
    }
    why
}
