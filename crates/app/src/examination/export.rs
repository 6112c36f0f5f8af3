//! Records as a table: a row for each test of each finished examination.

use pruvex_core::TestId;
use pruvex_core::examination::{Attempt, ExaminationOutcome, OutcomeQuestion, OutcomeStep, OutcomeTest};
use pruvex_formats::{code_words, shown_words, why_not, write_csv};
use pruvex_store::examination::{self as store, ExaminationRecord, ExaminationsAsked};

use super::records::{ExaminationFilter, words};
use crate::blocking::blocking;
use crate::people::Reader;
use crate::{App, AppError, FileContent, media};

/// More are not written at once.
const MOST: u64 = 20_000;
/// Others are answered between them.
const PORTION: u64 = 500;
const HEADER: [&str; 25] = [
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
    "ratios",
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
    let mut table = vec![HEADER.map(str::to_owned).to_vec()];
    for portion in 0..MOST / PORTION {
        let records = store::read_examinations(&app.db, by.id(), &asked, portion * PORTION, PORTION).await?;
        let last = (records.len() as u64) < PORTION;
        table.extend(blocking(move || records.iter().flat_map(lines).collect::<Vec<_>>()).await?);
        if last {
            break;
        }
    }
    let text = blocking(move || write_csv(&table)).await?.map_err(AppError::internal)?;
    Ok(FileContent::new(text, "pruvex-examinations.csv", media::CSV))
}

/// What a test's result was worth for each condition that it spoke of, on the day of the record.
fn ratios(outcome: &ExaminationOutcome, test: TestId) -> String {
    let of = |question: &OutcomeQuestion| {
        let step = question.steps.iter().find(|it| it.test == test)?;
        let OutcomeStep { ratio, studies, figures, .. } = step;
        let ratio = ratio.map_or("LR not estimable".to_owned(), |it| {
            let [estimate, lower, upper] = [it.estimate, it.lower, it.upper].map(|it| format!("{:.4}", it.get()));
            format!("LR {estimate} ({lower} to {upper})")
        });
        Some(format!("{}: {ratio}, studies {studies}, figures {figures}", question.condition))
    };
    outcome.questions.iter().filter_map(of).collect::<Vec<_>>().join("; ")
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
            ratios(outcome, test.test),
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
