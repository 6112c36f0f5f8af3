//! The exchange bundle: an open JSON format whose published schema (docs/schema) is generated from the types that read it and is
//! also their first check, so that the document other programs read and the rule this one applies cannot drift apart.

use std::collections::{BTreeMap, HashMap, HashSet};
use std::sync::OnceLock;

use chrono::{DateTime, Utc};
use jsonschema::{ValidationError, Validator};
use pruvex_core::catalogue::{
    Condition, ConditionInput, Sheet, SheetInput, Structure, StructureInput, TeachingConflict, TeachingConflictInput,
    name_key,
};
use pruvex_core::evidence::{
    AccuracyInput, AccuracyResult, Agreement, AgreementInput, Appraisal, AppraisalInput, Aspect, Decision, Extraction,
    ExtractionInput, Reference, ReferenceInput, Rule, Study, StudyInput,
};
use pruvex_core::plan::{ExaminationPlan, ExaminationPlanInput, ExaminationTest};
use pruvex_core::{Faults, FieldError, FieldErrorCode, Probability, TestId};
use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};
use serde_json::{Value, json};
use utoipa::{OpenApi, ToSchema};
use uuid::Uuid;

const FORMAT: &str = "pruvex-bundle";
const VERSION: u64 = 3;
/// Still read: there hands did one thing each, and equipment had names only.
const WITH_HANDS: u64 = 2;
/// Still read: there, too, each result of a test carried its study's words.
const WITHOUT_STUDIES: u64 = 1;

/// More is refused before it is parsed.
pub const MAX_BUNDLE_BYTES: usize = 64 * 1024 * 1024;
/// Bundles have one in a hundred bytes or less.
const MAX_OBJECTS: usize = 1_000_000;

/// A checked bundle.
#[derive(Debug, Clone, PartialEq)]
pub struct Bundle {
    /// What it is.
    pub title: String,
    /// Whether all of it is made up.
    pub sample: bool,
    /// Target conditions.
    pub conditions: Vec<Condition>,
    /// Structures beyond the starting vocabulary, or changed since.
    pub structures: Vec<Structure>,
    /// Published works.
    pub references: Vec<BundleReference>,
    /// Studies; a result of each stands at one of the tests.
    pub studies: Vec<BundleStudy>,
    /// Tests with their results.
    pub tests: Vec<BundleTest>,
    /// Entries of the register of conflicting teaching.
    pub teaching_conflicts: Vec<BundleConflict>,
    /// Plans of examinations.
    pub plans: Vec<BundlePlan>,
}

/// One plan of an examination.
#[derive(Debug, Clone, PartialEq)]
pub struct BundlePlan {
    /// What it says. Its tests are numbered from 1 in its order, instead of by their ids: a file knows them by their names.
    pub plan: ExaminationPlan,
    /// Names of its tests, in its order.
    pub names: Vec<String>,
    /// It is made up.
    pub sample: bool,
}

impl BundlePlan {
    /// A plan for a file, with the names of its tests in its order.
    #[must_use]
    pub fn new(plan: ExaminationPlan, names: Vec<String>, sample: bool) -> Self {
        let ids: Vec<TestId> = plan.tests.iter().map(|it| it.test).collect();
        let numbered = |id: TestId| ids.iter().position(|it| *it == id).map(numbered);
        // Every test that a plan names is one of its own.
        let plan = plan.clone().with_tests(numbered).unwrap_or(plan);
        Self { plan, names, sample }
    }

    /// The plan with the tests of a catalogue, found by name.
    ///
    /// # Errors
    /// Place of the first test that has no such name.
    pub fn with_tests(&self, find: impl Fn(&str) -> Option<TestId>) -> Result<ExaminationPlan, usize> {
        let place = |id: TestId| self.plan.tests.iter().position(|it| it.test == id);
        let found = |id: TestId| self.names.get(place(id)?).and_then(|name| find(name));
        self.plan.clone().with_tests(found).map_err(|id| place(id).unwrap_or_default())
    }
}

/// One entry of the register of conflicting teaching.
#[derive(Debug, Clone, PartialEq)]
pub struct BundleConflict {
    /// What it says; its tests stand beside it.
    pub conflict: TeachingConflict,
    /// Names of its tests.
    pub tests: Vec<String>,
    /// It is made up.
    pub sample: bool,
}

/// One reference of a bundle.
#[derive(Debug, Clone, PartialEq)]
pub struct BundleReference {
    /// What it says.
    pub reference: Reference,
    /// It is made up.
    pub sample: bool,
}

/// One test of a bundle.
#[derive(Debug, Clone, PartialEq)]
pub struct BundleTest {
    /// Its sheet.
    pub sheet: Sheet,
    /// The sheet is made up.
    pub sample: bool,
    /// Its results of accuracy.
    pub results: Vec<BundleResult>,
    /// Its agreement results.
    pub agreements: Vec<BundleAgreement>,
    /// Its results that two people read, or are to read.
    pub extractions: Vec<BundleExtraction>,
}

/// A result that two people read, or are to read.
#[derive(Debug, Clone, PartialEq)]
pub struct BundleExtraction {
    /// Place of its report in the bundle.
    pub work: Option<usize>,
    /// Text of the report.
    pub reference: String,
    /// Which of the report's results.
    pub asked: String,
    /// Place of its result among those of the test.
    pub result: Option<usize>,
    /// What was read: nothing, or by two people.
    pub readings: Vec<BundleReading>,
    /// How it was adjudicated.
    pub settled: Option<BundleSettled>,
    /// It is made up.
    pub sample: bool,
}

