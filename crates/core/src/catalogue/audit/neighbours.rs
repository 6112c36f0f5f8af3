//! What a sheet says that the others contradict or say already.

use std::collections::{HashMap, HashSet};
use std::sync::Arc;

use super::procedure::{Claim, claims};
use super::{Finding, FindingCode, loaded, spoken};
use crate::catalogue::likeness::{Words, alike, overlap, sketch};
use crate::catalogue::{Sheet, name_key};

/// What other sheets need to know of one.
#[derive(Debug, Clone)]
pub struct Digest {
    name: String,
    keys: Vec<String>,
    /// One set of words for each name.
    words: Vec<Words>,
    claims: Vec<(String, Claim)>,
    sketch: Vec<u64>,
}

impl Digest {
    /// Of a sheet.
    #[must_use]
    pub fn of(sheet: &Sheet) -> Self {
        let steps = sheet.baseline().map(|variant| variant.steps.as_slice()).unwrap_or_default();
        Self {
            name: sheet.name.clone(),
            keys: sheet.names().map(name_key).collect(),
            words: sheet.names().map(Words::of).collect(),
            claims: claims(sheet),
            sketch: sketch(steps.iter().map(|step| step.text.as_str())),
        }
    }
}

/// A word or a run of words that more tests share is no sign of a twin.
const COMMON: usize = 400;
/// More twins or contradictions than these are not told for one place.
const MOST_TOLD: usize = 5;

/// All tests of the catalogue, indexed for comparing one with the others; a number, such as that of a UUID, tells them apart.
#[derive(Debug, Default)]
pub struct Neighbours {
    tests: HashMap<u128, Arc<Digest>>,
    /// In the order of their numbers, as in those below.
    by_key: HashMap<String, Vec<u128>>,
    by_word: HashMap<String, Vec<u128>>,
    by_run: HashMap<u64, Vec<u128>>,
    by_claim: HashMap<Claim, Vec<u128>>,
}

impl Neighbours {
    /// Indexes the tests.
    #[must_use]
    pub fn new(tests: impl IntoIterator<Item = (u128, Arc<Digest>)>) -> Self {
        let mut all = Self::default();
        for (test, digest) in tests {
            all.enter(test, &digest, &mut HashSet::new());
        }
        all
    }

    /// Puts tests in, in the place of what they said before. The answer is every test whose comparison may come out otherwise since: those
    /// themselves, those that name one of them now or did before, and those for which a word begins or ceases to tell.
    pub fn replace(&mut self, changed: Vec<(u128, Arc<Digest>)>) -> HashSet<u128> {
        let mut touched: HashSet<u128> = changed.iter().map(|(test, _)| *test).collect();
        // A name may go from one of them to another.
        let before: Vec<_> =
            changed.iter().filter_map(|(test, _)| Some((*test, Arc::clone(self.tests.get(test)?)))).collect();
        for (test, digest) in &before {
            touched.extend(self.naming(*test, digest));
        }
        for (test, digest) in &before {
            self.leave(*test, digest, &mut touched);
        }
        for (test, digest) in &changed {
            self.enter(*test, digest, &mut touched);
        }
        for (test, digest) in &changed {
            touched.extend(self.naming(*test, digest));
        }
        touched
    }

    fn enter(&mut self, test: u128, digest: &Arc<Digest>, touched: &mut HashSet<u128>) {
        fn put(list: &mut Vec<u128>, test: u128, touched: &mut HashSet<u128>) {
            // Most come in their order.
            let place =
                if list.last().is_none_or(|last| *last < test) { Err(list.len()) } else { list.binary_search(&test) };
            let Err(place) = place else { return };
            if list.len() == COMMON {
                touched.extend(list.iter().copied());
            }
            list.insert(place, test);
        }
        for word in digest.words.iter().flat_map(|name| &name.words) {
            match self.by_word.get_mut(word) {
                Some(list) => put(list, test, touched),
                None => drop(self.by_word.insert(word.clone(), vec![test])),
            }
        }
        digest.sketch.iter().for_each(|run| put(self.by_run.entry(*run).or_default(), test, touched));
        for (_, claim) in &digest.claims {
            // However many say so, each of them counts.
            put(self.by_claim.entry(claim.clone()).or_default(), test, &mut HashSet::new());
        }
        digest.keys.iter().for_each(|key| put(self.by_key.entry(key.clone()).or_default(), test, &mut HashSet::new()));
        self.tests.insert(test, Arc::clone(digest));
    }

    fn leave(&mut self, test: u128, digest: &Digest, touched: &mut HashSet<u128>) {
        fn take(list: Option<&mut Vec<u128>>, test: u128, touched: &mut HashSet<u128>) {
            let Some(list) = list else { return };
            let Ok(place) = list.binary_search(&test) else { return };
            list.remove(place);
            if list.len() == COMMON {
                touched.extend(list.iter().copied());
            }
        }
        let words = digest.words.iter().flat_map(|name| &name.words);
        words.for_each(|word| take(self.by_word.get_mut(word), test, touched));
        digest.sketch.iter().for_each(|run| take(self.by_run.get_mut(run), test, touched));
        digest.claims.iter().for_each(|(_, claim)| take(self.by_claim.get_mut(claim), test, &mut HashSet::new()));
        digest.keys.iter().for_each(|key| take(self.by_key.get_mut(key), test, &mut HashSet::new()));
        self.tests.remove(&test);
    }

