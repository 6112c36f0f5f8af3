//! The exchange bundle: an open JSON format whose published schema (docs/schema) is generated from the types that read it and is
//! also their first check, so that the document other programs read and the rule this one applies cannot drift apart.

use std::collections::HashMap;
use std::sync::OnceLock;

use jsonschema::Validator;
use pruvex_core::catalogue::{Condition, ConditionInput, Sheet, SheetInput, Structure, StructureInput, name_key};
use pruvex_core::evidence::{Agreement, AgreementInput, Reference, ReferenceInput, Study, StudyInput, StudySetup};
use pruvex_core::{FieldError, FieldErrorCode, Probability};
use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};
use serde_json::{Value, json};
use utoipa::{OpenApi, ToSchema};

const FORMAT: &str = "pruvex-bundle";
const VERSION: u64 = 1;

/// More is refused before it is parsed.
pub const MAX_BUNDLE_BYTES: usize = 64 * 1024 * 1024;

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
    /// Tests with their studies.
    pub tests: Vec<BundleTest>,
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
    /// Its studies.
    pub studies: Vec<BundleStudy>,
    /// Its agreement results.
    pub agreements: Vec<BundleAgreement>,
}

/// One study of a bundle.
#[derive(Debug, Clone, PartialEq)]
pub struct BundleStudy {
    /// What it reports; its reference stands in the bundle.
    pub study: Study,
    /// It is made up.
    pub sample: bool,
    /// Place of its reference in the bundle.
    pub work: Option<usize>,
}

/// One agreement result of a bundle.
#[derive(Debug, Clone, PartialEq)]
pub struct BundleAgreement {
    /// What it reports; its reference stands in the bundle.
    pub agreement: Agreement,
    /// It is made up.
    pub sample: bool,
    /// Place of its reference in the bundle.
    pub work: Option<usize>,
}

/// Conditions, structures, references, tests and their studies. Imported whole or not at all.
#[derive(Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = Bundle)]
struct WireBundle {
    /// Always `pruvex-bundle`.
    format: String,
    /// Always 1.
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
    /// Tests with their studies.
    tests: Vec<WireTest>,
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

/// A test with its studies.
#[derive(Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = BundleTest)]
struct WireTest {
    /// Its sheet.
    sheet: SheetInput,
    /// The sheet is made up, in a file that is not made up as a whole.
    #[serde(default, skip_serializing_if = "is_false")]
    sample: bool,
    /// Its studies.
    #[serde(default)]
    studies: Vec<WireStudy>,
    /// How far examiners, or occasions, agree on it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    agreements: Vec<WireAgreement>,
}

/// An agreement result.
#[derive(Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = BundleAgreement)]
struct WireAgreement {
    /// What it reports.
    agreement: AgreementInput,
    /// Place, from 0, of its reference in `references`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    work: Option<usize>,
    /// It is made up, in a file that is not made up as a whole.
    #[serde(default, skip_serializing_if = "is_false")]
    sample: bool,
}

/// A study.
#[derive(Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = BundleStudy)]
struct WireStudy {
    /// Reference text: authors, year, title, journal.
    reference: String,
    /// Place, from 0, of its reference in `references`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    work: Option<usize>,
    /// Who was examined.
    #[serde(default)]
    population: String,
    /// How the study was done, as far as its report says.
    #[serde(default, skip_serializing_if = "StudySetup::is_empty")]
    setup: StudySetup,
    /// What decided who has the condition.
    #[serde(default)]
    reference_standard: String,
    /// Notes of who extracted it: page, table, how the counts came about.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    note: String,
    /// True positives; absent, like false negatives, when the study does not report people with the condition.
    tp: Option<f64>,
    /// False positives; absent, like true negatives, when the study does not report people without the condition.
    fp: Option<f64>,
    /// False negatives.
    #[serde(rename = "fn")]
    fn_: Option<f64>,
    /// True negatives.
    tn: Option<f64>,
    /// It is made up, in a file that is not made up as a whole.
    #[serde(default, skip_serializing_if = "is_false")]
    sample: bool,
}

#[allow(clippy::trivially_copy_pass_by_ref, reason = "serde hands out references")]
fn is_false(value: &bool) -> bool {
    !value
}

impl WireStudy {
    fn input(&self) -> StudyInput {
        StudyInput {
            reference: self.reference.clone(),
            reference_id: None,
            population: self.population.clone(),
            setup: self.setup.clone(),
            reference_standard: self.reference_standard.clone(),
            note: self.note.clone(),
            tp: self.tp,
            fp: self.fp,
            fn_: self.fn_,
            tn: self.tn,
        }
    }
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
        "$id": "urn:pruvex:schema:bundle:1",
        "title": "Pruvex exchange bundle, version 1",
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
            })
            .collect(),
        structures: bundle.structures.iter().map(as_input).collect::<Result<_, _>>()?,
        references: bundle.references.iter().map(reference).collect::<Result<_, serde_json::Error>>()?,
        tests: bundle
            .tests
            .iter()
            .map(|test| {
                let studies = test.studies.iter().map(|BundleStudy { study, sample, work }| {
                    let [tp, fp, fn_, tn] = study.counts.cells().map(|cell| cell.map(f64::from));
                    let Study { reference, population, setup, reference_standard, note, .. } = study.clone();
                    let sample = marked(*sample);
                    let work = *work;
                    WireStudy { reference, work, population, setup, reference_standard, note, tp, fp, fn_, tn, sample }
                });
                let agreements = test.agreements.iter().map(|BundleAgreement { agreement, sample, work }| {
                    WireAgreement { agreement: agreement.written().clone(), work: *work, sample: marked(*sample) }
                });
                let (sheet, sample) = (as_input(&test.sheet)?, marked(test.sample));
                Ok(WireTest { sheet, sample, studies: studies.collect(), agreements: agreements.collect() })
            })
            .collect::<Result<_, serde_json::Error>>()?,
    };
    serde_json::to_string_pretty(&wire).map(|text| text + "\n")
}

