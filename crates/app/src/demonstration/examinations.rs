//! Two made-up examinations by the sample plan of the pelvis: one that ends in treatment, and one that cannot decide.

use chrono::{Days, Utc};
use pruvex_core::catalogue::{Region, Status, name_key};
use pruvex_store::catalogue::tests_by_any_name;
use pruvex_store::examination::has_examinations;
use pruvex_store::plan::{PlanReader, list_plan_summaries};
use serde_json::{Value, json};
use uuid::Uuid;

use crate::examination::{begin_examination, finish_examination, save_examination, share_examination};
use crate::people::{Reader, SheetWriter};
use crate::{App, AppError, Versioned as _};

const SPREAD: &str = "Pelvis spread, lying face up";
const THIGH: &str = "Push through the bent thigh";
const SQUEEZE: &str = "Pelvis squeezed, lying on the side";
const SACRUM: &str = "Sacrum pressed, face down";
const LEG: &str = "Straight leg lifted off the couch";

/// The sample plan, if it is there.
pub(super) async fn sample_plan(app: &App) -> Result<Option<Uuid>, AppError> {
    let plans = list_plan_summaries(&app.db, PlanReader::Drafts, Some(Region::Pelvis)).await?;
    Ok(plans.into_iter().find(|it| it.sample && it.status == Status::Published).map(|it| it.id))
}

pub(super) async fn examine(app: &App, by: &Reader, author: &SheetWriter, plan: Uuid) -> Result<(), AppError> {
    if has_examinations(&app.db, by.id()).await? {
        return Ok(());
    }
    let ids = tests_by_any_name(&app.db, [SPREAD, THIGH, SQUEEZE, SACRUM, LEG].into_iter()).await?;
    let day = |days: u64| Utc::now().date_naive().checked_add_days(Days::new(days));
    let attempt = |side: &str, shown: &str, pain: &str| json!({ "side": side, "shown": shown, "pain": pain });
    let test = |name: &str, attempts: Vec<Value>| {
        let id = ids.get(&name_key(name)).map(|test| test.id);
        json!({ "test": id, "attempts": attempts })
    };
    let treated = json!({
        "affected_side": "right",
        "asked": ["Break of the pelvic ring"],
        "tests": [
            test(LEG, vec![attempt("sound", "negative", "none"), attempt("affected", "negative", "none")]),
            test(SPREAD, vec![json!({ "side": "both", "shown": "positive", "pain": "familiar", "held": 12.0, "pain_ended": true })]),
            test(THIGH, vec![attempt("sound", "negative", "none"), attempt("affected", "positive", "familiar")]),
            test(SQUEEZE, vec![attempt("both", "positive", "familiar")]),
        ],
        "conclusion": {
            "text": "The sacroiliac region of the right side gives the familiar pain in three of four tests (sample data).",
            "action": "treat",
            "next": "belt and graded loading by the local protocol",
            "treatment": "Loading from the less painful side first.",
            "training": "No jumping for two weeks; walking as it bears it.",
        },
        "repeats": [{ "test": ids.get(&name_key(THIGH)).map(|test| test.id), "on": day(14), "trigger": "After two weeks of loading",
            "keep_same": "Time of day, same examiner" }],
    });
    let undecided = json!({
        "affected_side": "left",
        "asked": ["Break of the pelvic ring"],
        "tests": [
            test(LEG, vec![attempt("sound", "negative", "none"), attempt("affected", "negative", "other")]),
            test(SPREAD, vec![json!({ "side": "both", "shown": "not_interpretable", "unreadable": "guarding", "pain": "other" })]),
            test(THIGH, vec![attempt("sound", "negative", "none"), attempt("affected", "negative", "none"),
                attempt("affected", "positive", "familiar")]),
            json!({ "test": ids.get(&name_key(SACRUM)).map(|test| test.id), "skipped": true, "reason": "The patient asked to stop." }),
        ],
        "conclusion": {
            "text": "Guarding; one test turned positive only when it was repeated (sample data).",
            "undecided": true,
            "action": "refer",
            "next": "second examination by a colleague",
            "deadline": day(7),
        },
    });
    for conduct in [treated, undecided] {
        let begun = begin_examination(app, by, read(json!({ "plan": plan }))?).await?;
        let (id, version) = (begun.id(), begun.version());
        let begun = serde_json::to_value(&begun).map_err(AppError::internal)?;
        let asked = begun["stands"]["fit"]["questions"].as_array().cloned().unwrap_or_default();
        let answers: serde_json::Map<String, Value> =
            asked.iter().filter_map(|it| Some((it["key"].as_str()?.to_owned(), json!("no")))).collect();
        let input = json!({ "patient": { "answers": answers }, "conduct": conduct });
        let saved = save_examination(app, by, id, version, read(input)?).await?;
        let done = finish_examination(app, by, id, saved.version()).await?;
        let shared = json!({ "shared": true, "identifies_nobody": true });
        share_examination(app, author, id, done.version(), &read(shared)?).await?;
    }
    Ok(())
}

fn read<T: serde::de::DeserializeOwned>(value: Value) -> Result<T, AppError> {
    serde_json::from_value(value).map_err(AppError::internal)
}
