//! What a sheet forgot or contradicts: within itself, against the vocabulary, against the other sheets.

use std::collections::{HashMap, HashSet};
use std::fmt::Debug;
use std::sync::Arc;

use serde::Serialize;

use super::anatomy::{Joint, Motion, Structure};
use super::likeness::{Words, alike, overlap, sketch};
use super::procedure::{LoadRole, Mode, ProcedureStep, Target, Variant};
use super::{CautionKind, Outcome, Purpose, Region, Sheet, name_key};

/// Something to look at again. A finding never keeps a sheet from being saved.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Finding {
    /// Stable kind.
    pub code: FindingCode,
    /// Path of the field it is about, such as `variants[0].targets[1]`.
    pub field: String,
    /// What was found, one or two sentences.
    pub message: String,
    /// What to do about it.
    pub remedy: String,
}

/// Kinds of findings.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum FindingCode {
    /// No step is written.
    NoSteps,
    /// No caution at all.
    NoCaution,
    /// A provoking test without a rule when to stop.
    NoStopRule,
    /// A variant says what is positive but not what is negative.
    NoNegative,
    /// A measured criterion without unit, value or comparison.
    NoComparison,
    /// A muscle is said to contract against a push that none of its actions opposes.
    ResistedDirection,
    /// A step works at an angle outside the range of its variant.
    AngleOutsideRange,
    /// A target that the vocabulary does not know.
    UnknownStructure,
    /// A target of another region.
    StructureOutsideRegion,
    /// A phase that the variant does not declare.
    UnknownPhase,
    /// Two opposite turns are said to load the same structure in the same way.
    ContradictoryDirection,
    /// Another sheet says the opposite about the same turn and structure.
    ContradictsOtherTest,
    /// A condition of the interpretation table that cannot be read.
    UnreadableCondition,
    /// Findings that no row of the interpretation table answers.
    InterpretationGap,
    /// Findings that several rows answer.
    InterpretationOverlap,
    /// The table has more combinations than can be looked at.
    InterpretationTooLarge,
    /// A name or alias that another test has.
    NameOfOtherTest,
    /// A test with nearly the same name or procedure.
    NearDuplicate,
}

/// The structures that sheets may name.
#[derive(Debug, Default)]
pub struct Vocabulary {
    by_name: HashMap<String, Vec<Structure>>,
}

impl Vocabulary {
    /// Indexes the structures of all regions by each of their names.
    #[must_use]
    pub fn new(structures: impl IntoIterator<Item = Structure>) -> Self {
        let mut by_name: HashMap<String, Vec<Structure>> = HashMap::new();
        for structure in structures {
            for name in structure.names() {
                by_name.entry(name_key(name)).or_default().push(structure.clone());
            }
        }
        Self { by_name }
    }

    /// The structure of that name, that of the sheet's own region first.
    fn find(&self, region: Region, name: &str) -> Option<&Structure> {
        let found = self.by_name.get(&name_key(name))?;
        found.iter().find(|structure| structure.region == region).or_else(|| found.first())
    }
}

/// That a turn of a joint puts a structure under a load.
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
struct Claim {
    structure: String,
    role: LoadRole,
    joint: Joint,
    motion: Motion,
}

impl Claim {
    fn opposite(&self) -> Self {
        Self { motion: self.motion.opposite(), ..self.clone() }
    }
}

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

/// Findings of a sheet by itself and against the vocabulary, in the order of its page.
#[must_use]
pub fn audit(sheet: &Sheet, vocabulary: &Vocabulary) -> Vec<Finding> {
    let mut findings = Findings(Vec::new());
    cautions(sheet, &mut findings);
    if sheet.baseline().is_none_or(|baseline| baseline.steps.is_empty()) {
        let remedy = "Write what is done, one step a line.";
        findings.tell(FindingCode::NoSteps, "variants", "The baseline variant has no steps.".to_owned(), remedy);
    }
    for (index, variant) in sheet.variants.iter().enumerate() {
        let at = format!("variants[{index}]");
        phases(variant, &at, &mut findings);
        targets(sheet, variant, &at, vocabulary, &mut findings);
        angles(variant, &at, &mut findings);
        criteria(variant, &at, &mut findings);
    }
    directions(sheet, &mut findings);
    table(sheet, &mut findings);
    findings.0
}

struct Findings(Vec<Finding>);

