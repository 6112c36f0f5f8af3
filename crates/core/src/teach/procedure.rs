//! Drills about how a test is done.

use super::drill::{Draw, Drill, DrillOption, DrillQuestion, DrillSheet, Skill};
use crate::catalogue::Variant;
use crate::name::name_key;

/// So many steps a test needs, so that there is an order to know.
const FEWEST: usize = 3;

/// A drill of the steps of one of the tests as it is taught: put them in order, or find the one that is missing.
pub(super) fn procedure(sheets: &[DrillSheet<'_>], draw: &mut Draw) -> Option<Drill> {
    let taught: Vec<(&DrillSheet<'_>, Vec<&str>)> = sheets
        .iter()
        .filter_map(|of| {
            let steps = steps(of.sheet.baseline()?);
            (steps.len() >= FEWEST).then_some((of, steps))
        })
        .collect();
    let (of, steps) = draw.one(&taught)?;
    if *draw.one(&[true, false])? {
        let mut order: Vec<usize> = (0..steps.len()).collect();
        draw.shuffle(&mut order);
        if order.is_sorted() {
            order.rotate_left(1);
        }
        let options = order.iter().map(|nth| DrillOption::text(steps[*nth])).collect();
        let right = (0..steps.len()).filter_map(|nth| order.iter().position(|it| *it == nth)).collect();
        let place = "variants[0].steps".to_owned();
        return Some(of.drill(Skill::Procedure, place, DrillQuestion::WhichOrder, (options, right), Vec::new()));
    }
    let places: Vec<usize> = (0..steps.len()).collect();
    let missing = *draw.one(&places)?;
    let own: Vec<String> = steps.iter().map(|it| name_key(it)).collect();
    let others = taught.iter().flat_map(|(_, steps)| steps.iter()).filter(|it| !own.contains(&name_key(it)));
    let wrong: Vec<DrillOption> = others.map(|it| DrillOption::text(it)).collect();
    let options = draw.usual_options(DrillOption::text(steps[missing]), wrong)?;
    let shown = steps.iter().enumerate().map(|(nth, it)| if nth == missing { String::new() } else { (*it).to_owned() });
    let question = DrillQuestion::WhichStep { steps: shown.collect() };
    Some(of.drill(Skill::Procedure, format!("variants[0].steps[{missing}]"), question, options, Vec::new()))
}

/// Steps in words; none where two of them read the same, so that no order is the only right one.
fn steps(of: &Variant) -> Vec<&str> {
    let steps: Vec<&str> = of.steps.iter().map(|it| it.text.as_str()).collect();
    let mut keys: Vec<String> = steps.iter().map(|it| name_key(it)).collect();
    keys.sort_unstable();
    keys.dedup();
    if keys.len() == steps.len() { steps } else { Vec::new() }
}
