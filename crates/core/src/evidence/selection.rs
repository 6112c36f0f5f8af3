//! Which results a pool takes, and why each other one is out.

use std::collections::{BTreeMap, HashMap};

use serde::{Deserialize, Serialize};
use uuid::Uuid;

use super::appraisal::Judgement;
use super::result::{AccuracyResult, Candidate, left_out};
use super::study::Study;
use crate::catalogue::name_key;

/// What results can be told apart by.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Facet {
    /// Which test.
    Test,
    /// Which variant of it.
    Variant,
    /// What counted as positive.
    Criterion,
    /// Which stage of the condition.
    Stage,
    /// What decided who has it.
    ReferenceStandard,
    /// People or sides counted.
    Unit,
    /// How people came into the study.
    Design,
    /// How they were chosen.
    Recruitment,
    /// Where they were examined.
    Setting,
    /// How active they are.
    Activity,
    /// How long they have had it.
    Course,
    /// Whether they could guard.
    State,
    /// Risk of bias over all domains.
    RiskOfBias,
}

impl Facet {
    /// All of them, those of the result first.
    pub const ALL: [Self; 13] = [
        Self::Test,
        Self::Variant,
        Self::Criterion,
        Self::Stage,
        Self::ReferenceStandard,
        Self::Unit,
        Self::Design,
        Self::Recruitment,
        Self::Setting,
        Self::Activity,
        Self::Course,
        Self::State,
        Self::RiskOfBias,
    ];
}

/// A result as far as it decides whether a pool takes it.
#[derive(Debug, Clone, PartialEq)]
pub struct Member {
    /// The result.
    pub id: Uuid,
    /// Its test.
    pub test: Uuid,
    /// Its study.
    pub study: Uuid,
    /// Which of the study's people; empty for all.
    pub group: String,
    /// Of several results of the same people this one is chosen.
    pub preferred: bool,
    /// It is about another condition than the pool.
    pub other_condition: bool,
    /// It is about several tests.
    pub together: bool,
    /// Year in which examining ended, or else began.
    pub year: Option<f64>,
    /// What it says of each facet; what it does not say is not there.
    pub says: BTreeMap<Facet, String>,
}

/// The code that a value of an enumeration is written as.
fn code(value: impl Serialize) -> Option<String> {
    serde_json::to_value(value).ok()?.as_str().map(str::to_owned)
}

impl Member {
    /// A result with its study and how far that can be trusted.
    #[must_use]
    pub fn of(
        [id, test, study_id]: [Uuid; 3],
        result: &AccuracyResult,
        study: &Study,
        risk: Option<Judgement>,
        other_condition: bool,
    ) -> Self {
        let setup = &study.setup;
        let text = |text: &String| Some(text.clone()).filter(|text| !text.is_empty());
        let says = [
            (Facet::Test, Some(test.to_string())),
            (Facet::Variant, text(&result.variant)),
            (Facet::Criterion, text(&result.criterion)),
            (Facet::Stage, text(&result.stage)),
            (Facet::ReferenceStandard, text(&result.reference_standard)),
            (Facet::Unit, result.unit.and_then(code)),
            (Facet::Design, setup.design.and_then(code)),
            (Facet::Recruitment, setup.recruitment.and_then(code)),
            (Facet::Setting, setup.setting.and_then(code)),
            (Facet::Activity, setup.activity.and_then(code)),
            (Facet::Course, setup.course.and_then(code)),
            (Facet::State, setup.state.and_then(code)),
            (Facet::RiskOfBias, risk.and_then(code)),
        ];
        Self {
            id,
            test,
            study: study_id,
            group: result.group.clone(),
            preferred: result.preferred,
            other_condition,
            together: result.together.is_some(),
            year: setup.last_year.or(setup.first_year),
            says: says.into_iter().filter_map(|(facet, said)| Some((facet, said?))).collect(),
        }
    }

    /// What it says of a facet in the form in which values are compared; empty when it says nothing.
    #[must_use]
    pub fn key(&self, facet: Facet) -> String {
        self.says.get(&facet).map(|said| name_key(said)).unwrap_or_default()
    }
}

/// What a pool takes of the results of its tests.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Selection {
    /// Of each facet only results that say one of these; an empty text is "not said". A facet that is not there takes all.
    pub only: BTreeMap<Facet, Vec<String>>,
    /// Examined in this year or later.
    pub from: Option<i32>,
    /// Examined in this year or earlier.
    pub until: Option<i32>,
    /// Results that were switched off by hand.
    pub off: Vec<Uuid>,
}

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
    /// Another result of the same people is in the pool; no group of people counts twice.
    SamePeople,
}

