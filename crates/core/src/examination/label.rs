//! What a record is called: a word and a number that say nothing of the patient.

const WORDS: [&str; 60] = [
    "acorn", "alder", "amber", "anchor", "apple", "aspen", "barley", "basil", "beech", "birch", "bramble", "brook",
    "cedar", "cherry", "chestnut", "clover", "cobble", "copper", "coral", "cotton", "cypress", "daisy", "dune",
    "elder", "ember", "fern", "flint", "garnet", "ginger", "granite", "harbour", "hazel", "heather", "indigo", "ivory",
    "ivy", "jade", "juniper", "lantern", "larch", "lilac", "linen", "maple", "marble", "meadow", "mint", "moss", "oat",
    "olive", "opal", "pebble", "pine", "poppy", "quartz", "reed", "saffron", "slate", "thistle", "willow", "zinc",
];
const NUMBERS: u64 = 999;

/// So many labels there are.
pub const LABELS: u64 = WORDS.len() as u64 * NUMBERS;

/// A label such as “amber 17”: one of [`LABELS`], each for every `LABELS`-th number. It is drawn, never derived of anything that is known
/// of a patient.
#[must_use]
pub fn examination_label(drawn: u64) -> String {
    let place = usize::try_from(drawn % WORDS.len() as u64).unwrap_or_default();
    let number = drawn / WORDS.len() as u64 % NUMBERS + 1;
    format!("{} {number}", WORDS[place])
}
