//! Drills about whom not to examine.

use std::collections::BTreeMap;

use super::drill::{Draw, Drill, DrillOption, DrillQuestion, DrillSheet, ScreeningDecision, Skill};
use crate::catalogue::{Caution, ScreeningAnswer, Sheet};
use crate::name::name_key;
use crate::plan::{FitState, PatientFit, ScreenedTest, examination_fit};

/// A drill of one of the screening questions, answered in one of the three ways. What is right is what an examination of this test alone would do.
pub(super) fn screening(sheets: &[DrillSheet<'_>], draw: &mut Draw) -> Option<Drill> {
    let asked: Vec<(&DrillSheet<'_>, usize, &Caution)> = sheets
        .iter()
        .flat_map(|of| of.sheet.cautions.iter().enumerate().map(move |(place, it)| (of, place, it)))
        .filter(|(_, _, it)| !it.screening.is_empty() && !it.unsafe_answers.is_empty() && it.variant.is_empty())
        .collect();
    let (of, place, caution) = draw.one(&asked)?;
    let answer = *draw.one(&[ScreeningAnswer::Yes, ScreeningAnswer::No, ScreeningAnswer::Unknown])?;
    let decision = decide(of.sheet, caution, answer);
    let all = ScreeningDecision::ALL.map(|decision| DrillOption::Decision { decision });
    let options = draw.options(DrillOption::Decision { decision }, all, ScreeningDecision::ALL.len())?;
    let question = DrillQuestion::WhetherToExamine { asked: caution.screening.clone(), answer };
    let explanation = [&caution.text, &caution.instead].into_iter().filter(|it| !it.is_empty()).cloned().collect();
    Some(of.drill(Skill::Screening, format!("cautions[{place}]"), question, options, explanation))
}

/// With every other question of the sheet answered safely.
fn decide(sheet: &Sheet, caution: &Caution, answer: ScreeningAnswer) -> ScreeningDecision {
    let test = ScreenedTest {
        region: sheet.region,
        joints: caution.joint.into_iter().collect(),
        variant: String::new(),
        position: None,
        equipment: Vec::new(),
        irritation: None,
        minutes: None,
        cautions: vec![caution.clone()],
    };
    let answers = BTreeMap::from([(name_key(&caution.screening), answer)]);
    let fit = examination_fit(&[test], &PatientFit { answers, ..PatientFit::default() });
    if fit.stop.is_some() {
        return ScreeningDecision::Stop;
    }
    match fit.tests.first().map(|it| it.state) {
        Some(FitState::NotNow) => ScreeningDecision::SomethingElse,
        Some(FitState::Locked) => ScreeningDecision::FindOut,
        Some(FitState::WithCare) => ScreeningDecision::WithCare,
        Some(FitState::Ready) | None => ScreeningDecision::Examine,
    }
}
