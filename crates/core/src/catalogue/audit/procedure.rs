//! What the procedure forgot or contradicts: phases, contacts, forces, directions, angles.

use std::collections::HashSet;

use super::{FindingCode, Findings, Vocabulary, loaded, spoken};
use crate::catalogue::anatomy::{Joint, Motion};
use crate::catalogue::procedure::{LoadRole, Position, Target, Variant};
use crate::catalogue::step::{Mode, ProcedureStep};
use crate::catalogue::{Sheet, name_key};

/// That a turn of a joint puts a structure under a load.
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
pub(super) struct Claim {
    pub(super) structure: String,
    pub(super) role: LoadRole,
    pub(super) joint: Joint,
    pub(super) motion: Motion,
}

impl Claim {
    pub(super) fn opposite(&self) -> Self {
        Self { motion: self.motion.opposite(), ..self.clone() }
    }
}

pub(super) fn stance(variant: &Variant, at: &str, findings: &mut Findings) {
    let upright = !matches!(
        variant.position,
        Some(Position::Sitting | Position::LyingFaceUp | Position::LyingFaceDown | Position::SideLying)
    );
    if variant.stance.one_leg && upright && variant.stance.fall_support.is_empty() {
        let message =
            format!("In “{}” the patient stands on one leg, and nothing is said to prevent a fall.", variant.name);
        let remedy = "Say what the patient holds on to, or who stands by.";
        findings.tell(FindingCode::NoFallSupport, format!("{at}.stance.fall_support"), message, remedy);
    }
}

pub(super) fn contacts(variant: &Variant, at: &str, findings: &mut Findings) {
    for (index, contact) in variant.contacts.iter().enumerate() {
        let Some(joint) = contact.locks else { continue };
        if contact.verified.is_empty() {
            let message = format!("A contact locks this joint ({}), but not how that is made sure.", spoken(joint));
            let remedy = "Say how the examiner sees or feels that it does not move along.";
            findings.tell(FindingCode::LockNotVerified, format!("{at}.contacts[{index}]"), message, remedy);
        }
        for (number, step) in variant.steps.iter().enumerate() {
            // A resisted step holds still.
            let moves = step.joint == Some(joint) && step.motion.is_some() && step.mode != Some(Mode::Resisted);
            if moves {
                let message = format!("This step moves a joint that a contact locks ({}).", spoken(joint));
                let remedy = "Correct the joint, or say that the contact locks another one.";
                findings.tell(FindingCode::LockedJointMoved, format!("{at}.steps[{number}]"), message, remedy);
            }
        }
    }
}

pub(super) fn forces(variant: &Variant, at: &str, findings: &mut Findings) {
    for (index, step) in variant.steps.iter().enumerate() {
        let Some(effort) = step.effort else { continue };
        let (message, remedy) = match step.push() {
            None => (
                "The patient's effort is written, but the step is not a resisted one.".to_owned(),
                "Make it a resisted step, or leave the effort out.",
            ),
            Some(push) if push != effort.opposite() => (
                format!(
                    "The patient tries {}, but the examiner pushes into {}, which does not oppose it.",
                    spoken(effort),
                    spoken(push)
                ),
                "Correct one of the two; if only one is written, the other follows.",
            ),
            Some(_) => continue,
        };
        findings.tell(FindingCode::EffortAgainstPush, format!("{at}.steps[{index}]"), message, remedy);
    }
}

pub(super) fn phases(variant: &Variant, at: &str, findings: &mut Findings) {
    let steps = variant.steps.iter().enumerate().map(|(i, it)| (format!("steps[{i}]"), &it.phase));
    let targets = variant.targets.iter().enumerate().map(|(i, it)| (format!("targets[{i}]"), &it.phase));
    let criteria = variant.criteria.iter().enumerate().map(|(i, it)| (format!("criteria[{i}]"), &it.phase));
    for (field, phase) in steps.chain(targets).chain(criteria) {
        if !phase.is_empty() && !variant.phases.iter().any(|it| name_key(&it.name) == name_key(phase)) {
            let message = format!("The phase “{phase}” is not among the phases of this variant.");
            let remedy = "Declare it, or choose one that is declared.";
            findings.tell(FindingCode::UnknownPhase, format!("{at}.{field}"), message, remedy);
        }
    }
}

fn together(step: &ProcedureStep, target: &Target) -> bool {
    target.phase.is_empty() || step.phase.is_empty() || name_key(&step.phase) == name_key(&target.phase)
}