/// What is checked has the same fields as what was written.
fn as_input<T: Serialize, I: DeserializeOwned>(checked: &T) -> Result<I, serde_json::Error> {
    serde_json::from_value(serde_json::to_value(checked)?)
}

/// Reads and checks a bundle.
///
/// # Errors
/// Every fault, each with its path in the file, such as `tests[2].studies[0].tp`. A file that is no JSON, no
/// bundle or of another version gets one error about that.
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
    let value: Value = serde_json::from_slice(bytes).map_err(|error| {
        let remedy = "Export it again, or mend that place in a text editor.";
        vec![FieldError::new("$", FieldErrorCode::Invalid, "", format!("The file is not valid JSON: {error}."), remedy)]
    })?;
    check_header(&value)?;
    let errors: Vec<FieldError> = schema().map_or_else(Vec::new, |schema| {
        schema
            .iter_errors(&value)
            .map(|error| schema_error(&error.instance_path().to_string(), &error, &value))
            .collect()
    });
    if !errors.is_empty() {
        return Err(errors);
    }
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

fn schema() -> Option<&'static Validator> {
    static SCHEMA_VALIDATOR: OnceLock<Option<Validator>> = OnceLock::new();
    SCHEMA_VALIDATOR.get_or_init(|| jsonschema::validator_for(&bundle_schema()).ok()).as_ref()
}