impl Findings {
    fn tell(&mut self, code: FindingCode, field: impl Into<String>, message: String, remedy: &str) {
        self.0.push(Finding { code, field: field.into(), message, remedy: remedy.to_owned() });
    }
}

/// The name of an anatomical term as it is spoken: `ExternalRotation` becomes `external rotation`.
fn spoken(term: impl Debug) -> String {
    let mut words = String::new();
    for letter in format!("{term:?}").chars() {
        if letter.is_uppercase() && !words.is_empty() {
            words.push(' ');
        }
        words.extend(letter.to_lowercase());
    }
    words
}

fn loaded(role: LoadRole) -> &'static str {
    match role {
        LoadRole::Tension => "under tension",
        LoadRole::Compressed => "compressed",
        LoadRole::Contracted => "contracted",
        LoadRole::Lengthened => "lengthened",
        LoadRole::Palpated => "under the finger",
        LoadRole::NeuralTension => "under neural tension",
    }
}

fn cautions(sheet: &Sheet, findings: &mut Findings) {
    let provokes = matches!(sheet.purpose, Purpose::PainProvocation | Purpose::NerveTension)
        || sheet.burden.irritation.is_some_and(|irritation| irritation >= 2.0);
    if sheet.cautions.is_empty() {
        let remedy = "Write whom not to do it on, or that none is known and who looked.";
        findings.tell(FindingCode::NoCaution, "cautions", "No caution is written.".to_owned(), remedy);
    } else if provokes && !sheet.cautions.iter().any(|caution| caution.kind == Some(CautionKind::StopRule)) {
        let message = "This test provokes symptoms, but no stop rule says when to stop.".to_owned();
        findings.tell(FindingCode::NoStopRule, "cautions", message, "Add a stop rule.");
    }
}

fn phases(variant: &Variant, at: &str, findings: &mut Findings) {
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

fn targets(sheet: &Sheet, variant: &Variant, at: &str, vocabulary: &Vocabulary, findings: &mut Findings) {
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
                .filter(|step| step.mode == Some(Mode::Resisted) && together(step, target))
                .filter_map(|step| Some((step.joint, step.motion?)))
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

fn angles(variant: &Variant, at: &str, findings: &mut Findings) {
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

fn criteria(variant: &Variant, at: &str, findings: &mut Findings) {
    let says = |outcome| variant.criteria.iter().any(|criterion| criterion.outcome == Some(outcome));
    if says(Outcome::Positive) && !says(Outcome::Negative) {
        let message = format!("“{}” says what is positive, but not what is negative.", variant.name);
        let remedy = "Write what a negative test looks like; what can be read as neither is not interpretable.";
        findings.tell(FindingCode::NoNegative, format!("{at}.criteria"), message, remedy);
    }
    for (index, criterion) in variant.criteria.iter().enumerate() {
        let measured = criterion.kind.is_some_and(super::CriterionKind::is_measured);
        if !measured || criterion.outcome == Some(Outcome::NotInterpretable) {
            continue;
        }
        let mut missing = Vec::new();
        missing.extend(criterion.comparison.is_none().then_some("how it is compared"));
        missing.extend(criterion.value.is_none().then_some("the value"));
        // A ratio of two like measurements has no unit.
        let pure = criterion.kind == Some(super::CriterionKind::Ratio);
        missing.extend((criterion.unit.is_empty() && !pure).then_some("the unit"));
        if !missing.is_empty() {
            let message = format!("This measured criterion lacks {}.", missing.join(" and "));
            let remedy = "Complete it: a threshold without its unit means nothing to the next reader.";
            findings.tell(FindingCode::NoComparison, format!("{at}.criteria[{index}]"), message, remedy);
        }
    }
}

/// Every turn that a sheet says to load a structure, with the path of the target.
fn claims(sheet: &Sheet) -> Vec<(String, Claim)> {
    let mut claims = Vec::new();
    for (v, variant) in sheet.variants.iter().enumerate() {
        for (t, target) in variant.targets.iter().enumerate() {
            let Some(role) = target.role.filter(|role| *role != LoadRole::Palpated) else { continue };
            for step in variant.steps.iter().filter(|step| together(step, target)) {
                let (Some(joint), Some(motion)) = (step.joint, step.motion.filter(|it| it.has_a_side())) else {
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

fn directions(sheet: &Sheet, findings: &mut Findings) {
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

fn table(sheet: &Sheet, findings: &mut Findings) {
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
