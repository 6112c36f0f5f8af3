//! Drills about which way to push.

use super::drill::{Draw, Drill, DrillOption, DrillQuestion, DrillSheet, Skill};
use crate::catalogue::{Motion, ProcedureStep};

/// A drill of one of the resisted steps. Wrong answers are the other way, and pushes of other steps.
pub(super) fn direction(sheets: &[DrillSheet<'_>], draw: &mut Draw) -> Option<Drill> {
    let steps = sheets.iter().flat_map(|of| {
        of.sheet.variants.iter().enumerate().flat_map(move |(variant, it)| {
            it.steps.iter().enumerate().map(move |(step, it)| (of, format!("variants[{variant}].steps[{step}]"), it))
        })
    });
    let resisted: Vec<(&DrillSheet<'_>, String, &ProcedureStep, Motion, Motion)> = steps
        .filter_map(|(of, place, step)| Some((of, place, step, step.push()?, step.patient_effort()?)))
        // What is pushed into the motion that is tried is no resistance: the checks say so, and nothing is taught of it.
        .filter(|(.., push, effort)| push != effort)
        .collect();
    let (of, place, step, push, effort) = draw.one(&resisted)?;
    let mut others: Vec<Motion> = resisted.iter().flat_map(|(.., push, effort)| [*push, *effort]).collect();
    others.sort_unstable();
    others.dedup();
    others.retain(|it| it != push && it != effort);
    draw.shuffle(&mut others);
    // The other way is always there: it is what is mistaken for the right one.
    let wrong = std::iter::once(*effort).chain(others).take(3).map(|motion| DrillOption::Motion { motion });
    let options = draw.usual_options(DrillOption::Motion { motion: *push }, wrong)?;
    let question = DrillQuestion::WhichPush { step: step.text.clone(), effort: *effort };
    Some(of.drill(Skill::Direction, place.clone(), question, options, Vec::new()))
}