pub(super) fn targets(sheet: &Sheet, variant: &Variant, at: &str, vocabulary: &Vocabulary, findings: &mut Findings) {
    for (index, target) in variant.targets.iter().enumerate() {
        let field = format!("{at}.targets[{index}]");
        let Some(structure) = vocabulary.find(sheet.region, &target.structure) else {
            let message = format!("“{}” is not in the vocabulary of structures.", target.structure);
            let remedy = "Choose one that is there, or add it, so that every sheet calls it the same.";
            findings.tell(FindingCode::UnknownStructure, field, message, remedy);
            continue;
        };
        if structure.region != sheet.region {
            let message = format!("“{}” belongs to another region.", target.structure);
            let remedy = "Check the target; if it does run through here, add it to this region's vocabulary.";
            findings.tell(FindingCode::StructureOutsideRegion, field.clone(), message, remedy);
        }
        if target.role == Some(LoadRole::Contracted) && !structure.actions.is_empty() {
            let pushes: Vec<(Option<Joint>, Motion)> = variant
                .steps
                .iter()
                .filter(|step| together(step, target))
                .filter_map(|step| Some((step.joint, step.push()?)))
                .collect();
            let opposed = |(joint, push): &(Option<Joint>, Motion)| {
                structure
                    .actions
                    .iter()
                    .any(|action| action.motion.opposite() == *push && joint.is_none_or(|joint| joint == action.joint))
            };
            if !pushes.is_empty() && !pushes.iter().any(opposed) {
                let pushes: Vec<String> = pushes.iter().map(|(_, push)| spoken(push)).collect();
                let actions: Vec<String> = structure
                    .actions
                    .iter()
                    .map(|action| format!("{} of the {}", spoken(action.motion), spoken(action.joint)))
                    .collect();
                let message = format!(
                    "{} is said to contract, but the push is into {}, which opposes none of its actions ({}).",
                    structure.name,
                    pushes.join(" and "),
                    actions.join(", "),
                );
                let remedy = "Correct the direction of the push, or the target.";
                findings.tell(FindingCode::ResistedDirection, field, message, remedy);
            }
        }
    }
}

pub(super) fn angles(variant: &Variant, at: &str, findings: &mut Findings) {
    for (index, step) in variant.steps.iter().enumerate() {
        let (Some(joint), Some(motion)) = (step.joint, step.motion) else { continue };
        let range = variant.joints.iter().find_map(|range| {
            let (from, to) = (range.from.or(range.to)?, range.to.or(range.from)?);
            match range.motion? {
                _ if range.joint != Some(joint) => None,
                same if same == motion => Some((from, to)),
                turned if turned == motion.opposite() => Some((-to, -from)),
                _ => None,
            }
        });
        let Some((from, to)) = range else { continue };
        for angle in [step.degrees, step.degrees_to].into_iter().flatten() {
            if !(from..=to).contains(&angle) {
                let message = format!(
                    "This step works at {angle}° of {} {}, outside the {from}° to {to}° of its variant.",
                    spoken(joint),
                    spoken(motion),
                );
                let remedy = "Correct the angle, or the variant's range.";
                findings.tell(FindingCode::AngleOutsideRange, format!("{at}.steps[{index}]"), message, remedy);
            }
        }
    }
}

/// Every turn that a sheet says to load a structure, with the path of the target.
pub(super) fn claims(sheet: &Sheet) -> Vec<(String, Claim)> {
    let mut claims = Vec::new();
    for (v, variant) in sheet.variants.iter().enumerate() {
        for (t, target) in variant.targets.iter().enumerate() {
            let Some(role) = target.role.filter(|role| *role != LoadRole::Palpated) else { continue };
            for step in variant.steps.iter().filter(|step| together(step, target)) {
                let (Some(joint), Some(motion)) = (step.joint, step.direction().filter(|it| it.has_a_side())) else {
                    continue;
                };
                let resisted = step.mode == Some(Mode::Resisted);
                // A muscle contracts against a push; who moves it passively does not make it contract.
                if resisted != (role == LoadRole::Contracted) {
                    continue;
                }
                let structure = name_key(&target.structure);
                let claim = Claim { structure, role, joint, motion };
                claims.push((format!("variants[{v}].targets[{t}]"), claim));
            }
        }
    }
    claims
}

pub(super) fn directions(sheet: &Sheet, findings: &mut Findings) {
    let claims = claims(sheet);
    let (mut earlier, mut told) = (HashSet::new(), HashSet::new());
    for (field, claim) in &claims {
        earlier.insert(claim.clone());
        if earlier.contains(&claim.opposite()) && told.insert((&claim.structure, claim.role)) {
            let message = format!(
                "{}: {} both in {} and in {} ({}).",
                claim.structure,
                loaded(claim.role),
                spoken(claim.motion.opposite()),
                spoken(claim.motion),
                spoken(claim.joint),
            );
            let remedy = "Name the phase in which each target is loaded, or correct the direction.";
            findings.tell(FindingCode::ContradictoryDirection, field.clone(), message, remedy);
        }
    }
}
