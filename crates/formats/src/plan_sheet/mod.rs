//! A plan of an examination typeset for paper: what is asked first, then its tests by position, with boxes to tick for both sides.

use pruvex_core::catalogue::{Position, ScreeningAnswer, Status};
use pruvex_core::plan::{ExaminationPlan, ScreeningQuestion};
use pruvex_core::{Estimate, Ratio};
use serde_json::{Value, json};
use typst_layout::PagedDocument;

use crate::numbers::{percent, ratio_interval, ratio_point};
use crate::typesetting::{TypesettingError, pdf, typeset};
use crate::words::{codes, region_name};

const TEMPLATE: &str = include_str!("plan.typ");
/// Sizes of the text, points: the largest at which the plan takes two pages, else the smallest that is still read with ease.
const SIZES: [f64; 3] = [10.0, 9.0, 8.2];
const PAGES: usize = 2;

/// A test of the plan.
#[derive(Debug, Clone)]
pub struct PlannedOnPaper {
    /// Its name; empty for one that the reader may not see.
    pub name: String,
    /// How the patient is placed.
    pub position: Option<Position>,
    /// How irritating it is, 0 to 3.
    pub irritation: Option<f64>,
    /// It allows one valid attempt.
    pub one_attempt: bool,
    /// How long it takes.
    pub minutes: Option<f64>,
    /// What it is done with care for.
    pub cares: Vec<String>,
    /// When to stop at once.
    pub stops: Vec<String>,
    /// For each condition that it has figures for, by its place: LR+ and LR-.
    pub ratios: Vec<(usize, [Option<Estimate<Ratio>>; 2])>,
}

/// What is set.
#[derive(Debug, Clone, Copy)]
pub struct PlanSheet<'a> {
    /// The plan.
    pub plan: &'a ExaminationPlan,
    /// Its version, printed so that a copy on paper can be told from a later one.
    pub version: i32,
    /// Where that version stands.
    pub status: Status,
    /// Something on it is made up.
    pub sample: bool,
    /// Its tests in their order.
    pub tests: &'a [PlannedOnPaper],
    /// What is asked before the first test; tests by their places.
    pub questions: &'a [ScreeningQuestion],
    /// Conditions of the region that must not be missed.
    pub must_not_miss: &'a [String],
    /// Day of printing, in words.
    pub printed: &'a str,
}

/// Sets a plan as a PDF of A4 pages. The same plan gives the same bytes.
///
/// # Errors
/// When the typesetter refuses the document, which says that the template is wrong, not the plan.
pub fn plan_sheet(of: &PlanSheet<'_>) -> Result<Vec<u8>, TypesettingError> {
    let words = codes();
    let mut set: Option<PagedDocument> = None;
    for size in SIZES {
        let document = typeset(TEMPLATE, &data(of, words, size))?;
        let fits = document.pages().len() <= PAGES;
        set = Some(document);
        if fits {
            break;
        }
    }
    pdf(&set.ok_or_else(|| TypesettingError::of(&"no size to set it in"))?)
}

fn data(of: &PlanSheet<'_>, words: &Value, size: f64) -> Value {
    let plan = of.plan;
    let questions = plan.questions.iter().map(|it| {
        json!({
            "condition": it.condition,
            "pre_test": percent(it.pre_test),
            "reassure": percent(it.thresholds.reassure_below()),
            "between": it.between.iter().map(|it| json!({ "action": it.action, "from": percent(it.from) })).collect::<Vec<_>>(),
            "treat": percent(it.thresholds.treat_above()),
            "above": it.above,
        })
    });
    let asked = of.questions.iter().map(|it| {
        let unsafe_of = |answer: ScreeningAnswer| it.unsafe_answers.contains(&answer);
        json!({
            "question": it.question,
            "help": it.help,
            "about": it.about,
            "unsafe": [unsafe_of(ScreeningAnswer::Yes), unsafe_of(ScreeningAnswer::No), unsafe_of(ScreeningAnswer::Unknown)],
            "scope": it.scope,
            "tests": it.tests.iter().map(|place| place + 1).collect::<Vec<_>>(),
        })
    });
    let mut groups: Vec<(Option<Position>, Vec<Value>)> = Vec::new();
    for (place, (test, planned)) in of.tests.iter().zip(&plan.tests).enumerate() {
        let said = json!({
            "number": place + 1,
            "name": test.name,
            "variant": planned.variant,
            "reason": planned.reason,
            "optional": planned.optional,
            "one_attempt": test.one_attempt,
            "irritation": test.irritation.map(f64::round),
            "minutes": test.minutes,
            "cares": test.cares,
            "stops": test.stops,
            "ratios": test.ratios.iter().map(|(question, ratios)| ratio_words(plan, *question, ratios)).collect::<Vec<_>>(),
        });
        match groups.last_mut() {
            Some((position, tests)) if *position == test.position => tests.push(said),
            _ => groups.push((test.position, vec![said])),
        }
    }
    json!({
        "title": plan.title,
        "region": region_name(plan.region),
        "setting": plan.setting,
        "course": plan.course,
        "state": plan.state,
        "note": plan.note,
        "affected_first": plan.affected_side_first,
        "questions": questions.collect::<Vec<_>>(),
        "must_not_miss": of.must_not_miss,
        "asked": asked.collect::<Vec<_>>(),
        "groups": groups.into_iter().map(|(position, tests)| json!({ "position": position, "tests": tests })).collect::<Vec<_>>(),
        "version": of.version,
        "status": of.status,
        "sample": of.sample,
        "printed": of.printed,
        "size": size,
        "words": words,
    })
}

fn ratio_words(plan: &ExaminationPlan, question: usize, ratios: &[Option<Estimate<Ratio>>; 2]) -> Value {
    let said =
        |lr: Option<Estimate<Ratio>>| lr.map(|lr| json!({ "point": ratio_point(lr), "interval": ratio_interval(lr) }));
    let several = plan.questions.len() > 1;
    let condition = plan.questions.get(question).filter(|_| several).map(|it| it.condition.as_str());
    json!({ "condition": condition, "positive": said(ratios[0]), "negative": said(ratios[1]) })
}
