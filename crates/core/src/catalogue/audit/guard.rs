//! What indications, cautions and pitfalls forgot or contradict.

use super::{FindingCode, Findings};
use crate::catalogue::pitfall::Bias;
use crate::catalogue::{CautionKind, CautionScope, IndicationKind, Purpose, Sheet, name_key};

pub(super) fn indications(sheet: &Sheet, findings: &mut Findings) {
    let named = sheet.indications.iter().enumerate().map(|(i, it)| (format!("indications[{i}]"), &it.variant));
    let named = named.chain(sheet.cautions.iter().enumerate().map(|(i, it)| (format!("cautions[{i}]"), &it.variant)));
    for (field, variant) in named {
        if !variant.is_empty() && !sheet.variants.iter().any(|it| name_key(&it.name) == name_key(variant)) {
            let message = format!("This sheet has no variant “{variant}”.");
            let remedy = "Choose one of its variants, or leave it empty for all of them.";
            findings.tell(FindingCode::UnknownVariant, field, message, remedy);
        }
    }
    for (index, indication) in sheet.indications.iter().enumerate() {
        let same = |one: &str, other: &str| one.is_empty() || other.is_empty() || name_key(one) == name_key(other);
        let against = sheet.cautions.iter().any(|caution| {
            caution.kind == Some(CautionKind::Contraindication)
                && name_key(&caution.text) == name_key(&indication.text)
                && same(&caution.variant, &indication.variant)
        });
        if against && indication.kind == Some(IndicationKind::Disease) {
            let message = format!("“{}” is an indication and a contraindication of the same variant.", indication.text);
            let remedy = "Say for which variant each of the two holds, or leave one out.";
            findings.tell(FindingCode::IndicationContradicted, format!("indications[{index}]"), message, remedy);
        }
    }
}

pub(super) fn cautions(sheet: &Sheet, findings: &mut Findings) {
    let provokes = matches!(sheet.purpose, Purpose::PainProvocation | Purpose::NerveTension)
        || sheet.burden.irritation.is_some_and(|irritation| irritation >= 2.0);
    if sheet.cautions.is_empty() {
        let remedy = "Write whom not to do it on, or that none is known and who looked.";
        findings.tell(FindingCode::NoCaution, "cautions", "No caution is written.".to_owned(), remedy);
    } else if provokes && !sheet.cautions.iter().any(|caution| caution.kind == Some(CautionKind::StopRule)) {
        let message = "This test provokes symptoms, but no stop rule says when to stop.".to_owned();
        findings.tell(FindingCode::NoStopRule, "cautions", message, "Add a stop rule.");
    }
    for (index, caution) in sheet.cautions.iter().enumerate() {
        if caution.scope != Some(CautionScope::Examination) {
            continue;
        }
        if caution.instead.is_empty() {
            let message = "This stops the whole examination, but does not say what to do.".to_owned();
            let remedy = "Write what to do instead: whom to call, where to send the patient.";
            findings.tell(FindingCode::NoRedFlagAction, format!("cautions[{index}]"), message, remedy);
        }
        if caution.within_hours.is_none() {
            no_deadline(format!("cautions[{index}]"), findings);
        }
    }
    for (index, reading) in sheet.urgent.iter().enumerate() {
        if reading.within_hours.is_none() {
            no_deadline(format!("urgent[{index}]"), findings);
        }
    }
    for (index, row) in sheet.interpretation.rows.iter().enumerate() {
        if row.urgent && row.within_hours.is_none() {
            no_deadline(format!("interpretation.rows[{index}]"), findings);
        }
    }
}

fn no_deadline(field: String, findings: &mut Findings) {
    let message = "This is urgent, but does not say how soon.".to_owned();
    findings.tell(
        FindingCode::NoDeadline,
        field,
        message,
        "Give the hours within which it is to happen; 0 is at once.",
    );
}

pub(super) fn pitfalls(sheet: &Sheet, findings: &mut Findings) {
    let criteria = sheet.baseline().map(|variant| variant.criteria.as_slice()).unwrap_or_default();
    for (index, pitfall) in sheet.pitfalls.iter().enumerate() {
        let follows = pitfall.effect.and_then(|effect| effect.bias(sheet.purpose, criteria));
        let (Some(written @ (Bias::TowardsPositive | Bias::TowardsNegative)), Some(follows)) = (pitfall.bias, follows)
        else {
            continue;
        };
        if written != follows {
            let message = format!(
                "This pitfall is said to push {}, but by its effect on the positive findings it pushes {}.",
                direction(written),
                direction(follows)
            );
            let remedy = "Correct the direction, the effect, or the comparison of the positive finding.";
            findings.tell(FindingCode::BiasAgainstEffect, format!("pitfalls[{index}]"), message, remedy);
        }
    }
}

fn direction(bias: Bias) -> &'static str {
    match bias {
        Bias::TowardsPositive => "towards positive",
        Bias::TowardsNegative => "towards negative",
        Bias::Invalid => "the result out of use",
    }
}
