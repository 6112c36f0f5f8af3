//! The pooled answer in words.

use pruvex_core::pooling::{
    ArmName, Boundary, CochranQ, Heterogeneity, LikelihoodRatioTest, OtherScale, Pooled, PosteriorWorking, Prediction,
    Summary, Warning,
};
use pruvex_core::{Estimate, Probability, Ratio};
use pruvex_formats::{code_words, warning_words};

use super::{NamedComparison, NamedLeftOut, PoolOutput};
use crate::output::{number_line, percent, ratio_line, share_line, two_digits};

pub(super) fn text(output: &PoolOutput) -> String {
    let PoolOutput { pooled, leave_one_out, small_study, small_study_refused, comparison, comparison_refused, .. } =
        output;
    let summary = &pooled.summary;
    let level = 100.0 * pooled.level.get();
    let mut lines = vec![
        format!("{} studies, {} people with the condition, {} without", pooled.k, pooled.diseased, pooled.non_diseased),
        format!("Model: {}, since {}.", code_words("models", pooled.model), code_words("reasons", pooled.reason)),
        format!("Estimates with {level:.0} % intervals:"),
    ];
    lines.extend(measures(summary));
    lines.push(ratio_line("diagnostic odds ratio", summary.dor));
    lines.extend(pooled.posterior.iter().flat_map(|working| posterior(working, &output.other_scales)));
    if let Some(classical) = &pooled.classical {
        lines.push("Beside it, maximum likelihood with Wald intervals:".to_owned());
        lines.extend(measures(classical));
        let boundary = pooled.boundary;
        if pooled.posterior.is_some() && boundary != Boundary::None {
            lines.push(format!("  Of it: {}", warning_words(&Warning::AtBoundary { boundary }, percent)));
        }
    }
    lines.extend(ahead(&output.prediction, level));
    lines.extend(pooled.warnings.iter().map(|warning| format!("Note: {}", warning_words(warning, percent))));
    if !pooled.converged {
        lines.push("The fit did not converge: do not use these figures.".to_owned());
    }
    lines.extend(heterogeneity(pooled, &output.heterogeneity));
    if let Some(comparison) = comparison {
        lines.extend(compared(comparison));
    }
    lines.extend(comparison_refused.iter().map(|why| format!("Levels not compared: {why}.")));
    lines.extend(output.sensitivity_analyses.iter().map(|part| {
        let summary = part.summary.as_ref().map_or("nothing to pool".to_owned(), figures);
        format!("Without {} ({} studies remain): {summary}", part.without, part.k)
    }));
    if let Some(rows) = leave_one_out {
        lines.push("Without one study:".to_owned());
        lines.extend(rows.iter().map(without));
    }
    lines.extend(small_study.map(|test| {
        let p = test.p.map_or("p not estimable".to_owned(), |p| format!("p = {p:.3}"));
        format!("Small-study effects (Deeks): slope {:.1}, {p}; little power when accuracy varies.", test.slope)
    }));
    lines.extend(small_study_refused.iter().map(|why| format!("Small-study effects: {why}.")));
    lines.join("\n")
}

fn measures(summary: &Summary) -> [String; 4] {
    [
        share_line("sensitivity", summary.sensitivity),
        share_line("specificity", summary.specificity),
        ratio_line("LR+", summary.lr_positive),
        ratio_line("LR-", summary.lr_negative),
    ]
}

/// How much of a posterior interval its priors make.
fn posterior(of: &PosteriorWorking, others: &[OtherScale]) -> Vec<String> {
    let mean = &of.posterior.mean;
    let spread = |name: &str, tau: Option<f64>| tau.map(|tau| format!("{name} {tau:.2}"));
    let described = [spread("sensitivity", mean.tau_sens), spread("specificity", mean.tau_spec)];
    let described: Vec<String> = described.into_iter().flatten().collect();
    let mut lines = vec![
        format!(
            "These are posterior medians and intervals: priors of the standard deviations between studies half-normal with scale {}.",
            of.prior_scale
        ),
        format!("Posterior means of the standard deviations of the logits between studies: {}.", described.join(", ")),
    ];
    for other in others {
        lines.push(format!("With scale {}:", other.prior_scale));
        lines.extend(measures(&other.summary));
    }
    lines
}