/// What one person read.
#[derive(Debug, Clone, PartialEq)]
pub struct BundleReading {
    /// Their name.
    pub reader: String,
    /// What they read.
    pub extraction: Extraction,
}

/// How two readings were settled.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct BundleSettled {
    /// Name of who settled them.
    pub by: String,
    /// When.
    pub at: DateTime<Utc>,
    /// What was decided where they differed.
    pub decisions: Vec<Decision>,
}

/// One study of a bundle.
#[derive(Debug, Clone, PartialEq)]
pub struct BundleStudy {
    /// Who was examined, and how; its reference stands in the bundle.
    pub study: Study,
    /// It is made up.
    pub sample: bool,
    /// Place of its reference in the bundle.
    pub work: Option<usize>,
    /// How far it can be trusted.
    pub appraisals: BTreeMap<Aspect, Appraisal>,
}

/// One result of a bundle.
#[derive(Debug, Clone, PartialEq)]
pub struct BundleResult {
    /// Place of its study in the bundle.
    pub study: usize,
    /// What it reports; tests that were read together with this one are named beside it.
    pub result: AccuracyResult,
    /// Other tests that were read together with this one.
    pub together: Option<BundleTogether>,
    /// It is made up.
    pub sample: bool,
}

/// Tests that were read together, by name.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct BundleTogether {
    /// Names of the other tests.
    pub tests: Vec<String>,
    /// When all of them together count as positive.
    pub rule: Rule,
}

/// One agreement result of a bundle.
#[derive(Debug, Clone, PartialEq)]
pub struct BundleAgreement {
    /// Place of its study in the bundle.
    pub study: usize,
    /// What it reports.
    pub agreement: Agreement,
    /// It is made up.
    pub sample: bool,
}

/// Conditions, structures, references, studies, tests and their results. Imported whole or not at all.
#[derive(Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = Bundle)]
struct WireBundle {
    /// Always `pruvex-bundle`.
    format: String,
    /// Always 3.
    schema_version: u64,
    /// What it is.
    title: String,
    /// `true` when all of it is made up; every figure that rests on a made-up study is marked for good.
    sample: bool,
    /// Target conditions.
    #[serde(default)]
    conditions: Vec<ConditionInput>,
    /// Structures that the sheets name; those that are known are left as they are.
    #[serde(default)]
    structures: Vec<StructureInput>,
    /// Published works; those that are known by an identifier are left as they are.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    references: Vec<WireReference>,
    /// Studies: sets of people, of which results are reported.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    studies: Vec<WireStudy>,
    /// Tests with their results.
    tests: Vec<WireTest>,
    /// Entries of the register of conflicting teaching; a question that the region asks already is left as it is.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    teaching_conflicts: Vec<WireConflict>,
    /// Plans of examinations; a title that the region has already is left as it is.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    plans: Vec<WirePlan>,
}

/// A plan of an examination.
#[derive(Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = BundlePlan)]
struct WirePlan {
    /// What it says; a file names the tests beside it.
    plan: ExaminationPlanInput,
    /// For each test of the plan, in its order, which one it is.
    tests: Vec<WirePlannedTest>,
    /// It is made up, in a file that is not made up as a whole.
    #[serde(default, skip_serializing_if = "is_false")]
    sample: bool,
}

/// Which test of a plan it is.
#[derive(Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = BundlePlannedTest)]
struct WirePlannedTest {
    /// Its name, of a test of the file or of the catalogue that reads it.
    name: String,
    /// Names of tests of the plan that come before it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    after: Vec<String>,
}

/// An entry of the register of conflicting teaching.
#[derive(Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = BundleTeachingConflict)]
struct WireConflict {
    /// What it says; its own list of tests stays empty in a file.
    conflict: TeachingConflictInput,
    /// Names of the tests whose sheets show it, of the file or of the catalogue that reads it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    tests: Vec<String>,
    /// It is made up, in a file that is not made up as a whole.
    #[serde(default, skip_serializing_if = "is_false")]
    sample: bool,
}

/// A published work.
#[derive(Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = BundleReference)]
struct WireReference {
    /// What it says.
    reference: ReferenceInput,
    /// It is made up, in a file that is not made up as a whole.
    #[serde(default, skip_serializing_if = "is_false")]
    sample: bool,
}

/// A test with its results.
#[derive(Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = BundleTest)]
struct WireTest {
    /// Its sheet.
    sheet: SheetInput,
    /// The sheet is made up, in a file that is not made up as a whole.
    #[serde(default, skip_serializing_if = "is_false")]
    sample: bool,
    /// How accurate it was.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    results: Vec<WireResult>,
    /// How far examiners, or occasions, agree on it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    agreements: Vec<WireAgreement>,
    /// Results that two people read, or are to read.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    extractions: Vec<WireExtraction>,
}