    /// The tests that name one with this digest when they are compared.
    fn naming(&self, test: u128, digest: &Digest) -> HashSet<u128> {
        let opposed = digest.claims.iter().filter_map(|(_, claim)| self.by_claim.get(&claim.opposite())).flatten();
        let keys = digest.keys.iter().filter_map(|key| self.by_key.get(key)).flatten();
        let mut naming: HashSet<u128> = opposed.chain(keys).copied().collect();
        let others = self.sharing_words(digest).into_iter().chain(self.sharing_runs(digest).into_keys());
        let others: HashSet<u128> = others.filter(|other| *other != test && !naming.contains(other)).collect();
        naming.extend(others.into_iter().filter(|other| {
            let theirs = &self.tests[other];
            let shared = theirs.sketch.iter().filter(|run| self.tells_run(run) && digest.sketch.contains(run)).count();
            like_named(theirs, digest) || same_steps(theirs, digest, shared)
        }));
        naming
    }

    /// What very many tests share tells none of them apart.
    fn tells(found: &&Vec<u128>) -> bool {
        found.len() <= COMMON
    }

    fn tells_run(&self, run: &u64) -> bool {
        self.by_run.get(run).is_some_and(|found| Self::tells(&found))
    }

    fn sharing_words(&self, digest: &Digest) -> HashSet<u128> {
        let words = digest.words.iter().flat_map(|name| &name.words);
        words.filter_map(|word| self.by_word.get(word)).filter(Self::tells).flatten().copied().collect()
    }

    /// How many runs of words of the steps each of them shares.
    fn sharing_runs(&self, digest: &Digest) -> HashMap<u128, usize> {
        let mut counted = HashMap::<u128, usize>::new();
        let runs = digest.sketch.iter().filter_map(|run| self.by_run.get(run)).filter(Self::tells).flatten();
        runs.for_each(|test| *counted.entry(*test).or_default() += 1);
        counted
    }

    /// [`Neighbours::compare`] for a test that is among them.
    #[must_use]
    pub fn compare_stored(&self, test: u128) -> Vec<Finding> {
        self.tests.get(&test).map(|digest| self.compare(digest, Some(test))).unwrap_or_default()
    }

    /// What one test says that the others contradict or say already; `own` is its own key, if it has one.
    #[must_use]
    pub fn compare(&self, digest: &Digest, own: Option<u128>) -> Vec<Finding> {
        let mut findings = Vec::new();
        let mut told: HashSet<u128> = HashSet::new();
        for (position, key) in digest.keys.iter().enumerate() {
            let mut others = self.by_key.get(key).into_iter().flatten().filter(|test| Some(**test) != own);
            let Some(test) = others.next_back() else { continue };
            told.insert(*test);
            findings.push(Finding {
                code: FindingCode::NameOfOtherTest,
                field: if position == 0 { "name".to_owned() } else { format!("aliases[{}]", position - 1) },
                message: format!("The test “{}” has this name or alias.", self.tests[test].name),
                remedy: "Choose a name that tells the two apart, or go on with the test that is there.".to_owned(),
            });
        }
        let mut twins: Vec<(u128, &str)> = Vec::new();
        let by_name = self.sharing_words(digest).into_iter().filter(|test| like_named(digest, &self.tests[test]));
        twins.extend(by_name.map(|test| (test, "name")));
        let by_steps = self.sharing_runs(digest).into_iter();
        let by_steps = by_steps.filter(|(test, shared)| same_steps(digest, &self.tests[test], *shared));
        twins.extend(by_steps.map(|(test, _)| (test, "variants[0].steps")));
        twins.retain(|(test, _)| Some(*test) != own);
        twins.sort_unstable();
        for (test, field) in twins.into_iter().take(MOST_TOLD) {
            if told.insert(test) {
                let what = if field == "name" { "nearly the same name" } else { "nearly the same steps" };
                findings.push(Finding {
                    code: FindingCode::NearDuplicate,
                    field: field.to_owned(),
                    message: format!("The test “{}” has {what}.", self.tests[&test].name),
                    remedy: "If it is the same test, write one sheet with variants; if not, say how the two differ."
                        .to_owned(),
                });
            }
        }
        let mut opposed = HashSet::new();
        for (field, claim) in &digest.claims {
            let against = self.by_claim.get(&claim.opposite()).into_iter().flatten();
            for test in against.filter(|test| Some(**test) != own).take(MOST_TOLD).map(|test| &self.tests[test]) {
                if opposed.insert((claim, &test.name)) {
                    findings.push(Finding {
                        code: FindingCode::ContradictsOtherTest,
                        field: field.clone(),
                        message: format!(
                            "{}: {} in {} here ({}), but in {} on the sheet “{}”.",
                            claim.structure,
                            loaded(claim.role),
                            spoken(claim.motion),
                            spoken(claim.joint),
                            spoken(claim.motion.opposite()),
                            test.name,
                        ),
                        remedy: "Check which direction is meant, and correct the sheet that is wrong.".to_owned(),
                    });
                }
            }
        }
        findings
    }
}

fn like_named(one: &Digest, other: &Digest) -> bool {
    one.words.iter().any(|mine| other.words.iter().any(|theirs| alike(mine, theirs)))
}

/// Whether the steps of `one` are those of `other`, of which they share so many telling runs of words.
fn same_steps(one: &Digest, other: &Digest, shared: usize) -> bool {
    shared > 0 && 2 * shared >= one.sketch.len() && overlap(&one.sketch, &other.sketch) >= 0.6
}
