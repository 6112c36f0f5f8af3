//! Which results a pool takes, and why each other one is out.

use std::collections::{BTreeMap, HashMap};

use serde::{Deserialize, Serialize};

use super::appraisal::Judgement;
use super::facet::{Facet, FacetValue, chosen};
use super::membership::{Candidate, WhyOut, counted_already, does_not_answer};
use super::result::AccuracyResult;
use super::setup::DataSource;
use super::study::Study;
use crate::catalogue::name_key;
use crate::{ResultId, StudyId, TestId};

/// A result as far as it decides whether a pool takes it.
#[derive(Debug, Clone, PartialEq)]
pub struct Member {
    /// The result.
    pub id: ResultId,
    /// Its test.
    pub test: TestId,
    /// Its study.
    pub study: StudyId,
    /// Which of the study's people; empty for all.
    pub group: String,
    /// Of several results of the same people this one is chosen.
    pub preferred: bool,
    /// Why it does not answer what the pool asks; none when it does.
    pub unfit: Option<WhyOut>,
    /// Year in which examining ended, or else began.
    pub year: Option<f64>,
    /// What it says of each facet; what it does not say is not there.
    pub says: BTreeMap<Facet, FacetValue>,
}

impl Member {
    /// A result with its study and how far that can be trusted. `taught` is the condition of its test, `asked` that of the pool.
    #[must_use]
    pub fn of(
        (id, test, study_id): (ResultId, TestId, StudyId),
        result: &AccuracyResult,
        study: &Study,
        risk: Option<Judgement>,
        taught: &str,
        asked: &str,
    ) -> Self {
        let setup = &study.setup;
        let says = [
            (Facet::Test, Some(FacetValue::Test(test))),
            (Facet::Variant, FacetValue::words(&result.variant)),
            (Facet::Criterion, FacetValue::words(&result.criterion)),
            (Facet::Stage, FacetValue::words(&result.stage)),
            (Facet::ReferenceStandard, FacetValue::words(&result.reference_standard)),
            (Facet::Unit, result.unit.map(FacetValue::Unit)),
            (Facet::Design, setup.design.map(FacetValue::Design)),
            (Facet::Recruitment, setup.recruitment.map(FacetValue::Recruitment)),
            (Facet::Setting, setup.setting.map(FacetValue::Setting)),
            (Facet::Activity, setup.activity.map(FacetValue::Activity)),
            (Facet::Course, setup.course.map(FacetValue::Course)),
            (Facet::State, setup.state.map(FacetValue::State)),
            (Facet::Source, Some(FacetValue::Source(setup.source.unwrap_or(DataSource::Published)))),
            (Facet::RiskOfBias, risk.map(FacetValue::RiskOfBias)),
        ];
        Self {
            id,
            test,
            study: study_id,
            group: result.group.clone(),
            preferred: result.preferred,
            unfit: does_not_answer(&result.condition, taught, result.together.is_some(), asked),
            year: setup.last_year.or(setup.first_year),
            says: says.into_iter().filter_map(|(facet, said)| Some((facet, said?))).collect(),
        }
    }

    /// What it says of a facet, if anything.
    #[must_use]
    pub fn said(&self, facet: Facet) -> Option<&FacetValue> {
        self.says.get(&facet)
    }
}

/// What a pool takes of the results of its tests.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Selection {
    /// Of each facet only results that say one of these; an empty text is "not said". A facet that is not there takes all.
    #[serde(with = "chosen")]
    #[cfg_attr(feature = "openapi", schema(value_type = BTreeMap<Facet, Vec<String>>))]
    pub only: BTreeMap<Facet, Vec<Option<FacetValue>>>,
    /// Examined in this year or later.
    pub from: Option<i32>,
    /// Examined in this year or earlier.
    pub until: Option<i32>,
    /// Results that were switched off by hand.
    pub off: Vec<ResultId>,
}

impl Selection {
    /// Why each result is out, in the order given; none for those that the pool takes.
    ///
    /// First what does not answer the question (several tests, another condition), then the filters, own records that nobody asked for, then what was switched off; of
    /// what remains no group of people counts twice ([`counted_already`]), so that switching a result off lets another one of the same people in. With
    /// `apart`, people may count once for each value of that facet: levels are compared, not added.
    #[must_use]
    pub fn why_out(&self, members: &[Member], apart: Option<Facet>) -> Vec<Option<WhyOut>> {
        let mut why: Vec<Option<WhyOut>> = members.iter().map(|member| self.refused(member, apart)).collect();
        let mut levels: HashMap<Option<&FacetValue>, Vec<usize>> = HashMap::new();
        for index in (0..members.len()).filter(|index| why[*index].is_none()) {
            let level = apart.and_then(|facet| members[index].said(facet));
            levels.entry(level).or_default().push(index);
        }
        for places in levels.into_values() {
            let candidates: Vec<Candidate<'_>> = places
                .iter()
                .map(|index| Candidate {
                    study: members[*index].study,
                    group: &members[*index].group,
                    preferred: members[*index].preferred,
                })
                .collect();
            for (index, already) in places.into_iter().zip(counted_already(&candidates)) {
                why[index] = already.then_some(WhyOut::SamePeople);
            }
        }
        why
    }

    fn refused(&self, member: &Member, apart: Option<Facet>) -> Option<WhyOut> {
        if member.unfit.is_some() {
            return member.unfit;
        }
        let other = |(facet, values): &(&Facet, &Vec<Option<FacetValue>>)| {
            !values.iter().any(|value| value.as_ref() == member.said(**facet))
        };
        if let Some((facet, _)) = self.only.iter().find(other) {
            return Some(WhyOut::Facet { facet: *facet });
        }
        // Local figures are pooled by choice only: the filter names them, or they are compared with the published ones.
        let own = member.said(Facet::Source) == Some(&FacetValue::Source(DataSource::OwnRecords));
        if own && !self.only.contains_key(&Facet::Source) && apart != Some(Facet::Source) {
            return Some(WhyOut::OwnRecords);
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
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Offered {
    /// `None` for "not said".
    pub value: Option<FacetValue>,
    /// Results.
    pub results: usize,
}

/// The facets in which results that answer the question differ, with their values: most frequent first, "not said" last.
#[must_use]
pub fn facets(members: &[Member]) -> Vec<(Facet, Vec<Offered>)> {
    let asked: Vec<&Member> = members.iter().filter(|it| it.unfit.is_none()).collect();
    let values = |facet: Facet| {
        let mut values: Vec<Offered> = Vec::new();
        for said in asked.iter().map(|member| member.said(facet)) {
            match values.iter_mut().find(|known| known.value.as_ref() == said) {
                Some(offered) => offered.results += 1,
                None => values.push(Offered { value: said.cloned(), results: 1 }),
            }
        }
        values.sort_by_key(|offered| (offered.value.is_none(), std::cmp::Reverse(offered.results)));
        values
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