/// A result that two people read independently, or are to read.
#[derive(Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = BundleExtraction)]
struct WireExtraction {
    /// Place, from 0, of its report in `references`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    work: Option<usize>,
    /// Text of the report.
    reference: String,
    /// Which of the report's results: criterion, condition, group.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    asked: String,
    /// Place, from 0, of its result in `results` of the test; absent before it is settled.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    result: Option<usize>,
    /// What was read: absent while it is to be read, or by two people.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    readings: Vec<WireReading>,
    /// How it was adjudicated.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    settled: Option<BundleSettled>,
    /// It is made up, in a file that is not made up as a whole.
    #[serde(default, skip_serializing_if = "is_false")]
    sample: bool,
}

/// What one person read off a report.
#[derive(Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = BundleReading)]
struct WireReading {
    /// Name of the reader.
    reader: String,
    /// Who was examined, and how; its reference is that of the report.
    study: StudyInput,
    /// What was found.
    result: AccuracyInput,
}

/// A study.
#[derive(Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = BundleStudy)]
struct WireStudy {
    /// Who was examined, and how.
    study: StudyInput,
    /// Place, from 0, of its reference in `references`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    work: Option<usize>,
    /// How far it can be trusted: its accuracy, its agreement.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    appraisals: BTreeMap<Aspect, AppraisalInput>,
    /// It is made up, in a file that is not made up as a whole.
    #[serde(default, skip_serializing_if = "is_false")]
    sample: bool,
}

/// A result of accuracy.
#[derive(Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = BundleResult)]
struct WireResult {
    /// Place, from 0, of its study in `studies`.
    study: usize,
    /// What it reports.
    result: AccuracyInput,
    /// Other tests that were read together with this one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    together: Option<BundleTogether>,
    /// It is made up, in a file that is not made up as a whole.
    #[serde(default, skip_serializing_if = "is_false")]
    sample: bool,
}

/// An agreement result.
#[derive(Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = BundleAgreement)]
struct WireAgreement {
    /// Place, from 0, of its study in `studies`.
    study: usize,
    /// What it reports.
    agreement: AgreementInput,
    /// It is made up, in a file that is not made up as a whole.
    #[serde(default, skip_serializing_if = "is_false")]
    sample: bool,
}

#[allow(clippy::trivially_copy_pass_by_ref, reason = "serde hands out references")]
fn is_false(value: &bool) -> bool {
    !value
}

#[derive(OpenApi)]
#[openapi(components(schemas(WireBundle)))]
struct Types;

/// The published JSON Schema of bundles.
#[must_use]
pub fn bundle_schema() -> Value {
    let mut types = serde_json::to_value(Types::openapi()).unwrap_or_default()["components"]["schemas"].take();
    relocate(&mut types);
    json!({
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "$id": "urn:pruvex:schema:bundle:3",
        "title": "Pruvex exchange bundle, version 3",
        "$ref": "#/$defs/Bundle",
        "$defs": types,
    })
}

/// References of an API description point elsewhere than those of a schema.
pub fn relocate(value: &mut Value) {
    match value {
        Value::Object(fields) => {
            for (name, inner) in fields {
                if let (true, Value::String(target)) = (name == "$ref", &mut *inner) {
                    *target = target.replace("#/components/schemas/", "#/$defs/");
                } else {
                    relocate(inner);
                }
            }
        }
        Value::Array(items) => items.iter_mut().for_each(relocate),
        _ => {}
    }
}

/// The bundle as a file, in the order in which it was given.
///
/// # Errors
/// None in practice; what serde reports otherwise.
pub fn write_bundle(bundle: &Bundle) -> Result<String, serde_json::Error> {
    // What holds for all is said once.
    let marked = |sample: bool| sample && !bundle.sample;
    let reference = |BundleReference { reference, sample }: &BundleReference| {
        Ok(WireReference { reference: as_input(reference)?, sample: marked(*sample) })
    };
    let study = |BundleStudy { study, sample, work, appraisals }: &BundleStudy| {
        let study = as_input(&study.clone().published_as(None))?;
        let appraisals = appraisals.iter().map(|(aspect, it)| (*aspect, it.written().clone())).collect();
        Ok(WireStudy { study, work: *work, appraisals, sample: marked(*sample) })
    };
    let wire = WireBundle {
        format: FORMAT.to_owned(),
        schema_version: VERSION,
        title: bundle.title.clone(),
        sample: bundle.sample,
        conditions: bundle
            .conditions
            .iter()
            .map(|condition| ConditionInput {
                region: condition.region.code().to_owned(),
                name: condition.name.clone(),
                setting: condition.setting.clone(),
                pre_test: condition.pre_test.map(Probability::get),
                prevalence: condition.prevalence.clone(),
                must_not_miss: condition.must_not_miss,
            })
            .collect(),
        structures: bundle.structures.iter().map(as_input).collect::<Result<_, _>>()?,
        references: bundle.references.iter().map(reference).collect::<Result<_, serde_json::Error>>()?,
        studies: bundle.studies.iter().map(study).collect::<Result<_, serde_json::Error>>()?,
        tests: bundle
            .tests
            .iter()
            .map(|test| {
                let results = test.results.iter().map(|BundleResult { study, result, together, sample }| WireResult {
                    study: *study,
                    result: AccuracyInput { together: None, ..result.written() },
                    together: together.clone(),
                    sample: marked(*sample),
                });
                let agreements = test.agreements.iter().map(|BundleAgreement { study, agreement, sample }| {
                    WireAgreement { study: *study, agreement: agreement.written().clone(), sample: marked(*sample) }
                });
                let extractions = test.extractions.iter().map(|it| wire_extraction(it, marked(it.sample))).collect();
                let (sheet, sample) = (as_input(&test.sheet)?, marked(test.sample));
                let (results, agreements) = (results.collect(), agreements.collect());
                Ok(WireTest { sheet, sample, results, agreements, extractions })
            })
            .collect::<Result<_, serde_json::Error>>()?,
        teaching_conflicts: bundle
            .teaching_conflicts
            .iter()
            .map(|BundleConflict { conflict, tests, sample }| {
                let (conflict, tests, sample) = (as_input(conflict)?, tests.clone(), marked(*sample));
                Ok(WireConflict { conflict, tests, sample })
            })
            .collect::<Result<_, serde_json::Error>>()?,
        plans: bundle
            .plans
            .iter()
            .map(|it| wire_plan(it, marked(it.sample)))
            .collect::<Result<_, serde_json::Error>>()?,
    };
    serde_json::to_string_pretty(&wire).map(|text| text + "\n")
}

