//! The exchange bundle: an open JSON format whose published schema (docs/schema) is also its first check, so that
//! the document other programs read and the rule this one applies cannot drift apart.

use std::collections::HashMap;
use std::sync::OnceLock;

use jsonschema::Validator;
use pruvex_core::catalogue::{Condition, ConditionInput, Sheet, SheetInput, name_key};
use pruvex_core::evidence::{Study, StudyInput};
use pruvex_core::{FieldError, FieldErrorCode};
use serde::Deserialize;
use serde_json::Value;

const SCHEMA: &str = include_str!("../../../docs/schema/bundle-v0.schema.json");
const FORMAT: &str = "pruvex-bundle";
const VERSION: u64 = 0;

/// Ten times the largest bundle the schema's limits are meant for; more is refused before it is parsed.
pub const MAX_BUNDLE_BYTES: usize = 20 * 1024 * 1024;

/// A checked bundle.
#[derive(Debug, Clone, PartialEq)]
pub struct Bundle {
    /// What it is.
    pub title: String,
    /// Whether its studies are made up.
    pub sample: bool,
    /// Target conditions.
    pub conditions: Vec<Condition>,
    /// Tests with their studies.
    pub tests: Vec<BundleTest>,
}

/// One test of a bundle.
#[derive(Debug, Clone, PartialEq)]
pub struct BundleTest {
    /// Its sheet.
    pub sheet: Sheet,
    /// Its studies.
    pub studies: Vec<Study>,
}

#[derive(Deserialize)]
struct WireBundle {
    title: String,
    sample: bool,
    conditions: Vec<ConditionInput>,
    tests: Vec<WireTest>,
}

#[derive(Deserialize)]
struct WireTest {
    #[serde(flatten)]
    sheet: HashMap<String, Value>,
    #[serde(default)]
    studies: Vec<StudyInput>,
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
    SCHEMA_VALIDATOR
        .get_or_init(|| serde_json::from_str(SCHEMA).ok().and_then(|schema| jsonschema::validator_for(&schema).ok()))
        .as_ref()
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
    let mut tests = Vec::new();
    let mut taken: HashMap<String, usize> = HashMap::new();
    for (index, test) in wire.tests.into_iter().enumerate() {
        let sheet =
            serde_json::from_value::<SheetInput>(test.sheet.into_iter().collect::<serde_json::Map<_, _>>().into())
                .unwrap_or_default();
        let studies: Vec<_> = test.studies.iter().map(Study::check).collect();
        let sheet = Sheet::check(&sheet).map_err(|found| keep(format!("tests[{index}]."), found)).ok();
        if let Some(sheet) = &sheet {
            for (position, name) in sheet.names().enumerate() {
                if let Some(other) = taken.insert(name_key(name), index).filter(|other| *other != index) {
                    let field = if position == 0 { "name".to_owned() } else { format!("aliases[{}]", position - 1) };
                    let message = format!("tests[{other}] already has this name or alias.");
                    let remedy = "Rename one, or join the two tests.";
                    let error = FieldError::new(field, FieldErrorCode::Duplicate, name, message, remedy);
                    keep(format!("tests[{index}]."), vec![error]);
                }
            }
        }
        let mut checked = Vec::new();
        for (number, study) in studies.into_iter().enumerate() {
            match study {
                Ok(study) => checked.push(study),
                Err(found) => keep(format!("tests[{index}].studies[{number}]."), found),
            }
        }
        tests.extend(sheet.map(|sheet| BundleTest { sheet, studies: checked }));
    }
    if errors.is_empty() {
        Ok(Bundle { title: wire.title, sample: wire.sample, conditions, tests })
    } else {
        Err(errors)
    }
}
