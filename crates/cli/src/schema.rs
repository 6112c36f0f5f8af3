//! `pruvex schema`: the JSON Schemas of every computing command's output and of bundles.

use pruvex_core::evidence::PooledPrevalence;
use pruvex_core::teach::Drill;
use serde_json::{Map, Value, json};
use utoipa::OpenApi;

use crate::accuracy::AccuracyOutput;
use crate::agreement::{MeasurementsOutput, ReportedOutput, SeveralRaterOutput, TwoRaterOutput};
use crate::bias::BiasOutput;
use crate::calibration::CalibrationOutput;
use crate::check::CheckedSheet;
use crate::combine::CombineOutput;
use crate::error::CliError;
use crate::levels::LevelsOutput;
use crate::plan::{PlanInput, PlanOutput};
use crate::pool::PoolOutput;
use crate::posttest::PosttestOutput;
use crate::rebuild::RebuildOutput;
use crate::verify::VerifyOutput;

#[derive(OpenApi)]
#[openapi(components(schemas(
    AccuracyOutput,
    BiasOutput,
    CalibrationOutput,
    CheckedSheet,
    CombineOutput,
    Drill,
    LevelsOutput,
    MeasurementsOutput,
    PlanInput,
    PlanOutput,
    PoolOutput,
    PooledPrevalence,
    PosttestOutput,
    RebuildOutput,
    ReportedOutput,
    SeveralRaterOutput,
    TwoRaterOutput,
    VerifyOutput,
)))]
struct Outputs;

/// What a schema is of.
#[derive(Debug, Clone, Copy, clap::ValueEnum)]
pub enum Of {
    /// What the computing commands print.
    Commands,
    /// The exchange bundle.
    Bundle,
}

pub fn document(of: Of) -> Result<String, CliError> {
    let schema = match of {
        Of::Commands => commands()?,
        Of::Bundle => pruvex_formats::bundle_schema(),
    };
    Ok(serde_json::to_string_pretty(&schema)?)
}

/// A document with one definition per command under `$defs`, named as the command.
fn commands() -> Result<Value, CliError> {
    let outputs = serde_json::to_value(Outputs::openapi())?;
    let mut definitions: Map<String, Value> = outputs["components"]["schemas"].as_object().cloned().unwrap_or_default();
    definitions.values_mut().for_each(pruvex_formats::relocate);
    let of = |name: &str| json!({ "$ref": format!("#/$defs/{name}") });
    let agreement = ["TwoRaterOutput", "SeveralRaterOutput", "MeasurementsOutput", "ReportedOutput"].map(of);
    let commands = [
        ("accuracy", json!({ "type": "array", "items": of("AccuracyOutput") })),
        ("agreement", json!({ "anyOf": agreement })),
        ("bias", of("BiasOutput")),
        ("calibration", of("CalibrationOutput")),
        ("check", json!({ "type": "array", "items": of("CheckedSheet") })),
        ("combine", of("CombineOutput")),
        ("drill", json!({ "type": "array", "items": of("Drill") })),
        ("levels", of("LevelsOutput")),
        ("plan", of("PlanOutput")),
        ("pool", of("PoolOutput")),
        ("posttest", of("PosttestOutput")),
        ("prevalence", of("PooledPrevalence")),
        ("rebuild", of("RebuildOutput")),
        ("verify", of("VerifyOutput")),
    ];
    definitions.extend(commands.map(|(name, schema)| (name.to_owned(), schema)));
    Ok(json!({
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "What the commands of pruvex print with --format json; validate against the definition named as the command",
        "$defs": definitions,
    }))
}