/// Where a new study is expected, as far as that can be said.
fn ahead(prediction: &Prediction, level: f64) -> Vec<String> {
    let share = |name: &str, value: Option<Estimate<Probability>>| value.map(|_| share_line(name, value));
    let ratio = |name: &str, value: Option<Estimate<Ratio>>| value.map(|_| ratio_line(name, value));
    let mut lines: Vec<String> = [
        share("sensitivity", prediction.sensitivity),
        share("specificity", prediction.specificity),
        ratio("LR+", prediction.lr_positive),
        ratio("LR-", prediction.lr_negative),
    ]
    .into_iter()
    .flatten()
    .collect();
    if !lines.is_empty() {
        lines.insert(0, format!("Prediction intervals, {level:.0} %, of the true values of a new study:"));
    }
    lines
}

fn without(NamedLeftOut { name, left_out }: &NamedLeftOut) -> String {
    let cook = left_out.cook_distance.map_or(String::new(), |d| format!(", Cook's distance {d:.2}"));
    format!("  {name}: {}{cook}", figures(&left_out.summary))
}

fn figures(summary: &Summary) -> String {
    let share = |value: Option<Estimate<Probability>>| value.map_or("-".to_owned(), |e| percent(e.estimate));
    let ratio = |value: Option<Estimate<Ratio>>| value.map_or("-".to_owned(), |e| two_digits(e.estimate.get()));
    format!(
        "sensitivity {}, specificity {}, LR+ {}, LR- {}",
        share(summary.sensitivity),
        share(summary.specificity),
        ratio(summary.lr_positive),
        ratio(summary.lr_negative)
    )
}

fn heterogeneity(pooled: &Pooled, measured: &Heterogeneity) -> Vec<String> {
    let spread = |name: &str, tau2: Option<f64>, q: Option<CochranQ>| {
        let tau2 = tau2?;
        let q = q.map_or(String::new(), |q| format!(", Cochran's Q {:.1} on {} df, p {}", q.q, q.df, p_value(q.p)));
        Some(format!("  variance of logit {name} {tau2:.3}{q}"))
    };
    let mut lines: Vec<String> = [
        spread("sensitivity", pooled.tau2.sens, measured.q_sensitivity),
        spread("specificity", pooled.tau2.spec, measured.q_specificity),
        pooled.rho.map(|rho| format!("  correlation {rho:.2}")),
        measured.i2_bivariate.map(|i2| format!("  I2 of both together {:.0} %", 100.0 * i2)),
    ]
    .into_iter()
    .flatten()
    .collect();
    if !lines.is_empty() {
        lines.insert(0, "Between studies:".to_owned());
    }
    lines
}

/// Two digits would hide what a relative value near 1 says.
fn relative(name: &str, value: Option<Estimate<Ratio>>) -> String {
    let plain =
        |e: Estimate<Ratio>| Estimate { estimate: e.estimate.get(), lower: e.lower.get(), upper: e.upper.get() };
    number_line(name, value.map(plain))
}

fn p_value(p: f64) -> String {
    if p < 0.001 { "< 0.001".to_owned() } else { format!("= {p:.3}") }
}

fn compared(NamedComparison { column, names, comparison }: &NamedComparison) -> Vec<String> {
    let test = |what: &str, test: &LikelihoodRatioTest| {
        format!("  {what}: likelihood ratio {:.2} on {} df, p {}", test.statistic, test.df, p_value(test.p))
    };
    let mut lines = vec![format!("By {column}:")];
    lines.extend(
        comparison
            .levels
            .iter()
            .map(|level| format!("  {} ({} studies): {}", names[level.level], level.k, figures(&level.summary))),
    );
    for contrast in &comparison.contrasts {
        lines.push(format!("  {} against {}:", names[contrast.level], names[0]));
        lines.push(relative("relative sensitivity", contrast.relative_sensitivity));
        lines.push(relative("relative specificity", contrast.relative_specificity));
    }
    lines.push(test("Neither differs", &comparison.test));
    lines.extend(comparison.test_sensitivity.iter().map(|t| test("Sensitivity does not differ", t)));
    lines.extend(comparison.test_specificity.iter().map(|t| test("Specificity does not differ", t)));
    lines.extend(comparison.not_compared.iter().map(|broken| {
        let arm = match broken.arm {
            ArmName::Diseased => "sensitivity",
            ArmName::NonDiseased => "specificity",
        };
        format!(
            "  Note: {arm} is not compared; {} has no study with both correct and wrong results.",
            names[broken.level]
        )
    }));
    lines
}
