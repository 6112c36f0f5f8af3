//! Pools as they were at a day: what went in, what came out, by which engine, and a hash over all of it.

use std::fmt::Write as _;

use serde::{Deserialize, Serialize};
use serde_json::Value;
use sha2::{Digest, Sha256};

use super::membership::WhyOut;
use super::selection::Selection;
use crate::accuracy::{Counts, RawCounts, ReferenceRange};
use crate::field::Checker;
use crate::pooling::{IntervalMethod, ModelChoice, PoolError, PoolOptions, Pooled, correct_summary, pool};
use crate::{Estimate, FieldError, Ratio, ResultId, TestId};

/// A test of a frozen pool.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct SnapshotTest {
    /// Its id.
    pub id: TestId,
    /// Its name that day.
    pub name: String,
}

/// A result of a frozen pool's tests.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct SnapshotResult {
    /// Its id.
    pub id: ResultId,
    /// Its version that day.
    pub version: i32,
    /// Its test.
    pub test: TestId,
    /// Short name of the report.
    pub report: String,
    /// Why it was not in the pool; none when it was.
    pub out: Option<WhyOut>,
    /// The four cells.
    pub counts: RawCounts,
}

/// A pool as it was at a day.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Snapshot {
    /// [`Snapshot::FORMAT`].
    pub format: String,
    /// What computed it, with its version.
    pub engine: String,
    /// When, RFC 3339.
    pub frozen_at: String,
    /// What it is called.
    pub title: String,
    /// What it is for.
    pub note: String,
    /// At least one made-up result is in it.
    pub sample: bool,
    /// The target condition.
    pub condition: String,
    /// Whose results.
    pub tests: Vec<SnapshotTest>,
    /// What was taken of them.
    pub selection: Selection,
    /// The model that was asked for.
    pub model: ModelChoice,
    /// How its intervals were made; not said in pools frozen before there was a choice, whose intervals are Wald's.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub interval: Option<IntervalMethod>,
    /// All results of the tests, those that were out included.
    pub results: Vec<SnapshotResult>,
    /// What came out.
    #[cfg_attr(feature = "openapi", schema(value_type = Pooled))]
    pub answer: Value,
    /// What it would be against the truth, if the reference standard errs as was stated; not said where nothing was stated.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub reference: Option<FrozenCorrection>,
}

/// A correction frozen beside a pool: a sensitivity analysis, no answer.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct FrozenCorrection {
    /// How the reference standard errs, as stated.
    pub errors: ReferenceRange,
    /// What the summary would be.
    #[cfg_attr(feature = "openapi", schema(value_type = crate::accuracy::CorrectedOverRange))]
    pub corrected: Value,
}

/// A frozen pool as it is written to a file.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct SnapshotFile {
    /// [`Snapshot::hash`] when it was frozen.
    pub hash: String,
    /// The pool.
    pub snapshot: Snapshot,
}

/// Why a frozen pool is not confirmed.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum NotConfirmed {
    /// Another format, or a later one.
    #[error("it is written as {0:?}, which this program does not read")]
    Format(String),
    /// It is not what was frozen.
    #[error("its content was changed after it was frozen: the hash is {found}, not {stated}")]
    Hash {
        /// What is stated.
        stated: String,
        /// What the content gives.
        found: String,
    },
    /// Its counts are no counts.
    #[error("the counts of result {0} cannot be read")]
    Counts(ResultId),
    /// Its results cannot be pooled.
    #[error(transparent)]
    Pool(#[from] PoolError),
    /// The computation gives something else.
    #[error("computed again, these differ: {}", .0.join("; "))]
    Differs(Vec<String>),
}

/// Difference up to which two computations of one figure agree.
#[derive(Debug, Clone, Copy)]
struct Tolerance {
    relative: f64,
    /// Numbers below this are compared as if they were this.
    floor: f64,
}

impl Tolerance {
    const OF_A_MAXIMUM: Self = Self { relative: 1e-8, floor: 1e-6 };
    /// A posterior is integrated where another processor's last digit may leave out a point at the edge: about what its integration is exact to.
    const OF_A_POSTERIOR: Self = Self { relative: 5e-3, floor: 0.2 };