/// What stands for a test of a plan in a file, by its place.
fn numbered(place: usize) -> TestId {
    TestId(Uuid::from_u128(place as u128 + 1))
}

fn wire_plan(of: &BundlePlan, sample: bool) -> Result<WirePlan, serde_json::Error> {
    let mut plan: ExaminationPlanInput = as_input(&of.plan)?;
    for it in &mut plan.tests {
        (it.test, it.after) = (None, Vec::new());
    }
    let name = |id: &TestId| {
        let place = of.plan.tests.iter().position(|it| it.test == *id);
        place.and_then(|place| of.names.get(place)).cloned()
    };
    let named = |(it, name_of): (&ExaminationTest, &String)| WirePlannedTest {
        name: name_of.clone(),
        after: it.after.iter().filter_map(name).collect(),
    };
    let tests = of.plan.tests.iter().zip(&of.names).map(named).collect();
    Ok(WirePlan { plan, tests, sample })
}

fn check_plan(wire: WirePlan, all_sample: bool) -> Result<BundlePlan, Vec<FieldError>> {
    let WirePlan { mut plan, tests, sample } = wire;
    if plan.tests.len() != tests.len() {
        let message = format!("{} tests are named for the {} tests of the plan.", tests.len(), plan.tests.len());
        let remedy = "Name each test of the plan once, in its order.";
        return Err(vec![FieldError::new("tests", FieldErrorCode::Invalid, tests.len(), message, remedy)]);
    }
    // Tests of one name are one test, which the check of the plan then finds.
    let place = |name: &str| tests.iter().position(|it| name_key(&it.name) == name_key(name));
    let mut errors = Vec::new();
    for (nth, (it, named)) in plan.tests.iter_mut().zip(&tests).enumerate() {
        it.test = place(&named.name).map(numbered);
        it.after.clear();
        for (number, earlier) in named.after.iter().enumerate() {
            match place(earlier) {
                Some(place) => it.after.push(numbered(place)),
                None => {
                    let field = format!("tests[{nth}].after[{number}]");
                    let message = "The plan has no test of this name.";
                    let remedy = "Name a test of the plan, or leave it out.";
                    errors.push(FieldError::new(field, FieldErrorCode::Unknown, earlier, message, remedy));
                }
            }
        }
    }
    let checked = ExaminationPlan::check(&plan);
    let names = tests.into_iter().map(|it| it.name).collect();
    match checked {
        Ok(plan) if errors.is_empty() => Ok(BundlePlan { plan, names, sample: all_sample || sample }),
        checked => {
            let found = checked.err().unwrap_or_default();
            errors.extend(found.into_iter().map(|error| error.within("plan.")));
            Err(errors)
        }
    }
}

fn wire_extraction(of: &BundleExtraction, sample: bool) -> WireExtraction {
    let BundleExtraction { work, reference, asked, result, readings, settled, .. } = of.clone();
    let reading = |BundleReading { reader, extraction }: BundleReading| {
        let ExtractionInput { study, result } = extraction.written();
        // The report is said once; other tests that were read together have no numbers in a file.
        let study = StudyInput { reference: String::new(), reference_id: None, ..study };
        WireReading { reader, study, result: AccuracyInput { together: None, ..result } }
    };
    let readings = readings.into_iter().map(reading).collect();
    WireExtraction { work, reference, asked, result, readings, settled, sample }
}

/// What is checked has the same fields as what was written.
fn as_input<T: Serialize, I: DeserializeOwned>(checked: &T) -> Result<I, serde_json::Error> {
    serde_json::from_value(serde_json::to_value(checked)?)
}