impl Selection {
    /// Why each result is out, in the order given; none for those that the pool takes.
    ///
    /// First what does not answer the question (several tests, another condition), then the filters, then what was switched off; of
    /// what remains no group of people counts twice ([`left_out`]), so that switching a result off lets another one of the same people in. With
    /// `apart`, people may count once for each value of that facet: levels are compared, not added.
    #[must_use]
    pub fn why_out(&self, members: &[Member], apart: Option<Facet>) -> Vec<Option<WhyOut>> {
        let only: Vec<(Facet, Vec<String>)> =
            self.only.iter().map(|(facet, values)| (*facet, values.iter().map(|it| name_key(it)).collect())).collect();
        let mut why: Vec<Option<WhyOut>> = members.iter().map(|member| self.refused(member, &only)).collect();
        let mut levels: HashMap<String, Vec<usize>> = HashMap::new();
        for index in (0..members.len()).filter(|index| why[*index].is_none()) {
            let level = apart.map(|facet| members[index].key(facet)).unwrap_or_default();
            levels.entry(level).or_default().push(index);
        }
        for places in levels.into_values() {
            let candidates: Vec<Candidate<'_>> = places
                .iter()
                .map(|index| Candidate {
                    study: members[*index].study,
                    group: &members[*index].group,
                    preferred: members[*index].preferred,
                    other_condition: false,
                    together: false,
                })
                .collect();
            for (index, out) in places.into_iter().zip(left_out(&candidates)) {
                why[index] = out.map(|_| WhyOut::SamePeople);
            }
        }
        why
    }

    fn refused(&self, member: &Member, only: &[(Facet, Vec<String>)]) -> Option<WhyOut> {
        if member.together {
            return Some(WhyOut::Together);
        }
        if member.other_condition {
            return Some(WhyOut::OtherCondition);
        }
        if let Some((facet, _)) = only.iter().find(|(facet, values)| !values.contains(&member.key(*facet))) {
            return Some(WhyOut::Facet { facet: *facet });
        }
        let early = self.from.is_some_and(|from| member.year.is_none_or(|year| year < f64::from(from)));
        let late = self.until.is_some_and(|until| member.year.is_none_or(|year| year > f64::from(until)));
        if early || late {
            return Some(WhyOut::Years);
        }
        self.off.contains(&member.id).then_some(WhyOut::SwitchedOff)
    }
}

/// A value of a facet, and how many results say it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Offered {
    /// As it was first written; empty for "not said".
    pub value: String,
    /// Results.
    pub results: usize,
}

/// The facets in which results that answer the question differ, with their values: most frequent first, "not said" last.
#[must_use]
pub fn facets(members: &[Member]) -> Vec<(Facet, Vec<Offered>)> {
    let asked: Vec<&Member> = members.iter().filter(|it| !it.together && !it.other_condition).collect();
    let values = |facet: Facet| {
        let mut values: Vec<(String, Offered)> = Vec::new();
        for member in &asked {
            let key = member.key(facet);
            match values.iter_mut().find(|(known, _)| *known == key) {
                Some((_, offered)) => offered.results += 1,
                None => {
                    let value = member.says.get(&facet).cloned().unwrap_or_default();
                    values.push((key, Offered { value, results: 1 }));
                }
            }
        }
        values.sort_by_key(|(key, offered)| (key.is_empty(), std::cmp::Reverse(offered.results)));
        values.into_iter().map(|(_, offered)| offered).collect::<Vec<_>>()
    };
    Facet::ALL.into_iter().map(|facet| (facet, values(facet))).filter(|(_, values)| values.len() > 1).collect()
}

/// Studies that tell levels of a facet apart in the same people: how many results of each pair of levels (by position in `levels`) rest
/// on one group of one study. Such direct comparisons say more than those between studies.
#[must_use]
pub fn same_people(members: &[&Member], levels: &[usize]) -> Vec<([usize; 2], usize)> {
    let mut pairs: BTreeMap<[usize; 2], usize> = BTreeMap::new();
    for (i, one) in members.iter().enumerate() {
        for (j, other) in members.iter().enumerate().skip(i + 1) {
            let [one_group, other_group] = [one, other].map(|it| name_key(&it.group));
            let overlap = one_group.is_empty() || other_group.is_empty() || one_group == other_group;
            if one.study == other.study && overlap && levels[i] != levels[j] {
                let pair = [levels[i].min(levels[j]), levels[i].max(levels[j])];
                *pairs.entry(pair).or_default() += 1;
            }
        }
    }
    pairs.into_iter().collect()
}