fn check_header(value: &Value) -> Result<(), Vec<FieldError>> {
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
    if version.as_u64() != Some(VERSION) {
        let message = format!("Bundles of version {version} are not known; this program reads version {VERSION}.");
        return one("schema_version", version, message, "Export it again with a matching version of the program.");
    }
    Ok(())
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

fn schema_error(pointer: &str, message: &impl ToString, value: &Value) -> FieldError {
    let shown = value.pointer(pointer).map(Value::to_string).unwrap_or_default();
    let remedy = "Compare this place with the published schema of the bundle.";
    FieldError::new(field_path(pointer), FieldErrorCode::Invalid, shown, format!("{}.", message.to_string()), remedy)
}

fn check(wire: WireBundle) -> Result<Bundle, Vec<FieldError>> {
    let mut errors = Vec::new();
    let mut keep = |prefix: String, found: Vec<FieldError>| {
        errors.extend(found.into_iter().map(|error| error.within(&prefix)));
    };
    let mut conditions = Vec::new();
    for (index, input) in wire.conditions.iter().enumerate() {
        match Condition::check(input) {
            Ok(condition) => conditions.push(condition),
            Err(found) => keep(format!("conditions[{index}]."), found),
        }
    }
    let mut structures = Vec::new();
    for (index, input) in wire.structures.iter().enumerate() {
        match Structure::check(input) {
            Ok(structure) => structures.push(structure),
            Err(found) => keep(format!("structures[{index}]."), found),
        }
    }
    let mut references = Vec::new();
    for (index, WireReference { reference, sample }) in wire.references.iter().enumerate() {
        match Reference::check(reference) {
            Ok(reference) => references.push(BundleReference { reference, sample: wire.sample || *sample }),
            Err(found) => keep(format!("references[{index}].reference."), found),
        }
    }
    let misplaced = |work: Option<usize>| {
        let place = work.filter(|place| *place >= wire.references.len());
        let fault = |place| {
            let message = format!("The file holds {} references.", wire.references.len());
            let remedy = "Give the place, from 0, of one of them.";
            FieldError::new("work", FieldErrorCode::Unknown, place, message, remedy)
        };
        place.map(fault).into_iter().collect::<Vec<_>>()
    };
    let mut tests = Vec::new();
    let mut taken: HashMap<String, usize> = HashMap::new();
    for (index, test) in wire.tests.into_iter().enumerate() {
        let studies: Vec<_> = test
            .studies
            .iter()
            .map(|study| (Study::check(&study.input()), wire.sample || study.sample, study.work))
            .collect();
        let sheet = Sheet::check(&test.sheet).map_err(|found| keep(format!("tests[{index}].sheet."), found)).ok();
        if let Some(sheet) = &sheet {
            for (position, name) in sheet.names().enumerate() {
                if let Some(other) = taken.insert(name_key(name), index).filter(|other| *other != index) {
                    let field = if position == 0 { "name".to_owned() } else { format!("aliases[{}]", position - 1) };
                    let message = format!("tests[{other}] already has this name or alias.");
                    let remedy = "Rename one, or join the two tests.";
                    let error = FieldError::new(field, FieldErrorCode::Duplicate, name, message, remedy);
                    keep(format!("tests[{index}].sheet."), vec![error]);
                }
            }
        }
        let mut checked = Vec::new();
        for (number, (study, sample, work)) in studies.into_iter().enumerate() {
            keep(format!("tests[{index}].studies[{number}]."), misplaced(work));
            match study {
                Ok(study) => checked.push(BundleStudy { study, sample, work }),
                Err(found) => keep(format!("tests[{index}].studies[{number}]."), found),
            }
        }
        let mut agreements = Vec::new();
        for (number, WireAgreement { agreement, work, sample }) in test.agreements.iter().enumerate() {
            keep(format!("tests[{index}].agreements[{number}]."), misplaced(*work));
            match Agreement::check(agreement) {
                Ok(agreement) => agreements.push(BundleAgreement {
                    agreement: agreement.published_as(None),
                    sample: wire.sample || *sample,
                    work: *work,
                }),
                Err(found) => keep(format!("tests[{index}].agreements[{number}].agreement."), found),
            }
        }
        let sample = wire.sample || test.sample;
        tests.extend(sheet.map(|sheet| BundleTest { sheet, sample, studies: checked, agreements }));
    }
    if errors.is_empty() {
        Ok(Bundle { title: wire.title, sample: wire.sample, conditions, structures, references, tests })
    } else {
        Err(errors)
    }
}
