//! How common a condition is with and without symptoms, over several reports, and what that makes of a true positive.

use std::borrow::Borrow;

use serde::{Deserialize, Serialize};

use crate::accuracy::{Counts, ProportionMethod, RawCounts, proportion_interval};
use crate::catalogue::{PrevalenceReport, Symptoms, name_key};
use crate::pooling::Pooled;
use crate::population::{Activity, CareSetting};
use crate::{Count, Estimate, Level, Probability, Ratio};

/// Which people are asked about; what is not said does not matter.
#[derive(Debug, Clone, Copy, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct PrevalenceOf {
    /// Of this age, in years: reports of bands that hold it.
    pub age: Option<f64>,
    /// Examined there.
    pub setting: Option<CareSetting>,
    /// As active as this.
    pub activity: Option<Activity>,
}

/// What prevalence without symptoms makes of a positive finding.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Incidental {
    /// Nobody counted it in people without symptoms.
    NotKnown,
    /// It may be that one in ten people without symptoms has it: a true positive may be a chance finding.
    Possible,
    /// Fewer than one in ten people without symptoms have it, for all that the interval allows.
    Uncommon,
}

/// Up to this share of people without symptoms a condition counts as uncommon among them; a convention of this program.
const UNCOMMON: f64 = 0.1;

/// The prevalence over several reports.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct PooledPrevalence {
    /// Sources that count.
    pub sources: usize,
    /// Entries that are about other people than those asked about.
    pub apart: usize,
    /// Each report by itself, in their order, with its score interval (Wilson 1927); none for those that are about other people.
    pub shares: Vec<Option<Estimate<Probability>>>,
    /// At least one source that counts is made up.
    pub sample: bool,
    /// People with symptoms.
    pub people_with: u64,
    /// People without.
    pub people_without: u64,
    /// Prevalence with symptoms.
    pub with_symptoms: Option<Estimate<Probability>>,
    /// Prevalence without.
    pub without_symptoms: Option<Estimate<Probability>>,
    /// The first divided by the second.
    pub ratio: Option<Estimate<Ratio>>,
    /// Of people who have symptoms and the condition, the share who would have it anyway: see [`pool_prevalence`].
    pub by_chance: Option<Estimate<Probability>>,
    /// What that makes of a positive finding.
    pub incidental: Incidental,
    /// The computation reached its end.
    pub converged: bool,
}

/// Pools reports of prevalence by `pool`, which may keep its answers.
///
/// Entries of one source are one study: its people with symptoms are one arm, those without the other, and `pool` is that of accuracy (Chu and
/// Cole 2006 for both arms together), with the prevalence with symptoms in the place of sensitivity and that without in the place of the
/// false-positive rate. Their ratio is its LR+.
///
/// If people with symptoms have the condition by chance as often as people without symptoms, `p0` of the `p1` who have it have it by chance: of
/// those with symptoms and the condition a share of `p0 / p1`, the inverse of the ratio, at most 1. (One minus it is the attributable fraction
/// among the exposed, Levin 1953, with the condition as the outcome.)
///
/// # Errors
/// Those of `pool`.
pub fn pool_prevalence<P: Borrow<Pooled>, E>(
    reports: &[PrevalenceReport],
    of: PrevalenceOf,
    pool: impl Fn(&[Counts]) -> Result<P, E>,
) -> Result<PooledPrevalence, E> {
    let chosen: Vec<&PrevalenceReport> = reports.iter().filter(|it| answers(it, of)).collect();
    // Each source once: people with symptoms, of them with the condition, people without symptoms, of them with it.
    let mut sources: Vec<(String, [f64; 4])> = Vec::new();
    for report in &chosen {
        let key = name_key(&report.source);
        let place = sources.iter().position(|(known, _)| *known == key).unwrap_or_else(|| {
            sources.push((key, [0.0; 4]));
            sources.len() - 1
        });
        let at = if report.symptoms == Some(Symptoms::With) { 0 } else { 2 };
        sources[place].1[at] += report.people.unwrap_or_default();
        sources[place].1[at + 1] += report.with_condition.unwrap_or_default();
    }
    let arm = |people: f64, with: f64| if people > 0.0 { (Some(with), Some(people - with)) } else { (None, None) };
    let table = |(_, [n, x, m, y]): &(String, [f64; 4])| {
        let ((tp, fn_), (fp, tn)) = (arm(*n, *x), arm(*m, *y));
        Counts::check(RawCounts { tp, fp, fn_, tn }).ok()
    };
    let tables: Vec<Counts> = sources.iter().filter_map(table).collect();
    #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "sums of counts of people")]
    let people = |at: usize| sources.iter().map(|(_, of)| of[at]).sum::<f64>() as u64;
    let mut answer = PooledPrevalence {
        sources: tables.len(),
        apart: reports.len() - chosen.len(),
        shares: reports.iter().map(|it| share(it).filter(|_| answers(it, of))).collect(),
        sample: chosen.iter().any(|it| it.sample),
        people_with: people(0),
        people_without: people(2),
        with_symptoms: None,
        without_symptoms: None,
        ratio: None,
        by_chance: None,
        incidental: Incidental::NotKnown,
        converged: true,
    };
    if tables.is_empty() {
        return Ok(answer);
    }
    let pooled = pool(&tables)?;
    let Pooled { summary, converged, .. } = pooled.borrow();
    let turned = |p: Estimate<Probability>| backwards(p, |it| Probability::rounded(1.0 - it.get()));
    answer.with_symptoms = summary.sensitivity;
    answer.without_symptoms = summary.specificity.map(turned);
    answer.ratio = summary.lr_positive;
    answer.by_chance = summary.lr_positive.map(|lr| backwards(lr, |it| Probability::rounded(1.0 / it.get().max(1.0))));
    answer.converged = *converged;
    if let Some(without) = answer.without_symptoms {
        let uncommon = without.upper.get() < UNCOMMON;
        answer.incidental = if uncommon { Incidental::Uncommon } else { Incidental::Possible };
    }
    Ok(answer)
}

/// What one report says by itself.
fn share(report: &PrevalenceReport) -> Option<Estimate<Probability>> {
    let count = |value: Option<f64>| Some(u64::from(Count::new(value?).ok()?.get()));
    let (with, people) = (count(report.with_condition)?, count(report.people)?);
    proportion_interval(with, people, Level::default(), ProportionMethod::default())
}

/// On a scale that runs the other way.
fn backwards<T: Copy>(of: Estimate<T>, f: impl Fn(T) -> Probability) -> Estimate<Probability> {
    Estimate { estimate: f(of.estimate), lower: f(of.upper), upper: f(of.lower) }
}

/// Whether an entry is about the people asked about. One that does not say is not.
fn answers(report: &PrevalenceReport, of: PrevalenceOf) -> bool {
    let ages = (report.age_from, report.age_to);
    let holds =
        |age: f64| ages != (None, None) && ages.0.is_none_or(|from| from <= age) && ages.1.is_none_or(|to| age <= to);
    of.age.is_none_or(holds)
        && of.setting.is_none_or(|it| report.setting == Some(it))
        && of.activity.is_none_or(|it| report.activity == Some(it))
}
