//! How common the condition was where it was studied: a ratio from one kind of patients is read for another.

use std::collections::HashSet;

use serde::Serialize;

use super::facet::{Facet, FacetValue};
use super::selection::Member;
use super::setup::Design;
use crate::accuracy::Counts;
use crate::population::CareSetting;
use crate::{Probability, StudyId};

/// The people of one kind of setting.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct SpectrumPart {
    /// Where they were examined; none when their reports do not say.
    pub setting: Option<CareSetting>,
    /// Groups of people.
    pub studies: usize,
    /// People.
    pub people: u64,
    /// Of these, with the condition.
    pub with_condition: u64,
    /// Their share: the prevalence there.
    pub share: Probability,
}

/// The prevalence of the condition among the people of results, by setting, the least common first.
///
/// Only results of both groups count, each group of a study's people once, and none of studies that took people known to have the condition
/// and others known not to: their share was the investigators' choice.
#[must_use]
pub fn spectrum(members: &[Member], counts: &[Counts]) -> Vec<SpectrumPart> {
    let mut seen: HashSet<(StudyId, &str)> = HashSet::new();
    let mut parts: Vec<SpectrumPart> = Vec::new();
    for (member, counts) in members.iter().zip(counts) {
        let chosen = member.said(Facet::Design) == Some(&FacetValue::Design(Design::TwoGroups));
        let (Some(with), Some(without)) = (counts.diseased(), counts.non_diseased()) else { continue };
        if chosen || !seen.insert((member.study, member.group.as_str())) {
            continue;
        }
        let setting = match member.said(Facet::Setting) {
            Some(FacetValue::Setting(setting)) => Some(*setting),
            _ => None,
        };
        let place = parts.iter().position(|part| part.setting == setting).unwrap_or_else(|| {
            parts.push(SpectrumPart { setting, studies: 0, people: 0, with_condition: 0, share: Probability::ZERO });
            parts.len() - 1
        });
        let part = &mut parts[place];
        part.studies += 1;
        part.people += with.n + without.n;
        part.with_condition += with.n;
        part.share = Probability::of(part.with_condition, part.people);
    }
    parts.sort_by(|a, b| a.share.get().total_cmp(&b.share.get()));
    parts
}

/// How many times the odds may differ before a spectrum counts as another one. Specificity tends to fall as prevalence rises (Leeflang and others 2013);
/// the factor is a convention of this program.
const OTHER_SPECTRUM: f64 = 3.0;

/// The least and the most common prevalence that was studied, if the condition is much rarer or much more common before testing than
/// in any of them: odds below a third of the lowest or above three times the highest.
#[must_use]
pub fn other_spectrum(pre_test: Probability, parts: &[SpectrumPart]) -> Option<[Probability; 2]> {
    let odds = |p: Probability| p.get() / (1.0 - p.get());
    let (lowest, highest) = (parts.first()?.share, parts.last()?.share);
    let here = odds(pre_test);
    let outside = here * OTHER_SPECTRUM < odds(lowest) || here > odds(highest) * OTHER_SPECTRUM;
    outside.then_some([lowest, highest])
}
