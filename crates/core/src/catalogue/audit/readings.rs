//! What the findings and the interpretation table forgot or contradict.

use super::{FindingCode, Findings};
use crate::catalogue::procedure::Variant;
use crate::catalogue::{CriterionKind, Outcome, Sheet};

pub(super) fn criteria(variant: &Variant, at: &str, findings: &mut Findings) {
    let says = |outcome| variant.criteria.iter().any(|criterion| criterion.outcome == Some(outcome));
    if says(Outcome::Positive) && !says(Outcome::Negative) {
        let message = format!("“{}” says what is positive, but not what is negative.", variant.name);
        let remedy = "Write what a negative test looks like; what can be read as neither is not interpretable.";
        findings.tell(FindingCode::NoNegative, format!("{at}.criteria"), message, remedy);
    }
    for (index, criterion) in variant.criteria.iter().enumerate() {
        let measured = criterion.kind.is_some_and(CriterionKind::is_measured);
        if !measured || criterion.outcome == Some(Outcome::NotInterpretable) {
            continue;
        }
        let mut missing = Vec::new();
        missing.extend(criterion.comparison.is_none().then_some("how it is compared"));
        missing.extend(criterion.value.is_none().then_some("the value"));
        // A ratio of two like measurements has no unit.
        let pure = criterion.kind == Some(CriterionKind::Ratio);
        missing.extend((criterion.unit.is_empty() && !pure).then_some("the unit"));
        if !missing.is_empty() {
            let message = format!("This measured criterion lacks {}.", missing.join(" and "));
            let remedy = "Complete it: a threshold without its unit means nothing to the next reader.";
            findings.tell(FindingCode::NoComparison, format!("{at}.criteria[{index}]"), message, remedy);
        }
    }
}

/// Targets and readings name only conditions that the sheet shows.
pub(super) fn conditions(sheet: &Sheet, findings: &mut Findings) {
    let targets = sheet.variants.iter().enumerate().flat_map(|(v, variant)| {
        let of = move |t: usize| format!("variants[{v}].targets[{t}]");
        variant.targets.iter().enumerate().map(move |(t, target)| (of(t), &target.condition))
    });
    let rows = sheet.interpretation.rows.iter().enumerate();
    let rows = rows.map(|(row, it)| (format!("interpretation.rows[{row}]"), &it.condition));
    for (field, name) in targets.chain(rows).filter(|(_, name)| !name.is_empty() && sheet.shows(name).is_none()) {
        let message = format!("“{name}” is not among the conditions of this sheet.");
        let remedy = "Add it to the conditions, or choose one of them.";
        findings.tell(FindingCode::UnknownCondition, field, message, remedy);
    }
}

pub(super) fn table(sheet: &Sheet, findings: &mut Findings) {
    let unreadable = sheet.interpretation.unreadable();
    for (row, condition) in &unreadable {
        findings.tell(
            FindingCode::UnreadableCondition,
            format!("interpretation.rows[{row}].conditions[{condition}]"),
            "This condition names a measure or a word that is not declared, or compares with nothing.".to_owned(),
            "Choose a declared measure, and complete the comparison.",
        );
    }
    if !unreadable.is_empty() {
        return;
    }
    let Some(faults) = sheet.interpretation.faults() else {
        let message = "The table has more combinations than can be looked at one by one.".to_owned();
        let remedy = "Split it into tables of fewer measures; until then gaps and overlaps are not looked for.";
        findings.tell(FindingCode::InterpretationTooLarge, "interpretation", message, remedy);
        return;
    };
    for fault in faults {
        if fault.rows.is_empty() {
            let remedy = "Add a row for it, or widen one.";
            let message = format!("No row applies to this: {}.", fault.words());
            findings.tell(FindingCode::InterpretationGap, "interpretation", message, remedy);
        } else {
            let rows: Vec<String> = fault.rows.iter().map(|row| (row + 1).to_string()).collect();
            let message = format!("Rows {} all apply to this: {}.", rows.join(" and "), fault.words());
            let remedy = "Restrict all but one of them.";
            findings.tell(FindingCode::InterpretationOverlap, "interpretation", message, remedy);
        }
    }
}
