//! Studies of tests that were read together: of the very rule, which outrank every calculation, and similar ones.

use std::collections::{BTreeSet, HashMap};
use std::sync::Arc;

use pruvex_core::accuracy::Counts;
use pruvex_core::evidence::{Candidate, Rule, counted_already, does_not_answer};
use pruvex_core::pooling::{IntervalChoice, Summary, Warning};
use pruvex_core::{ResultId, TestId};
use pruvex_store::evidence as store;
use pruvex_store::evidence::ResultRecord;
use serde::Serialize;
use utoipa::ToSchema;

use crate::blocking::blocking;
use crate::catalogue::named;
use crate::people::{Reader, seen_by};
use crate::pooling::{Evidence, reports};
use crate::{App, AppError};

/// Studies of the very rule, pooled.
#[derive(Debug, Serialize, ToSchema)]
pub struct PublishedRule {
    evidence: Evidence,
    /// Studies that count.
    studies: usize,
    /// At least one of them is made up.
    pub(super) sample: bool,
    /// `null` without a study.
    summary: Option<Summary>,
    /// What must be said beside the figures.
    warnings: Vec<Warning>,
    /// The results behind it.
    results: Vec<ResultId>,
    /// Their reports, in the same order.
    reports: Vec<String>,
}

/// A result of another rule or of another set of tests.
#[derive(Debug, Serialize, ToSchema)]
pub struct SimilarResult {
    result: ResultId,
    /// The test that it stands at.
    test: TestId,
    report: String,
    /// Names of all tests that were read together.
    tests: Vec<String>,
    /// When they count as positive.
    rule: Rule,
    /// The same tests by another rule; otherwise other tests.
    same_tests: bool,
    sample: bool,
    /// What its counts say by themselves.
    summary: Option<Summary>,
}

/// From how many positive tests of these on the rule is positive.
fn at_least(rule: Rule, tests: usize) -> usize {
    match rule {
        Rule::Any => 1,
        Rule::All => tests,
        Rule::AtLeast(k) => usize::from(k),
    }
}

/// All tests that a result read together, its own among them.
fn set(record: &ResultRecord) -> BTreeSet<TestId> {
    let others = record.result.together.iter().flat_map(|it| it.tests.iter().copied());
    others.chain([record.test_id]).collect()
}

/// What studies found of tests read together: of this rule over these tests, and of others that have at least two of the tests.
pub(super) async fn published(
    app: &App,
    by: &Reader,
    tests: &[TestId],
    k: usize,
    condition: &str,
    interval: IntervalChoice,
) -> Result<(PublishedRule, Vec<SimilarResult>), AppError> {
    let wanted: BTreeSet<TestId> = tests.iter().copied().collect();
    let records = store::list_together(&app.db, tests, seen_by(by.role(), &app.db).await?).await?;
    let near = |record: &ResultRecord| set(record).intersection(&wanted).count() >= 2;
    let mut records: Vec<ResultRecord> = records.into_iter().filter(near).collect();
    let names = named(app, by.role(), records.iter().flat_map(set)).await?;
    let catalogue = app.catalogue().await?;
    let taught: HashMap<TestId, &str> =
        catalogue.rows(by.role()).filter(|row| row.leading).map(|row| (row.id, row.condition.as_str())).collect();
    // What a reader may not see, and what is about another condition, is not there.
    records.retain(|record| {
        let taught = taught.get(&record.test_id);
        taught.is_some_and(|taught| does_not_answer(&record.result.condition, taught, false, condition).is_none())
    });
    let studies = store::get_studies(&app.db, records.iter().map(|it| it.study_id)).await?;
    // Local figures are pooled by choice only, and here nobody can choose them.
    records.retain(|it| studies.get(&it.study_id).is_none_or(|it| !it.study.setup.own_records()));
    let reports = reports(&studies, &app.db).await?;
    let rule = |record: &ResultRecord| record.result.together.as_ref().map(|it| at_least(it.rule, set(record).len()));
    let (same, others): (Vec<ResultRecord>, Vec<ResultRecord>) =
        records.into_iter().partition(|record| set(record) == wanted && rule(record) == Some(k));
    let candidates: Vec<Candidate<'_>> = same
        .iter()
        .map(|it| Candidate { study: it.study_id, group: &it.result.group, preferred: it.result.preferred })
        .collect();
    let already = counted_already(&candidates);
    let part: Vec<&ResultRecord> = same.iter().zip(already).filter(|(_, already)| !already).map(|(it, _)| it).collect();
    let counts: Vec<Counts> = part.iter().map(|it| it.result.counts).collect();
    let report = |record: &ResultRecord| reports.get(&record.study_id).cloned().unwrap_or_default();
    let alone: Vec<Counts> = others.iter().map(|it| it.result.counts).collect();
    let (pools, of_all) = (Arc::clone(&app.pools), counts.clone());
    let (pooled, each) = blocking(move || {
        let each: Vec<Option<Summary>> =
            alone.iter().map(|counts| pools.of(&[*counts], interval).map(|it| it.summary)).collect();
        (if of_all.is_empty() { None } else { pools.of(&of_all, interval) }, each)
    })
    .await?;
    let published = PublishedRule {
        evidence: Evidence::of(counts.len()),
        studies: counts.len(),
        sample: part.iter().any(|it| it.sample),
        summary: pooled.as_ref().map(|it| it.summary),
        warnings: pooled.map(|it| it.warnings.clone()).unwrap_or_default(),
        results: part.iter().map(|it| it.id).collect(),
        reports: part.iter().map(|it| report(it)).collect(),
    };
    let similar = others.iter().zip(each).filter_map(|(record, summary)| {
        let of = set(record);
        Some(SimilarResult {
            result: record.id,
            test: record.test_id,
            report: report(record),
            tests: of.iter().filter_map(|id| names.get(id).map(|it| it.name.clone())).collect(),
            rule: record.result.together.as_ref()?.rule,
            same_tests: of == wanted,
            sample: record.sample,
            summary,
        })
    });
    Ok((published, similar.collect()))
}
