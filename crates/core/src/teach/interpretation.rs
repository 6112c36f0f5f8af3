//! Drills about what measurements and phases mean together.

use std::collections::BTreeMap;

use super::drill::{Draw, Drill, DrillOption, DrillQuestion, DrillSheet, Skill};
use crate::catalogue::{ExampleValue, Found, Interpretation, ReadingRow};

/// A drill of one of the interpretation tables: a value of each measure, boundaries among them, and what they mean. Wrong answers are the table's other readings, then those of
/// other tables.
pub(super) fn interpretation(sheets: &[DrillSheet<'_>], draw: &mut Draw) -> Option<Drill> {
    let mut tables: Vec<&DrillSheet<'_>> =
        sheets.iter().filter(|of| !of.sheet.interpretation.rows.is_empty()).collect();
    draw.shuffle(&mut tables);
    let (of, values, row) = tables.iter().find_map(|of| {
        let (values, row) = case(&of.sheet.interpretation, draw)?;
        Some((*of, values, row))
    })?;
    let table = &of.sheet.interpretation;
    let answer = |row: &ReadingRow| DrillOption::text(&reading(row));
    let right = &table.rows[row];
    let own: Vec<DrillOption> = table.rows.iter().map(answer).collect();
    let others = tables.iter().flat_map(|it| it.sheet.interpretation.rows.iter()).map(answer);
    // Its own readings first: to tell them apart is what is exercised.
    let options = draw
        .usual_options(answer(right), own.clone())
        .or_else(|| draw.usual_options(answer(right), others.collect::<Vec<_>>()))?;
    let found = table.measures.iter().map(|measure| ExampleValue {
        measure: measure.name.clone(),
        value: values.get(&measure.name).cloned(),
        unit: measure.unit.clone(),
    });
    let question = DrillQuestion::WhichReading { found: found.collect() };
    let explanation = Some(right.next_step.clone()).filter(|it| !it.is_empty()).into_iter().collect();
    Some(of.drill(Skill::Interpretation, format!("interpretation.rows[{row}]"), question, options, explanation))
}

fn reading(row: &ReadingRow) -> String {
    if row.grade.is_empty() { row.reading.clone() } else { format!("{} ({})", row.reading, row.grade) }
}

/// Tries for one: a table without gap and overlap answers the first.
const TRIES: usize = 20;

/// A value of each measure that exactly one row answers.
fn case(table: &Interpretation, draw: &mut Draw) -> Option<(BTreeMap<String, Found>, usize)> {
    let samples = table.samples();
    (0..TRIES).find_map(|_| {
        let drawn = samples.iter().map(|(name, values)| Some((name.clone(), draw.one(values)?.clone())));
        let values: BTreeMap<String, Found> = drawn.collect::<Option<_>>()?;
        let rows = table.read(&values).ok()?.rows;
        let [row] = rows.as_slice() else { return None };
        Some((values, *row))
    })
}
