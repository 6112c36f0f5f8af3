//! The same work entered twice: its patients would be counted twice.

use std::collections::{BTreeSet, HashMap, HashSet};

use serde::Serialize;

use super::Reference;

/// Why two references look like one work.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[serde(rename_all = "snake_case", tag = "because")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Likeness {
    /// The same DOI.
    SameDoi,
    /// The same number in PubMed.
    SamePmid,
    /// Nearly the same title at about the same time.
    SimilarTitle {
        /// From 0 to 1: share of letter pairs that both titles have.
        similarity: f64,
    },
}

impl Likeness {
    /// An identifier leaves no doubt; a title is for somebody to look at.
    #[must_use]
    pub fn is_certain(self) -> bool {
        !matches!(self, Self::SimilarTitle { .. })
    }
}

/// Titles that differ by a subtitle's punctuation or a typing error reach this; two parts of a series hardly do.
const SIMILAR: f64 = 0.9;
/// When the first authors differ too, only a title that is all but the same says anything.
const ALL_BUT_SAME: f64 = 0.97;
/// Online first in December, printed in January.
const YEARS_APART: u16 = 1;

/// The form in which titles are compared: words in lower case, without marks.
#[must_use]
pub fn title_key(title: &str) -> String {
    let words = title.split(|c: char| !c.is_alphanumeric()).filter(|word| !word.is_empty());
    words.map(str::to_lowercase).collect::<Vec<_>>().join(" ")
}

/// Whether two references look like one work, by identifier first and then by title, year and first author. The similarity of
/// titles is the Sørensen–Dice coefficient of their letter pairs, `2 |A ∩ B| / (|A| + |B|)` (L. R. Dice 1945).
#[must_use]
pub fn likeness(one: &Reference, other: &Reference) -> Option<Likeness> {
    alike(one, &title_key(&one.title), other, &title_key(&other.title))
}

fn alike(one: &Reference, one_key: &str, other: &Reference, other_key: &str) -> Option<Likeness> {
    if !one.doi.is_empty() && one.doi == other.doi {
        return Some(Likeness::SameDoi);
    }
    if !one.pmid.is_empty() && one.pmid == other.pmid {
        return Some(Likeness::SamePmid);
    }
    if years_apart(one.year, other.year) {
        return None;
    }
    let similarity = strsim::sorensen_dice(one_key, other_key);
    let first = |reference: &Reference| reference.authors.first().map(|author| title_key(&author.family));
    let others = first(one).zip(first(other)).is_some_and(|(a, b)| a != b);
    (similarity >= if others { ALL_BUT_SAME } else { SIMILAR }).then_some(Likeness::SimilarTitle { similarity })
}

fn years_apart(one: Option<u16>, other: Option<u16>) -> bool {
    one.zip(other).is_some_and(|(a, b)| a.abs_diff(b) > YEARS_APART)
}

/// Finds a work among many: a title is compared letter by letter only with those of about its time that share half of its words.
#[derive(Debug)]
pub struct Matcher<Id> {
    known: Vec<(Id, Reference, String)>,
    by_identifier: HashMap<String, usize>,
    by_word: HashMap<String, Vec<usize>>,
}

impl<Id> Default for Matcher<Id> {
    fn default() -> Self {
        Self { known: Vec::new(), by_identifier: HashMap::new(), by_word: HashMap::new() }
    }
}

impl<Id: Copy> Matcher<Id> {
    /// Adds a work to those that are known.
    pub fn add(&mut self, id: Id, reference: Reference) {
        let (at, key) = (self.known.len(), title_key(&reference.title));
        for identifier in identifiers(&reference) {
            self.by_identifier.entry(identifier).or_insert(at);
        }
        for word in key.split(' ').collect::<HashSet<_>>() {
            self.by_word.entry(word.to_owned()).or_default().push(at);
        }
        self.known.push((id, reference, key));
    }

    /// The known work that is most like this one: the one with the same identifier, or else that with the most similar title.
    #[must_use]
    pub fn find(&self, reference: &Reference) -> Option<(Id, &Reference, Likeness)> {
        let same = identifiers(reference).find_map(|identifier| self.by_identifier.get(&identifier));
        let key = title_key(&reference.title);
        let candidates = same.map_or_else(|| self.sharing_words(&key, reference.year), |at| vec![*at]);
        let found = candidates.into_iter().filter_map(|at| {
            let (id, known, known_key) = &self.known[at];
            alike(reference, &key, known, known_key).map(|likeness| (at, *id, likeness))
        });
        let best = found
            .max_by(|(at, _, one), (other_at, _, other)| one.rank().total_cmp(&other.rank()).then(other_at.cmp(at)));
        best.map(|(at, id, likeness)| (id, &self.known[at].1, likeness))
    }

    /// A typing error spoils a word or two of a title, not half of them.
    fn sharing_words(&self, key: &str, year: Option<u16>) -> Vec<usize> {
        let words: HashSet<&str> = key.split(' ').collect();
        let half = words.len().div_ceil(2);
        // Whoever shares half of the words shares one at least of the rarer ones, of which half and one more are: few titles have those.
        let mut lists: Vec<&[usize]> =
            words.iter().map(|word| self.by_word.get(*word).map(Vec::as_slice).unwrap_or_default()).collect();
        lists.sort_unstable_by_key(|list| list.len());
        let rarer = lists.into_iter().take(words.len() - half + 1).flatten().copied();
        let found: BTreeSet<usize> = rarer.filter(|at| !years_apart(year, self.known[*at].1.year)).collect();
        let shared = |at: usize| self.known[at].2.split(' ').collect::<HashSet<_>>().intersection(&words).count();
        found.into_iter().filter(|at| shared(*at) >= half).collect()
    }
}

impl Likeness {
    /// Orders likenesses: the more certain, the larger.
    #[must_use]
    pub fn rank(self) -> f64 {
        match self {
            Self::SameDoi | Self::SamePmid => 2.0,
            Self::SimilarTitle { similarity } => similarity,
        }
    }
}

fn identifiers(reference: &Reference) -> impl Iterator<Item = String> + use<> {
    let doi = (!reference.doi.is_empty()).then(|| format!("doi {}", reference.doi));
    let pmid = (!reference.pmid.is_empty()).then(|| format!("pmid {}", reference.pmid));
    doi.into_iter().chain(pmid)
}
