//! Records as a table: a row for each test of each finished examination.

use pruvex_core::examination::{Attempt, OutcomeTest};
use pruvex_formats::{code_words, shown_words, why_not, write_csv};
use pruvex_store::examination::{self as store, ExaminationRecord, ExaminationsAsked};

use super::records::{ExaminationFilter, words};
use crate::people::Reader;
use crate::{App, AppError, FileContent, media};

/// More are not written at once.
const MOST: u64 = 20_000;
const HEADER: [&str; 24] = [
    "label",
    "finished",
    "region",
    "plan",
    "plan_version",
    "affected_side",
    "test",
    "variant",
    "sheet_version",
    "outcome",
    "level",
    "attempts",
    "as_entered",
    "pain",
    "held_seconds",
    "positive_after_repeats",
    "positive_on_sound_side",
    "not_done_because",
    "probabilities",
    "conclusion",
    "action",
    "next",
    "deadline",
    "sample_data",
];

/// The finished examinations that are asked for as CSV, with a row for each of their tests; the first 20 000.
///
/// # Errors
/// A search that is too long.
pub async fn export_examinations(
    app: &App,
    by: &Reader,
    filter: &ExaminationFilter<'_>,
) -> Result<FileContent, AppError> {
    let wanted = words(filter.search)?;
    let words: Vec<&str> = wanted.split_whitespace().collect();
    let &ExaminationFilter { state, region, plan, .. } = filter;
    let asked = ExaminationsAsked { state, region, plan, words: &words };
    let records = store::read_examinations(&app.db, by.id(), &asked, MOST).await?;
    let rows = records.iter().flat_map(lines);
    let table: Vec<Vec<String>> = std::iter::once(HEADER.map(str::to_owned).to_vec()).chain(rows).collect();
    let text = write_csv(&table).map_err(AppError::internal)?;
    Ok(FileContent::new(text, "pruvex-examinations.csv", media::CSV))
}

fn lines(of: &ExaminationRecord) -> Vec<Vec<String>> {
    let Some(outcome) = &of.outcome else { return Vec::new() };
    let conclusion = &of.conduct.conclusion;
    let probabilities = outcome.questions.iter().map(|it| {
        let [before, after, lower, upper] =
            [it.pre_test, it.after.estimate, it.after.lower, it.after.upper].map(|p| format!("{:.4}", p.get()));
        format!("{}: {before} to {after} ({lower} to {upper})", it.condition)
    });
    let probabilities = probabilities.collect::<Vec<_>>().join("; ");
    let or_empty = |it: Option<String>| it.unwrap_or_default();
    let line = |test: &OutcomeTest| {
        let conducted = of.conduct.of(test.test);
        let attempts = conducted.map(|it| it.attempts.as_slice()).unwrap_or_default();
        let counted: Option<&Attempt> = test.reading.counts.and_then(|place| attempts.get(place)).or(attempts.last());
        let why = test.reading.outcome.is_none().then(|| why_not(test, conducted));
        vec![
            of.label.clone(),
            or_empty(of.finished_at.map(|at| at.format("%Y-%m-%d").to_string())),
            of.plan.region.code().to_owned(),
            of.plan.title.clone(),
            of.plan_version.to_string(),
            or_empty(of.conduct.affected_side.map(|side| code_words("affected_sides", side))),
            test.name.clone(),
            test.variant.clone(),
            or_empty(test.sheet.map(|version| version.to_string())),
            or_empty(test.reading.outcome.map(|outcome| code_words("outcomes", outcome))),
            or_empty(test.reading.level.clone()),
            attempts.len().to_string(),
            or_empty(counted.map(shown_words)),
            or_empty(counted.and_then(|it| it.pain).map(|pain| code_words("pain_found", pain))),
            or_empty(counted.and_then(|it| it.held).map(|held| held.to_string())),
            test.reading.after_repeats.to_string(),
            test.reading.sound_side_too.to_string(),
            or_empty(why),
            probabilities.clone(),
            if conclusion.undecided { format!("undecided {}", conclusion.text) } else { conclusion.text.clone() },
            or_empty(conclusion.action.map(|action| code_words("actions", action))),
            conclusion.next.clone(),
            or_empty(conclusion.deadline.map(|day| day.to_string())),
            (of.sample || outcome.sample).to_string(),
        ]
    };
    outcome.tests.iter().map(line).collect()
}
