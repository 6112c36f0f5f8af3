//! Teaching: drills made of the catalogue's own data, and how somebody's own estimates follow the evidence.

mod direction;
mod drill;
mod faults;
mod interpretation;
mod procedure;
mod screening;
mod updating;

pub use drill::{Drill, DrillOption, DrillQuestion, DrillSheet, NoDrill, ScreeningDecision, Skill};
pub use updating::{OwnEstimate, Updating, UpdatingLine, updating};

use drill::Draw;

/// A drill of these sheets, those of one region: the same one for the same sheets, skill and seed. Wrong answers come from these sheets, so that they are plausible.
///
/// # Errors
/// No sheet that is free of contradictions; sheets that say too little for this skill.
pub fn drill(sheets: &[DrillSheet<'_>], skill: Skill, seed: u64) -> Result<Drill, NoDrill> {
    let sound: Vec<DrillSheet<'_>> = sheets.iter().copied().filter(DrillSheet::is_sound).collect();
    if sound.is_empty() {
        return Err(NoDrill::NoSheet);
    }
    let draw = &mut Draw::of(seed);
    let made = match skill {
        Skill::Faults => faults::fault(&sound, draw),
        Skill::Direction => direction::direction(&sound, draw),
        Skill::Interpretation => interpretation::interpretation(&sound, draw),
        Skill::Screening => screening::screening(&sound, draw),
        Skill::Procedure => procedure::procedure(&sound, draw),
    };
    made.ok_or(NoDrill::TooLittle(skill))
}