/// Reads and checks a bundle.
///
/// # Errors
/// Every fault, each with its path in the file, such as `tests[2].results[0].result.tp`; the first [`Faults::TOLD`] where there are more.
/// A file that is no JSON, no bundle or of another version gets one error about that.
pub fn read_bundle(bytes: &[u8]) -> Result<Bundle, Vec<FieldError>> {
    if bytes.len() > MAX_BUNDLE_BYTES {
        return Err(vec![FieldError::new(
            "$",
            FieldErrorCode::TooLong,
            format!("{} bytes", bytes.len()),
            format!("The file is larger than the {} MiB a bundle may have.", MAX_BUNDLE_BYTES / 1024 / 1024),
            "Split it into several bundles.",
        )]);
    }
    // Each object takes far more memory than its two braces in the file.
    if bytes.iter().filter(|byte| **byte == b'{').count() > MAX_OBJECTS {
        let message = format!("The file holds more than the {MAX_OBJECTS} records a bundle may have.");
        let remedy = "Split it into several bundles.";
        return Err(vec![FieldError::new("$", FieldErrorCode::TooLong, "", message, remedy)]);
    }
    let mut value: Value = serde_json::from_slice(bytes).map_err(|error| {
        let remedy = "Export it again, or correct that place in a text editor.";
        vec![FieldError::new("$", FieldErrorCode::Invalid, "", format!("The file is not valid JSON: {error}."), remedy)]
    })?;
    let version = check_header(&value)?;
    let mut places = Places::default();
    if version <= WITHOUT_STUDIES {
        studies_apart(&mut value, &mut places);
    }
    if version <= WITH_HANDS {
        hands_as_contacts(&mut value, &mut places);
    }
    value["schema_version"] = json!(VERSION);
    read_current(value).map_err(|errors| {
        errors.into_iter().map(|error| FieldError { field: places.in_the_file(&error.field), ..error }).collect()
    })
}

/// A bundle of the current version, as JSON.
fn read_current(value: Value) -> Result<Bundle, Vec<FieldError>> {
    let value = follows_schema(value)?;
    let wire: WireBundle = serde_json::from_value(value).map_err(|error| {
        vec![FieldError::new(
            "$",
            FieldErrorCode::Invalid,
            "",
            format!("{error}."),
            "Compare the file with the schema.",
        )]
    })?;
    check(wire)
}

/// The validator lists all faults of what it is given at once: with this many values, each of which may be one, that stays bounded.
const VALUES_AT_ONCE: usize = 50_000;

fn values_in(value: &Value) -> usize {
    1 + match value {
        Value::Array(items) => items.iter().map(values_in).sum(),
        Value::Object(fields) => fields.values().map(values_in).sum(),
        _ => 0,
    }
}

/// The bundle, if it follows its schema. Its lists are looked at in portions.
fn follows_schema(mut value: Value) -> Result<Value, Vec<FieldError>> {
    let schema = schema()?;
    if schema.is_valid(&value) {
        return Ok(value);
    }
    let mut lists = Vec::new();
    for (name, list) in value.as_object_mut().into_iter().flatten() {
        if let Value::Array(items) = list {
            lists.push((name.clone(), std::mem::take(items)));
        }
    }
    let mut faults = Faults::default();
    for error in schema.iter_errors(&value) {
        faults.push(schema_error(&error.instance_path().to_string(), &error, &value));
    }
    for (name, items) in lists {
        let (mut first, mut items) = (0, items.into_iter().peekable());
        while items.peek().is_some() && !faults.is_full() {
            let (mut portion, mut values) = (Vec::new(), 0);
            while let Some(item) =
                items.next_if(|item| portion.is_empty() || values + values_in(item) <= VALUES_AT_ONCE)
            {
                values += values_in(&item);
                portion.push(item);
            }
            let n = portion.len();
            value[&name] = Value::Array(portion);
            let from = format!("/{name}/");
            let mut tell = |error: &ValidationError<'_>| {
                let pointer = error.instance_path().to_string();
                // Faults of the rest have been told.
                let Some((place, inner)) = pointer.strip_prefix(&from).map(|it| it.split_once('/').unwrap_or((it, "")))
                else {
                    return;
                };
                let place = first + place.parse::<usize>().unwrap_or_default();
                let inner = if inner.is_empty() { String::new() } else { format!("/{inner}") };
                let field = field_path(&format!("{from}{place}{inner}"));
                faults.push(FieldError { field, ..schema_error(&pointer, error, &value) });
            };
            if values <= VALUES_AT_ONCE {
                schema.iter_errors(&value).for_each(|error| tell(&error));
            } else if let Err(error) = schema.validate(&value) {
                // One huge record: its first fault says enough.
                tell(&error);
            }
            value[&name] = json!([]);
            first += n;
        }
    }
    Err(faults.into_told())
}

/// Without its schema nothing is checked, so nothing is read either.
fn schema() -> Result<&'static Validator, Vec<FieldError>> {
    static SCHEMA_VALIDATOR: OnceLock<Result<Validator, String>> = OnceLock::new();
    let validator =
        SCHEMA_VALIDATOR.get_or_init(|| jsonschema::validator_for(&bundle_schema()).map_err(|error| error.to_string()));
    validator.as_ref().map_err(|error| {
        let message = format!("This program's schema of bundles does not work: {error}.");
        let remedy = "This is a fault of the program, not of the file: please report it.";
        vec![FieldError::new("$", FieldErrorCode::Invalid, "", message, remedy)]
    })
}

fn check_header(value: &Value) -> Result<u64, Vec<FieldError>> {
    let one = |field: &str, shown: &Value, message: String, remedy: &str| {
        Err(vec![FieldError::new(field, FieldErrorCode::Unknown, shown, message, remedy)])
    };
    let (format, version) = (&value["format"], &value["schema_version"]);
    if format != FORMAT {
        return one(
            "format",
            format,
            format!("This is not a bundle: \"format\" must be \"{FORMAT}\"."),
            "Choose another file.",
        );
    }
    match version.as_u64() {
        Some(known @ (WITHOUT_STUDIES | WITH_HANDS | VERSION)) => Ok(known),
        _ => {
            let message = format!(
                "Bundles of version {version} are not known; this program reads {WITHOUT_STUDIES}, {WITH_HANDS} and {VERSION}."
            );
            one("schema_version", version, message, "Export it again with a matching version of the program.")
        }
    }
}

