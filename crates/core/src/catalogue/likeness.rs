//! How alike two names or two procedures are, for pointing out a test that is written twice.

use std::collections::BTreeSet;
use std::hash::{DefaultHasher, Hash, Hasher};

/// Words that make another test of the same name.
const MODIFIERS: [&str; 8] =
    ["reversed", "reverse", "modified", "active", "passive", "resisted", "alternative", "crossed"];
/// Words that tell no two tests apart.
const FILLERS: [&str; 12] = ["a", "an", "and", "at", "for", "in", "of", "on", "or", "the", "to", "test"];
/// Hashes kept of each procedure.
const SKETCH: usize = 24;

/// A name as words, fillers left out, with a signature of its letters by which most others are told apart at once.
#[derive(Debug, Clone)]
pub(super) struct Words {
    pub words: BTreeSet<String>,
    signature: u128,
}

impl Words {
    pub fn of(name: &str) -> Self {
        let lower = name.to_lowercase();
        let words = lower.split(|c: char| !c.is_alphanumeric()).filter(|it| !it.is_empty() && !FILLERS.contains(it));
        let words: BTreeSet<String> = words.map(str::to_owned).collect();
        let bit = |pair: &(char, char)| (u32::from(pair.0) * 31 + u32::from(pair.1)) % 128;
        let signature = pairs(&words).iter().fold(0, |set, pair| set | 1 << bit(pair));
        Self { words, signature }
    }
}

/// Whether two names are likely to mean the same test: nearly the same letters, and no word that makes another test in one of
/// them only.
pub(super) fn alike(one: &Words, other: &Words) -> bool {
    // Pairs of letters may share a bit, so this asks for a little less than the coefficient below.
    let (common, all) = (one.signature & other.signature, one.signature.count_ones() + other.signature.count_ones());
    if 10 * 2 * common.count_ones() < 7 * all {
        return false;
    }
    let (one, other) = (&one.words, &other.words);
    if one.is_empty() || other.is_empty() {
        return false;
    }
    let shared = one.intersection(other).count();
    if 2 * shared < one.len().max(other.len()) {
        return false;
    }
    // A number makes another test as well: held for 30 seconds is not held for 60.
    let odd = |word: &&String| MODIFIERS.contains(&word.as_str()) || word.chars().all(|c| c.is_ascii_digit());
    if one.symmetric_difference(other).any(|word| odd(&word)) {
        return false;
    }
    // Sørensen-Dice coefficient over pairs of letters: 2 |A ∩ B| / (|A| + |B|).
    let (a, b) = (pairs(one), pairs(other));
    let common = a.intersection(&b).count();
    10 * 2 * common >= 8 * (a.len() + b.len())
}

fn pairs(words: &BTreeSet<String>) -> BTreeSet<(char, char)> {
    let mut pairs = BTreeSet::new();
    for word in words {
        let letters: Vec<char> = std::iter::once(' ').chain(word.chars()).chain(std::iter::once(' ')).collect();
        pairs.extend(letters.windows(2).map(|pair| (pair[0], pair[1])));
    }
    pairs
}

/// The smallest hashes of all runs of four words. Two sketches share about as large a part as the texts do (bottom-k sketch,
/// Broder 1997).
pub(super) fn sketch<'a>(texts: impl Iterator<Item = &'a str>) -> Vec<u64> {
    let joined = texts.collect::<Vec<_>>().join(" ").to_lowercase();
    let words: Vec<&str> = joined.split(|c: char| !c.is_alphanumeric()).filter(|word| !word.is_empty()).collect();
    let hashes: BTreeSet<u64> = words
        .windows(4)
        .map(|run| {
            let mut hasher = DefaultHasher::new();
            run.hash(&mut hasher);
            hasher.finish()
        })
        .collect();
    hashes.into_iter().take(SKETCH).collect()
}

/// Estimated share of runs of words that two procedures have in common (Jaccard).
pub(super) fn overlap(one: &[u64], other: &[u64]) -> f64 {
    let union: BTreeSet<u64> = one.iter().chain(other).copied().take(2 * SKETCH).collect();
    let smallest: Vec<u64> = union.into_iter().take(SKETCH).collect();
    let shared = smallest.iter().filter(|hash| one.contains(hash) && other.contains(hash)).count();
    #[allow(clippy::cast_precision_loss, reason = "at most 24")]
    if smallest.is_empty() { 0.0 } else { shared as f64 / smallest.len() as f64 }
}