    /// For what stands at a place of an answer with these intervals.
    fn at(place: &str, interval: Option<IntervalMethod>) -> Self {
        const SUMMARY: [&str; 7] =
            ["sensitivity", "specificity", "lr_positive", "lr_negative", "dor", "posterior", "reference"];
        let first = place.split('.').next().unwrap_or_default();
        if interval == Some(IntervalMethod::Posterior) && SUMMARY.contains(&first) {
            Self::OF_A_POSTERIOR
        } else {
            Self::OF_A_MAXIMUM
        }
    }

    fn allows(self, one: f64, other: f64) -> bool {
        (one - other).abs() <= self.relative * one.abs().max(other.abs()).max(self.floor)
    }
}

/// How the search went, not what it found.
const HOW: [&str; 3] = ["iterations", "gradient_norm", "stop"];

impl Snapshot {
    /// The format of this version of the program.
    pub const FORMAT: &'static str = "pruvex-pool-snapshot/1";

    /// The engine of this version of the program.
    #[must_use]
    pub fn engine() -> String {
        format!("pruvex-core {}", env!("CARGO_PKG_VERSION"))
    }

    /// Name and note of a frozen pool, tidied.
    ///
    /// # Errors
    /// Every fault, of `title` and `note`.
    pub fn check_words(title: &str, note: &str) -> Result<(String, String), Vec<FieldError>> {
        let mut c = Checker::default();
        let title = c.required("title", title, 200, "Say what it is cited for.");
        let note = c.text("note", note, 4_000);
        c.finish(Some((title, note)))
    }

    /// SHA-256 over the content, as lower-case hexadecimal digits: over its JSON without spaces, the members of every object in the order of
    /// their names, so that neither a database nor an editor that orders them otherwise changes it.
    #[must_use]
    pub fn hash(&self) -> String {
        let mut text = String::new();
        write_sorted(&serde_json::to_value(self).unwrap_or_default(), &mut text);
        Sha256::digest(text.as_bytes()).iter().fold(String::new(), |mut hash, byte| {
            let _ = write!(hash, "{byte:02x}");
            hash
        })
    }

    /// The counts of the results that were in, in their order.
    ///
    /// # Errors
    /// [`NotConfirmed::Counts`].
    pub fn counts(&self) -> Result<Vec<Counts>, NotConfirmed> {
        let part = self.results.iter().filter(|it| it.out.is_none());
        part.map(|it| Counts::check(it.counts).map_err(|_| NotConfirmed::Counts(it.id))).collect()
    }

    /// The answer, computed again from the counts.
    ///
    /// # Errors
    /// [`NotConfirmed::Counts`], [`NotConfirmed::Pool`].
    pub fn pooled(&self) -> Result<Pooled, NotConfirmed> {
        let interval = self.interval.unwrap_or(IntervalMethod::Wald).into();
        Ok(pool(&self.counts()?, PoolOptions { model: self.model, interval, ..PoolOptions::default() })?)
    }

    /// Confirms that it is what was frozen and that its counts still give its answer: every figure within a relative 1e-8 (a posterior's
    /// within what its integration is exact to), every word the same; how many steps the search took does not count.
    ///
    /// # Errors
    /// [`NotConfirmed`].
    pub fn confirm(&self, hash: &str) -> Result<(), NotConfirmed> {
        if self.format != Self::FORMAT {
            return Err(NotConfirmed::Format(self.format.clone()));
        }
        let found = self.hash();
        if found != hash {
            return Err(NotConfirmed::Hash { stated: hash.to_owned(), found });
        }
        let again = self.pooled()?;
        let mut differing = Vec::new();
        if let Some(FrozenCorrection { errors, corrected }) = &self.reference {
            let again = correct_summary(&self.counts()?, &again.summary, *errors);
            let again = serde_json::to_value(again).unwrap_or_default();
            compare("reference", corrected, &again, self.interval, &mut differing);
        }
        let again = serde_json::to_value(again).unwrap_or_default();
        compare("", &self.answer, &again, self.interval, &mut differing);
        if differing.is_empty() { Ok(()) } else { Err(NotConfirmed::Differs(differing)) }
    }
}

fn write_sorted(value: &Value, text: &mut String) {
    match value {
        Value::Object(members) => {
            let mut names: Vec<&String> = members.keys().collect();
            names.sort();
            text.push('{');
            for (index, name) in names.into_iter().enumerate() {
                let _ = write!(text, "{}{}:", if index > 0 { "," } else { "" }, Value::String(name.clone()));
                write_sorted(&members[name], text);
            }
            text.push('}');
        }
        Value::Array(entries) => {
            text.push('[');
            for (index, entry) in entries.iter().enumerate() {
                text.push_str(if index > 0 { "," } else { "" });
                write_sorted(entry, text);
            }
            text.push(']');
        }
        scalar => {
            let _ = write!(text, "{scalar}");
        }
    }
}

