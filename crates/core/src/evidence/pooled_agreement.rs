//! Agreement results of a test pooled: what stands beside its accuracy.

use std::collections::HashSet;

use serde::Serialize;

use super::agreement::{Agreement, AgreementMeasure, Between};
use crate::agreement::{NamedSize, Precision, Reported, ReportedKind, SizeWord, pool_reported, size_word};
use crate::pooling::TauMethod;
use crate::{Estimate, Level, StudyId, TestId};

/// The agreement results of one test that can be put together.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct PooledAgreement {
    /// The test.
    pub test: TestId,
    /// Whose ratings are compared.
    pub between: Between,
    /// Kappa, a weighted kappa, or an intraclass correlation.
    pub measure: AgreementMeasure,
    /// Studies.
    pub k: usize,
    /// People rated in them.
    pub subjects: u64,
    /// At least one is made up.
    pub sample: bool,
    /// The mean and its interval.
    pub estimate: Estimate<f64>,
    /// A word for its size.
    pub size: NamedSize,
    /// Share of the variability that lies between studies; none for one.
    pub i2: Option<f64>,
    /// Examiners, or occasions, agree too little to rely on what the test finds: below a moderate size.
    pub low: bool,
}

/// An agreement result with its test and its study.
#[derive(Debug, Clone, Copy)]
pub struct AgreementMember<'a> {
    /// Its test.
    pub test: TestId,
    /// Its study.
    pub study: StudyId,
    /// Made up.
    pub sample: bool,
    /// What it reports.
    pub agreement: &'a Agreement,
}

/// Kappas that mean the same are one kind; weighted ones are not.
fn kind_of(measure: AgreementMeasure) -> (AgreementMeasure, ReportedKind) {
    use AgreementMeasure as M;
    match measure {
        M::Kappa | M::FleissKappa | M::ReportedKappa => (M::Kappa, ReportedKind::Kappa),
        M::KappaLinear | M::KappaQuadratic => (measure, ReportedKind::Kappa),
        M::IccAgreement | M::ReportedIcc => (M::IccAgreement, ReportedKind::Icc),
    }
}

/// Pools agreement results by test, by whose ratings are compared and by kind of coefficient, in the order in which they come; of several
/// results of one study the first counts.
///
/// By [`pool_reported`], restricted maximum likelihood; kappa's standard error from the lower half of its interval, which is not cut off at
/// 1. A result without an interval cannot be weighed and takes part only when it is alone.
#[must_use]
pub fn pool_agreements(members: &[AgreementMember<'_>], level: Level) -> Vec<PooledAgreement> {
    struct Group {
        first: PooledAgreement,
        studies: HashSet<StudyId>,
        weighed: Vec<Reported>,
    }
    let mut groups: Vec<Group> = Vec::new();
    for member in members {
        let answer = member.agreement.answer(level);
        let Some(headline) = answer.headline else { continue };
        let (measure, kind) = kind_of(headline.measure);
        let between = member.agreement.written().between;
        let same = |it: &PooledAgreement| it.test == member.test && it.between == between && it.measure == measure;
        let reported = reported(kind, headline.estimate, level);
        let subjects = answer.subjects.unwrap_or_default();
        match groups.iter_mut().find(|group| same(&group.first)) {
            Some(group) => {
                if let Some(reported) = reported.filter(|_| !group.weighed.is_empty())
                    && group.studies.insert(member.study)
                {
                    group.weighed.push(reported);
                    group.first.k += 1;
                    group.first.subjects += subjects;
                    group.first.sample |= member.sample;
                }
            }
            None => groups.push(Group {
                first: PooledAgreement {
                    test: member.test,
                    between,
                    measure,
                    k: 1,
                    subjects,
                    sample: member.sample,
                    estimate: headline.estimate,
                    size: headline.size,
                    i2: None,
                    low: false,
                },
                studies: HashSet::from([member.study]),
                weighed: reported.into_iter().collect(),
            }),
        }
    }
    let finish = |Group { mut first, weighed, .. }: Group| {
        let (_, kind) = kind_of(first.measure);
        if let Ok(pooled) = pool_reported(&weighed, TauMethod::default(), level) {
            first.estimate = pooled.estimate.map(|value| value.clamp(-1.0, 1.0));
            first.i2 = Some(pooled.i2);
        }
        first.size = size_word(kind, first.estimate.estimate);
        first.low = matches!(first.size.word, SizeWord::Poor | SizeWord::Slight | SizeWord::Fair);
        first
    };
    groups.into_iter().map(finish).collect()
}

fn reported(kind: ReportedKind, of: Estimate<f64>, level: Level) -> Option<Reported> {
    let upper = match kind {
        ReportedKind::Kappa => 2.0 * of.estimate - of.lower,
        ReportedKind::Icc => of.upper,
    };
    Reported::new(kind, of.estimate, Precision::Interval { lower: of.lower, upper, level }).ok()
}
