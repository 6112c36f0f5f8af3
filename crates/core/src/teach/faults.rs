//! Drills about what goes wrong.

use super::drill::{Draw, Drill, DrillOption, DrillQuestion, DrillSheet, Skill};
use crate::catalogue::{Bias, Derived, Pitfall};
use crate::name::name_key;

/// A pitfall with its sheet.
struct Known<'a> {
    of: &'a DrillSheet<'a>,
    place: usize,
    pitfall: &'a Pitfall,
    /// Which way it pushes: as written, or as it follows.
    direction: Option<Bias>,
}

/// A drill of one of the pitfalls; wrong answers are what other sheets of these say.
pub(super) fn fault(sheets: &[DrillSheet<'_>], draw: &mut Draw) -> Option<Drill> {
    let known: Vec<Known<'_>> = sheets
        .iter()
        .flat_map(|of| {
            let derived = Derived::of(of.sheet).pitfalls;
            let known = of.sheet.pitfalls.iter().zip(derived).enumerate();
            known.map(move |(place, (pitfall, it))| Known { of, place, pitfall, direction: it.direction })
        })
        .collect();
    let mut order: Vec<(usize, u8)> = (0..known.len()).flat_map(|nth| (0..3).map(move |kind| (nth, kind))).collect();
    draw.shuffle(&mut order);
    order.into_iter().find_map(|(nth, kind)| ask(&known, &known[nth], kind, draw))
}

fn ask(all: &[Known<'_>], of: &Known<'_>, kind: u8, draw: &mut Draw) -> Option<Drill> {
    let Pitfall { text, cue, mechanism, remedy, .. } = of.pitfall;
    let text_of = |it: &str| (!it.is_empty()).then(|| DrillOption::text(it));
    let (question, options) = match kind {
        0 if !cue.is_empty() => {
            // What is seen in the same way may be either mistake.
            let others = all.iter().filter(|it| name_key(&it.pitfall.cue) != name_key(cue));
            let wrong = others.filter_map(|it| text_of(&it.pitfall.text));
            (DrillQuestion::WhichMistake { cue: cue.clone() }, draw.usual_options(DrillOption::text(text), wrong)?)
        }
        1 => {
            let bias = of.direction?;
            let all = [Bias::TowardsPositive, Bias::TowardsNegative, Bias::Invalid];
            let options = draw.usual_options(DrillOption::Bias { bias }, all.map(|bias| DrillOption::Bias { bias }))?;
            (DrillQuestion::WhichWay { mistake: text.clone() }, options)
        }
        2 if !remedy.is_empty() => {
            let wrong = all.iter().filter_map(|it| text_of(&it.pitfall.remedy));
            let options = draw.usual_options(DrillOption::text(remedy), wrong)?;
            (DrillQuestion::WhatToDo { mistake: text.clone() }, options)
        }
        _ => return None,
    };
    let explanation = [mechanism, remedy].into_iter().filter(|it| !it.is_empty()).cloned().collect();
    Some(of.of.drill(Skill::Faults, format!("pitfalls[{}]", of.place), question, options, explanation))
}