/// `/tests/2/steps/0` becomes `tests[2].steps[0]`, the way fields are named everywhere else.
fn field_path(pointer: &str) -> String {
    let path = pointer.split('/').skip(1).fold(String::new(), |path, part| match part.parse::<usize>() {
        Ok(index) => format!("{path}[{index}]"),
        Err(_) if path.is_empty() => part.to_owned(),
        Err(_) => format!("{path}.{part}"),
    });
    if path.is_empty() { "$".to_owned() } else { path }
}

fn schema_error(pointer: &str, error: &ValidationError<'_>, value: &Value) -> FieldError {
    let shown = match value.pointer(pointer) {
        Some(Value::Array(_)) => "[…]".to_owned(),
        Some(Value::Object(_)) => "{…}".to_owned(),
        Some(plain) => plain.to_string(),
        None => String::new(),
    };
    // A message shows the value it is about, which may be the most of the file.
    let message = error.to_string();
    let message = if message.chars().count() > MAX_SHOWN { error.masked().to_string() } else { message };
    let remedy = "Compare this place with the published schema of the bundle.";
    FieldError::new(field_path(pointer), FieldErrorCode::Invalid, shown, format!("{message}."), remedy)
}

/// Longer messages are said without the value.
const MAX_SHOWN: usize = 300;

