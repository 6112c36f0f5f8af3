//! A methods paragraph, as a paper or a guideline needs it: of what was really done.

use std::fmt::Write as _;

use super::answer::{IntervalMethod, Model, Pooled, Warning};
use super::posterior::PriorScales;

/// What was done, in whole sentences with the sources; of one study that nothing was pooled.
#[must_use]
pub fn methods_paragraph(pooled: &Pooled) -> String {
    let Pooled { k, diseased, non_diseased, .. } = pooled;
    let level = 100.0 * pooled.level.get();
    let people = format!("{diseased} people with and {non_diseased} people without the target condition");
    if pooled.model == Model::SingleStudy {
        return format!(
            "One study ({people}) was available; nothing was pooled. Intervals ({level:.0} %) of sensitivity and specificity are Wilson score \
             intervals (Wilson 1927), those of the likelihood ratios score intervals for a ratio of two proportions (Koopman 1984). {ENGINE}"
        );
    }
    let mut said = format!("Results of {k} studies ({people}) were pooled. ");
    let _ = match (&pooled.posterior, pooled.interval) {
        (Some(working), _) => write!(
            said,
            "Sensitivity and specificity were modelled together in a bivariate random-effects model with exact binomial likelihood within studies \
             (Chu and Cole 2006); no correction was made for empty cells. Estimates are posterior medians with equal-tailed {level:.0} % posterior \
             intervals, since intervals from maximum likelihood are too narrow with few studies. Priors were weak and independent: the standard \
             deviations between studies on the logit scale half-normal with scale {}, the density of their correlation proportional to 1 − ρ², \
             the mean logits normal about 0 with standard deviation {} (Gelman 2006; Friede et al. 2017). The posterior was integrated numerically, \
             without simulation. Likelihood ratios are those of the joint posterior of the summary point and were not pooled themselves \
             (Zwinderman and Bossuyt 2008); prediction intervals for the true values of a new study come from the same posterior.",
            working.prior_scale,
            PriorScales::MEAN,
        ),
        (None, interval) => {
            let intervals = match interval {
                IntervalMethod::Profile => {
                    "profile-likelihood intervals, combined for the ratios with the correlation of the two means (Zou 2007)"
                }
                IntervalMethod::Sandwich => {
                    "intervals from the studies' scores with the t distribution (after Hartung and Knapp 2001), never narrower than without a \
                     variance between studies"
                }
                IntervalMethod::Wald | IntervalMethod::Posterior => {
                    "Wald intervals on the logit scale, for the ratios by the delta method on the log scale"
                }
            };
            write!(
                said,
                "The model: {}. Intervals ({level:.0} %) are {intervals}. Likelihood ratios were derived at the summary point and not pooled \
                 themselves (Zwinderman and Bossuyt 2008). Prediction intervals follow Higgins, Thompson and Spiegelhalter 2009.",
                pooled.model.method_name(),
            )
        }
    };
    for warning in &pooled.warnings {
        if let Warning::OneArmedStudies { count } = warning {
            let studies = if *count == 1 { "study reports" } else { "studies report" };
            let _ = write!(said, " {count} {studies} one of the two groups only and contributed to that group.");
        }
    }
    let _ = write!(said, " {ENGINE}");
    said
}

/// What computed it.
const ENGINE: &str = concat!("Computed with pruvex-core ", env!("CARGO_PKG_VERSION"), ".");
