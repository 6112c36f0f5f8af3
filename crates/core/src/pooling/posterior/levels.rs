//! Levels of a covariate together: each has its own two means, spreads and correlation are common to all.
//!
//! Given the spreads and their correlation the levels have nothing to do with each other. So the joint posterior is a mixture, over those, of products over the
//! levels: each level's mass of its two means is what one level's would be, weighed by what all the others say of the spreads.

use super::arm::{ArmGrid, Pilot, Share, SinhGrid, SpreadGrid};
use super::joint::{Own, Reporting, Together};
use super::quantiles::of_both;
use super::{Fineness, PriorScales, Quantiles, arms_of, ratios_of};
use crate::Level;
use crate::accuracy::Counts;

/// One level's summary point.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LevelPosterior {
    /// Logit of sensitivity.
    pub logit_sens: Quantiles,
    /// Logit of specificity.
    pub logit_spec: Quantiles,
    /// Natural logarithm of LR+.
    pub log_lr_pos: Quantiles,
    /// Natural logarithm of LR-.
    pub log_lr_neg: Quantiles,
    /// Natural logarithm of the odds ratio.
    pub log_dor: Quantiles,
}

/// A further level against the first one.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LevelContrast {
    /// Natural logarithm of the relative sensitivity.
    pub log_relative_sens: Quantiles,
    /// Natural logarithm of the relative specificity.
    pub log_relative_spec: Quantiles,
    /// Sensitivity less the first level's.
    pub difference_sens: Quantiles,
    /// Specificity less the first level's.
    pub difference_spec: Quantiles,
}

/// All levels, and each further one against the first.
#[derive(Debug, Clone, PartialEq)]
pub struct LevelsPosterior {
    /// In their order.
    pub levels: Vec<LevelPosterior>,
    /// Of the second level and those after it.
    pub contrasts: Vec<LevelContrast>,
}

/// The joint posterior of levels with common spreads. The priors are those of one pool, each level's means by themselves.
///
/// `None` unless each level reports both groups.
#[must_use]
pub fn posterior_levels(
    groups: &[Vec<Counts>],
    level: Level,
    prior: PriorScales,
    fineness: Fineness,
) -> Option<LevelsPosterior> {
    let read: Vec<([Vec<Share>; 2], Reporting)> = groups.iter().map(|studies| arms_of(studies)).collect();
    if read.is_empty() || read.iter().any(|(shares, _)| shares.iter().any(Vec::is_empty)) {
        return None;
    }
    // Arm by arm: where the common spread can be, then every level's means.
    let grids: [Vec<ArmGrid>; 2] = [0, 1].map(|side| {
        let of_side: Vec<&Vec<Share>> = read.iter().map(|(shares, _)| &shares[side]).collect();
        let all: Vec<Share> = of_side.iter().flat_map(|shares| shares.iter().copied()).collect();
        let pilots: Vec<Pilot> =
            of_side.iter().map(|shares| Pilot::new((*shares).clone(), &all, prior, &fineness)).collect();
        let spreads = SpreadGrid::common(&pilots, prior, &fineness);
        pilots.into_iter().map(|pilot| pilot.grid(&spreads, prior, &fineness)).collect()
    });
    let [sens, spec] = &grids;
    let own: Vec<Own<'_>> = read
        .iter()
        .enumerate()
        .map(|(index, (_, reporting))| Own { arms: [&sens[index], &spec[index]], reporting })
        .collect();
    let together = Together::integrate(&own, &fineness);
    let tail = level.tail();
    let wanted = [0.5, tail, 1.0 - tail];
    let of = |[median, lower, upper]: [f64; 3]| Quantiles { median, lower, upper };
    let levels = own
        .iter()
        .zip(&together.masses)
        .map(|(own, mass)| {
            let [logit_sens, logit_spec, log_lr_pos, log_lr_neg, log_dor] = ratios_of(own.arms, mass, wanted);
            LevelPosterior { logit_sens, logit_spec, log_lr_pos, log_lr_neg, log_dor }
        })
        .collect();
    let expit = |x: f64| 1.0 / (1.0 + (-x).exp());
    let logit = |p: f64| match p {
        p if p <= 0.0 => f64::NEG_INFINITY,
        p if p >= 1.0 => f64::INFINITY,
        p => (p / (1.0 - p)).ln(),
    };
    // The first level outside, the other one inside: what rises with the other one's mean.
    let against = |side: usize, index: usize| {
        let (first, other): (&SinhGrid, &SinhGrid) = (&grids[side][0].means, &grids[side][index].means);
        let mass = &together.crosses[side][index - 1];
        let ends = |grid: &SinhGrid| [grid.points[0], grid.points[grid.points.len() - 1]].map(expit);
        let ([low, high], [least, most]) = (ends(first), ends(other));
        let ratio = of_both(mass, first, other, [(least / high).ln(), (most / low).ln()], wanted, |c, mean| {
            logit(c.exp() * expit(mean))
        });
        let difference =
            of_both(mass, first, other, [least - high, most - low], wanted, |d, mean| logit(d + expit(mean)));
        [of(ratio), of(difference)]
    };
    let contrasts = (1..groups.len())
        .map(|index| {
            let ([log_relative_sens, difference_sens], [log_relative_spec, difference_spec]) =
                (against(0, index), against(1, index));
            LevelContrast { log_relative_sens, log_relative_spec, difference_sens, difference_spec }
        })
        .collect();
    Some(LevelsPosterior { levels, contrasts })
}