fn check(wire: WireBundle) -> Result<Bundle, Vec<FieldError>> {
    let mut errors = Faults::default();
    let mut conditions = Vec::new();
    for (index, input) in wire.conditions.iter().enumerate() {
        if errors.is_full() {
            break;
        }
        match Condition::check(input) {
            Ok(mut condition) => {
                condition.prevalence.iter_mut().for_each(|report| report.sample |= wire.sample);
                conditions.push(condition);
            }
            Err(found) => errors.add(&format!("conditions[{index}]."), found),
        }
    }
    let mut structures = Vec::new();
    for (index, input) in wire.structures.iter().enumerate() {
        if errors.is_full() {
            break;
        }
        match Structure::check(input) {
            Ok(structure) => structures.push(structure),
            Err(found) => errors.add(&format!("structures[{index}]."), found),
        }
    }
    let mut references = Vec::new();
    for (index, WireReference { reference, sample }) in wire.references.iter().enumerate() {
        if errors.is_full() {
            break;
        }
        match Reference::check(reference) {
            Ok(reference) => references.push(BundleReference { reference, sample: wire.sample || *sample }),
            Err(found) => errors.add(&format!("references[{index}].reference."), found),
        }
    }
    let misplaced = |field: &str, place: Option<usize>, what: &str, n: usize| {
        place.filter(|place| *place >= n).map(|place| {
            let message = format!("The file holds {n} {what}.");
            FieldError::new(field, FieldErrorCode::Unknown, place, message, "Give the place, from 0, of one of them.")
        })
    };
    let mut studies = Vec::new();
    for (index, WireStudy { study, work, appraisals, sample }) in wire.studies.iter().enumerate() {
        if errors.is_full() {
            break;
        }
        let faults = misplaced("work", *work, "references", wire.references.len());
        errors.add(&format!("studies[{index}]."), faults.into_iter().collect());
        let mut appraised = BTreeMap::new();
        for (aspect, appraisal) in appraisals {
            match Appraisal::check(*aspect, appraisal) {
                Ok(appraisal) => drop(appraised.insert(*aspect, appraisal)),
                Err(found) => errors.add(&format!("studies[{index}].appraisals.{}.", aspect.code()), found),
            }
        }
        match Study::check(study) {
            Ok(study) => studies.push(Some(BundleStudy {
                study: study.published_as(None),
                sample: wire.sample || *sample,
                work: *work,
                appraisals: appraised,
            })),
            Err(found) => {
                studies.push(None);
                errors.add(&format!("studies[{index}].study."), found);
            }
        }
    }
    let mut used: HashSet<usize> = HashSet::new();
    let mut tests = Vec::new();
    let mut taken: HashMap<String, usize> = HashMap::new();
    for (index, test) in wire.tests.into_iter().enumerate() {
        if errors.is_full() {
            break;
        }
        let sheet =
            Sheet::check(&test.sheet).map_err(|found| errors.add(&format!("tests[{index}].sheet."), found)).ok();
        if let Some(sheet) = &sheet {
            for (position, name) in sheet.names().enumerate() {
                if let Some(other) = taken.insert(name_key(name), index).filter(|other| *other != index) {
                    let field = if position == 0 { "name".to_owned() } else { format!("aliases[{}]", position - 1) };
                    let message = format!("tests[{other}] already has this name or alias.");
                    let remedy = "Rename one, or join the two tests.";
                    let error = FieldError::new(field, FieldErrorCode::Duplicate, name, message, remedy);
                    errors.add(&format!("tests[{index}].sheet."), vec![error]);
                }
            }
        }
        let test_results = test.results.len();
        let mut results = Vec::new();
        for (number, WireResult { study, result, together, sample }) in test.results.into_iter().enumerate() {
            let place = format!("tests[{index}].results[{number}].");
            let lost = misplaced("study", Some(study), "studies", studies.len());
            errors.add(&place, lost.into_iter().collect());
            used.insert(study);
            if result.together.is_some() {
                let message = "A file knows other tests by their names, not by their numbers.";
                let remedy = "Give their names under `together` beside `result`.";
                let error = FieldError::new("result.together", FieldErrorCode::Invalid, "", message, remedy);
                errors.add(&place, vec![error]);
            }
            if let Some(BundleTogether { tests, rule }) = &together {
                let mut seen: HashSet<String> = sheet.iter().flat_map(Sheet::names).map(name_key).collect();
                let mut faults: Vec<FieldError> = rule.check(tests.len()).err().into_iter().collect();
                for (position, name) in tests.iter().enumerate().filter(|(_, name)| !seen.insert(name_key(name))) {
                    let field = format!("together.tests[{position}]");
                    let message = "This test is named already, or the result stands at it.";
                    let remedy = "Name each of the others once.";
                    faults.push(FieldError::new(field, FieldErrorCode::Duplicate, name, message, remedy));
                }
                errors.add(&place, faults);
            }
            match AccuracyResult::check(&result) {
                Ok(result) => {
                    if let Some(Some(of)) = studies.get(study)
                        && let Err(error) = result.fits(&of.study)
                    {
                        errors.add(&format!("studies[{study}].study."), vec![error]);
                    }
                    let together = together.filter(|it| !it.tests.is_empty());
                    results.push(BundleResult { study, result, together, sample: wire.sample || sample });
                }
                Err(found) => errors.add(&format!("{place}result."), found),
            }
        }
        let mut agreements = Vec::new();
        for (number, WireAgreement { study, agreement, sample }) in test.agreements.iter().enumerate() {
            let lost = misplaced("study", Some(*study), "studies", studies.len());
            errors.add(&format!("tests[{index}].agreements[{number}]."), lost.into_iter().collect());
            used.insert(*study);
            match Agreement::check(agreement) {
                Ok(agreement) => {
                    agreements.push(BundleAgreement { study: *study, agreement, sample: wire.sample || *sample });
                }
                Err(found) => errors.add(&format!("tests[{index}].agreements[{number}].agreement."), found),
            }
        }
        let mut extractions = Vec::new();
        for (number, extraction) in test.extractions.into_iter().enumerate() {
            let place = format!("tests[{index}].extractions[{number}].");
            let lost = misplaced("work", extraction.work, "references", wire.references.len());
            errors.add(&place, lost.into_iter().collect());
            let lost = misplaced("result", extraction.result, "results of this test", test_results);
            errors.add(&place, lost.into_iter().collect());
            match check_extraction(extraction, wire.sample) {
                Ok(extraction) => extractions.push(extraction),
                Err(found) => errors.add(&place, found),
            }
        }
        let sample = wire.sample || test.sample;
        tests.extend(sheet.map(|sheet| BundleTest { sheet, sample, results, agreements, extractions }));
    }
    // Where reading ended early, studies may seem unused.
    let all_read = !errors.is_full();
    for index in (0..wire.studies.len()).filter(|index| all_read && !used.contains(index)) {
        let remedy = "Give it a result, or leave it out.";
        let message = "No result of any test belongs to this study.";
        errors
            .add("", vec![FieldError::new(format!("studies[{index}]"), FieldErrorCode::Invalid, "", message, remedy)]);
    }
    let mut teaching_conflicts = Vec::new();
    for (index, WireConflict { conflict, tests, sample }) in wire.teaching_conflicts.into_iter().enumerate() {
        if errors.is_full() {
            break;
        }
        // Numbers of tests mean nothing in a file.
        let sample = wire.sample || sample;
        match TeachingConflict::check(&TeachingConflictInput { tests: Vec::new(), ..conflict }) {
            Ok(conflict) => teaching_conflicts.push(BundleConflict { conflict, tests, sample }),
            Err(found) => errors.add(&format!("teaching_conflicts[{index}].conflict."), found),
        }
    }
    let mut plans = Vec::new();
    for (index, plan) in wire.plans.into_iter().enumerate() {
        if errors.is_full() {
            break;
        }
        match check_plan(plan, wire.sample) {
            Ok(plan) => plans.push(plan),
            Err(found) => errors.add(&format!("plans[{index}]."), found),
        }
    }
    if !errors.is_empty() {
        return Err(errors.into_told());
    }
    let studies = studies.into_iter().flatten().collect();
    let (title, sample) = (wire.title, wire.sample);
    Ok(Bundle { title, sample, conditions, structures, references, studies, tests, teaching_conflicts, plans })
}