fn compare(at: &str, frozen: &Value, again: &Value, interval: Option<IntervalMethod>, differing: &mut Vec<String>) {
    match (frozen, again) {
        (Value::Object(one), Value::Object(other)) => {
            let names: std::collections::BTreeSet<&String> = one.keys().chain(other.keys()).collect();
            for name in names.into_iter().filter(|name| !HOW.contains(&name.as_str())) {
                let (one, other) = (one.get(name).unwrap_or(&Value::Null), other.get(name).unwrap_or(&Value::Null));
                let at = if at.is_empty() { name.clone() } else { format!("{at}.{name}") };
                compare(&at, one, other, interval, differing);
            }
        }
        (Value::Array(one), Value::Array(other)) if one.len() == other.len() => {
            for (index, (one, other)) in one.iter().zip(other).enumerate() {
                compare(&format!("{at}[{index}]"), one, other, interval, differing);
            }
        }
        (Value::Number(one), Value::Number(other)) => {
            let (one, other) = (one.as_f64().unwrap_or(f64::NAN), other.as_f64().unwrap_or(f64::NAN));
            if !Tolerance::at(at, interval).allows(one, other) {
                differing.push(format!("{at} was {one}, is {other}"));
            }
        }
        _ if frozen == again => {}
        _ => differing.push(format!("{at} was {frozen}, is {again}")),
    }
}

/// A result as it stands now.
#[derive(Debug, Clone, PartialEq)]
pub struct StandingResult {
    /// Its id.
    pub id: ResultId,
    /// Short name of the report.
    pub report: String,
    /// Why the same selection leaves it out now.
    pub out: Option<WhyOut>,
    /// Its cells.
    pub counts: Counts,
}

/// What happened to a result since a pool was frozen.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[serde(tag = "code", rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Happened {
    /// It was not in the pool; now it is.
    Entered {
        /// Its cells now.
        now: Counts,
    },
    /// It was in the pool and is no longer: deleted, or what it says is no longer asked for.
    Left {
        /// Why it is out; none when it is gone.
        why: Option<WhyOut>,
    },
    /// Its cells are others.
    Changed {
        /// As they were.
        before: RawCounts,
        /// As they are.
        now: Counts,
    },
}

/// A result that makes a frozen pool differ from today's.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Difference {
    /// The result.
    pub result: ResultId,
    /// Short name of its report.
    pub report: String,
    /// What happened.
    #[serde(flatten)]
    pub happened: Happened,
}

/// What makes a frozen pool differ from the same selection now; nothing when it is up to date.
#[must_use]
pub fn differences(snapshot: &Snapshot, now: &[StandingResult]) -> Vec<Difference> {
    let difference =
        |result: ResultId, report: &str, happened| Difference { result, report: report.to_owned(), happened };
    let mut found = Vec::new();
    for before in snapshot.results.iter().filter(|it| it.out.is_none()) {
        let standing = now.iter().find(|it| it.id == before.id);
        match standing {
            Some(StandingResult { out: None, counts, .. }) => {
                if Counts::check(before.counts).as_ref() != Ok(counts) {
                    let happened = Happened::Changed { before: before.counts, now: *counts };
                    found.push(difference(before.id, &before.report, happened));
                }
            }
            other => {
                let why = other.and_then(|it| it.out);
                found.push(difference(before.id, &before.report, Happened::Left { why }));
            }
        }
    }
    for standing in now.iter().filter(|it| it.out.is_none()) {
        if !snapshot.results.iter().any(|it| it.id == standing.id && it.out.is_none()) {
            found.push(difference(standing.id, &standing.report, Happened::Entered { now: standing.counts }));
        }
    }
    found
}

/// Where an interval lies.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Side {
    /// All of it below.
    Below,
    /// The threshold is in it.
    Across,
    /// All of it above.
    Above,
}

/// Where the interval of a ratio lies by a threshold.
#[must_use]
pub fn side(of: Estimate<Ratio>, threshold: f64) -> Side {
    if of.upper.get() < threshold {
        Side::Below
    } else if of.lower.get() > threshold {
        Side::Above
    } else {
        Side::Across
    }
}
