//! The record of a finished examination typeset for paper.

use pruvex_core::catalogue::Outcome;
use pruvex_core::examination::{
    Attempt, AttemptShown, ExaminationConduct, ExaminationOutcome, OutcomeTest, TestConduct,
};
use pruvex_core::plan::{ExaminationPlan, FitReason, FitState};
use serde_json::{Value, json};

use crate::numbers::{percent, percent_interval, percent_point, ratio_interval, ratio_point};
use crate::typesetting::{TypesettingError, pdf, typeset};
use crate::words::{code_words, codes, region_name};

const TEMPLATE: &str = include_str!("examination.typ");

/// What is set.
#[derive(Debug, Clone, Copy)]
pub struct ExaminationSheet<'a> {
    /// What the record is called.
    pub label: &'a str,
    /// The plan that was carried out.
    pub plan: &'a ExaminationPlan,
    /// Its version.
    pub plan_version: i32,
    /// What was done.
    pub conduct: &'a ExaminationConduct,
    /// What it came to.
    pub outcome: &'a ExaminationOutcome,
    /// The day on which it was finished, in words.
    pub finished: &'a str,
    /// Something of it is made up.
    pub sample: bool,
    /// Day of printing, in words.
    pub printed: &'a str,
}

/// Sets the record of an examination as a PDF of A4 pages. The same record gives the same bytes.
///
/// # Errors
/// When the typesetter refuses the document, which says that the template is wrong, not the record.
pub fn examination_sheet(of: &ExaminationSheet<'_>) -> Result<Vec<u8>, TypesettingError> {
    let ExaminationSheet { plan, conduct, outcome, .. } = of;
    let questions = outcome.questions.iter().map(|it| {
        json!({
            "condition": it.condition,
            "before": percent(it.pre_test),
            "after": percent_point(it.after),
            "interval": percent_interval(it.after),
            "told": it.steps.iter().any(|step| step.after.is_some()),
            "action": it.action,
        })
    });
    let name = |id| outcome.tests.iter().find(|it| Some(it.test) == id).map(|it| it.name.clone()).unwrap_or_default();
    let (done, others): (Vec<_>, Vec<_>) = outcome.tests.iter().partition(|it| it.reading.outcome.is_some());
    let tests = done.into_iter().map(|it| {
        let ratios = outcome.questions.iter().filter_map(|question| {
            let step = question.steps.iter().find(|step| step.test == it.test)?;
            let several = outcome.questions.len() > 1;
            Some(json!({
                "condition": several.then_some(&question.condition),
                "point": step.ratio.map(ratio_point),
                "interval": step.ratio.map(ratio_interval),
            }))
        });
        json!({
            "name": it.name,
            "variant": it.variant,
            "sheet": it.sheet,
            "outcome": it.reading.outcome,
            "level": it.reading.level,
            "after_repeats": it.reading.after_repeats,
            "sound_side_too": it.reading.sound_side_too,
            "attempts": attempts(conduct, it),
            "ratios": ratios.collect::<Vec<_>>(),
        })
    });
    let left = others.into_iter().map(|it| json!({ "name": it.name, "why": why_not(it, conduct.of(it.test)) }));
    let repeats = conduct.repeats.iter().map(|it| {
        json!({ "test": name(it.test), "on": it.on, "trigger": it.trigger, "keep_same": it.keep_same, "done": it.done })
    });
    let urgent = conduct
        .urgent
        .iter()
        .map(|it| json!({ "finding": it.finding, "action": it.action, "done": it.done, "note": it.note }));
    let data = json!({
        "label": of.label,
        "plan": plan.title,
        "plan_version": of.plan_version,
        "region": region_name(plan.region),
        "finished": of.finished,
        "affected": conduct.affected_side,
        "end": outcome.end,
        "stop": outcome.stop,
        "questions": questions.collect::<Vec<_>>(),
        "must_not_miss": outcome.must_not_miss,
        "screening": outcome.screening,
        "tests": tests.collect::<Vec<_>>(),
        "left": left.collect::<Vec<_>>(),
        "urgent": urgent.collect::<Vec<_>>(),
        "conclusion": conduct.conclusion,
        "repeats": repeats.collect::<Vec<_>>(),
        "engine": outcome.engine,
        "sample": of.sample,
        "printed": of.printed,
        "words": codes(),
    });
    pdf(&typeset(TEMPLATE, &data)?)
}

/// Each attempt in words.
fn attempts(conduct: &ExaminationConduct, of: &OutcomeTest) -> Vec<Value> {
    let made = conduct.of(of.test).map(|it| it.attempts.as_slice()).unwrap_or_default();
    let said = |(attempt, read): (&Attempt, &pruvex_core::examination::AttemptReading)| json!({ "side": attempt.side, "shown": shown_words(attempt), "read": read.outcome, "more": more(attempt) });
    made.iter().zip(&of.reading.attempts).map(said).collect()
}

/// What an attempt showed, as it was entered.
#[must_use]
pub fn shown_words(attempt: &Attempt) -> String {
    match attempt.shown {
        Some(AttemptShown::Positive) => code_words("outcomes", Outcome::Positive),
        Some(AttemptShown::Equivocal) => code_words("outcomes", Outcome::Equivocal),
        Some(AttemptShown::Negative) => code_words("outcomes", Outcome::Negative),
        Some(AttemptShown::Level) => attempt.level.clone(),
        Some(AttemptShown::NotInterpretable) => {
            let why = attempt.unreadable.map(|why| code_words("unreadable_reasons", why)).unwrap_or_default();
            format!("{}: {why}", code_words("outcomes", Outcome::NotInterpretable))
        }
        Some(AttemptShown::Unable) => {
            format!("Unable: {}", attempt.unable.map(|why| code_words("inability_reasons", why)).unwrap_or_default())
        }
        None => String::new(),
    }
}

fn more(attempt: &Attempt) -> String {
    let mut said = Vec::new();
    said.extend(attempt.pain.map(|it| code_words("pain_found", it)));
    if let Some(held) = attempt.held {
        said.push(if attempt.pain_ended {
            format!("pain ended the hold at {held} s")
        } else {
            format!("held {held} s")
        });
    }
    said.extend(attempt.pitfalls.iter().cloned());
    if !attempt.overruled.is_empty() {
        said.push(format!("counts because: {}", attempt.overruled));
    }
    said.extend(Some(attempt.note.clone()).filter(|it| !it.is_empty()));
    said.join("; ")
}

/// Why a test was not done, in words.
#[must_use]
pub fn why_not(of: &OutcomeTest, conducted: Option<&TestConduct>) -> String {
    if let Some(it) = conducted.filter(|it| it.skipped) {
        return it.reason.clone();
    }
    if conducted.is_some_and(|it| !it.attempts.is_empty()) {
        return "sound side only".to_owned();
    }
    if of.left_out {
        return "only where it is asked for".to_owned();
    }
    let reason = |it: &FitReason| match it {
        FitReason::Caution { caution, .. } => caution.clone(),
        FitReason::Open { question } => format!("not answered: {question}"),
        FitReason::Position { position } => format!("cannot be taken: {}", code_words("positions", *position)),
        FitReason::Equipment { name } => format!("not at hand: {name}"),
        FitReason::Irritation => "too irritating now".to_owned(),
        FitReason::Minutes => "no time for it".to_owned(),
    };
    // Care is no reason to leave a test out.
    let reasons: Vec<String> =
        if of.fit == FitState::WithCare { Vec::new() } else { of.reasons.iter().map(reason).collect() };
    if reasons.is_empty() { "not done".to_owned() } else { reasons.join("; ") }
}