fn check_extraction(wire: WireExtraction, all_sample: bool) -> Result<BundleExtraction, Vec<FieldError>> {
    let WireExtraction { work, reference, asked, result, readings: given, settled, sample } = wire;
    let mut errors = Vec::new();
    let mut readings = Vec::new();
    let n = given.len();
    if n != 0 && n != 2 {
        let message = format!("{n} people read it; a file holds what two read, or nothing.");
        errors.push(FieldError::new(
            "readings",
            FieldErrorCode::Invalid,
            n,
            message,
            "Leave out extractions that only one person made.",
        ));
    }
    if settled.is_some() && (n != 2 || result.is_none()) {
        let message = "An adjudicated extraction needs two readings and its result.";
        let remedy = "Give both, or leave out how it was adjudicated.";
        errors.push(FieldError::new("settled", FieldErrorCode::Invalid, "", message, remedy));
    }
    for (place, WireReading { reader, mut study, result }) in given.into_iter().enumerate() {
        study.reference.clone_from(&reference);
        study.reference_id = None;
        match Extraction::check(&ExtractionInput { study, result }) {
            Ok(extraction) => readings.push(BundleReading { reader, extraction }),
            Err(found) => errors.extend(found.into_iter().map(|error| error.within(&format!("readings[{place}].")))),
        }
    }
    let sample = all_sample || sample;
    if errors.is_empty() {
        Ok(BundleExtraction { work, reference, asked, result, readings, settled, sample })
    } else {
        Err(errors)
    }
}

/// Where something of an upgraded file stood before.
#[derive(Default)]
struct Places(Vec<(String, String)>);

impl Places {
    fn moved(&mut self, now: String, before: &str) {
        self.0.push((now, before.to_owned()));
    }

    fn in_the_file(&self, field: &str) -> String {
        let found = self.0.iter().find_map(|(now, before)| {
            let rest = field.strip_prefix(now.as_str()).filter(|rest| rest.is_empty() || rest.starts_with(['.', '[']));
            rest.map(|rest| format!("{before}{rest}"))
        });
        found.unwrap_or_else(|| field.to_owned())
    }
}

/// A bundle of version 1 in the words of the next one. There each result carried the words of its study; each gets a study of its
/// own, since the file does not say which are of the same people. What is not understood is left where the check finds it.
fn studies_apart(value: &mut Value, places: &mut Places) {
    fn part(object: &mut Value, names: &[&str]) -> Value {
        let taken = names.iter().filter_map(|name| Some(((*name).to_owned(), object.as_object_mut()?.remove(*name)?)));
        Value::Object(taken.collect())
    }
    let mut studies = Vec::new();
    for (index, test) in value["tests"].as_array_mut().into_iter().flatten().enumerate() {
        for (list, inner) in [("studies", "result"), ("agreements", "agreement")] {
            let Some(mut given) = test.as_object_mut().and_then(|test| test.remove(list)) else { continue };
            let now = if list == "studies" { "results" } else { list };
            for (number, item) in given.as_array_mut().into_iter().flatten().enumerate() {
                let mut study = part(item, &["work", "sample"]);
                let (before, result) =
                    (format!("tests[{index}].{list}[{number}]"), format!("tests[{index}].{now}[{number}]"));
                let mut body = match inner {
                    "result" => item.take(),
                    _ => item.get_mut(inner).map(Value::take).unwrap_or_default(),
                };
                study["study"] = part(&mut body, &["reference", "population", "setup"]);
                let setup = study["study"].get_mut("setup").and_then(Value::as_object_mut);
                let unit = setup.and_then(|setup| setup.remove("unit"));
                if let (Some(unit), Some(body)) = (unit, body.as_object_mut()) {
                    body.insert("unit".to_owned(), unit);
                }
                let written = if inner == "result" { before.clone() } else { format!("{before}.{inner}") };
                places.moved(format!("studies[{}].study", studies.len()), &written);
                places.moved(format!("studies[{}]", studies.len()), &before);
                places.moved(format!("{result}.{inner}"), &written);
                places.moved(result, &before);
                *item =
                    json!({ "study": studies.len(), inner: body, "sample": study.get("sample") == Some(&json!(true)) });
                studies.push(study);
            }
            places.moved(format!("tests[{index}].{now}"), &format!("tests[{index}].{list}"));
            test[now] = given;
        }
    }
    value["studies"] = json!(studies);
}

/// A bundle of version 2 in the words of the current one: hands become contacts, equipment gets a place for its reason.
fn hands_as_contacts(value: &mut Value, places: &mut Places) {
    for (index, test) in value["tests"].as_array_mut().into_iter().flatten().enumerate() {
        let variants = test.pointer_mut("/sheet/variants").and_then(Value::as_array_mut).into_iter().flatten();
        for (number, variant) in variants.enumerate() {
            let Some(variant) = variant.as_object_mut() else { continue };
            let place = format!("tests[{index}].sheet.variants[{number}]");
            if let Some(mut hands) = variant.remove("hands") {
                for (nth, hand) in hands.as_array_mut().into_iter().flatten().enumerate() {
                    let Some(hand) = hand.as_object_mut() else { continue };
                    places.moved(format!("{place}.contacts[{nth}].tasks[0]"), &format!("{place}.hands[{nth}].task"));
                    let task = hand.remove("task").filter(|task| !task.is_null());
                    hand.insert("tasks".to_owned(), json!(task.into_iter().collect::<Vec<_>>()));
                }
                variant.insert("contacts".to_owned(), hands);
                places.moved(format!("{place}.contacts"), &format!("{place}.hands"));
            }
            for thing in variant.get_mut("equipment").and_then(Value::as_array_mut).into_iter().flatten() {
                if thing.is_string() {
                    *thing = json!({ "name": thing.take() });
                }
            }
        }
    }
}
