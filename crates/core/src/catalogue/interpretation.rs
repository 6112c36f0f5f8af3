//! Tables that read several measurements or phases together, and whether their rows leave a gap or overlap.

use std::collections::{BTreeMap, HashSet};

use serde::{Deserialize, Serialize};

use super::caution::hours;
use super::finding::Comparison;
use super::limits::{MAX_ITEMS, MAX_NAME, MAX_TEXT};
use crate::field::{Checker, Part, parts};
use crate::{FieldError, FieldErrorCode};

/// Rows of conditions over declared measures.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Interpretation {
    /// What is measured or found.
    pub measures: Vec<Measure>,
    /// What the findings mean; the order carries no meaning, since no two rows may answer the same findings.
    pub rows: Vec<ReadingRow>,
}

/// Something that is measured, or found as one of several words.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Measure {
    /// Name, unique within the table.
    pub name: String,
    /// The words it can answer; empty for a number.
    pub choices: Vec<String>,
    /// Unit of a number.
    pub unit: String,
    /// Smallest possible number.
    pub low: Option<f64>,
    /// Largest possible number.
    pub high: Option<f64>,
    /// Steps in which a number is read, such as 1 for whole degrees; what lies between cannot occur.
    pub resolution: Option<f64>,
}

/// A row: when all its conditions hold, this is the reading.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ReadingRow {
    /// Conditions; all must hold. Two on one measure make a range.
    pub conditions: Vec<RowCondition>,
    /// What it means: the structure, the pattern.
    pub reading: String,
    /// Its grade.
    pub grade: String,
    /// Name of the condition of the sheet that it is about; empty for all of them.
    pub condition: String,
    /// What to do next.
    pub next_step: String,
    /// Needs prompt referral.
    pub urgent: bool,
    /// Within how many hours the next step is to happen; 0 is at once.
    pub within_hours: Option<f64>,
}

/// A condition on one measure.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct RowCondition {
    /// Name of the measure.
    pub measure: String,
    /// How a number is compared.
    pub comparison: Option<Comparison>,
    /// With which number.
    pub value: Option<f64>,
    /// Words that meet the condition.
    pub choices: Vec<String>,
}

/// What was measured or found.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(untagged, expecting = "expected a number, or one of the measure's words")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Found {
    /// A number.
    Number(f64),
    /// One of the measure's words.
    Choice(String),
}

/// What a table answers.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Reading {
    /// Positions of the rows whose conditions all hold: one, unless the table has a gap or an overlap.
    pub rows: Vec<usize>,
    /// Measures that were not given; rows that ask for them are not among the answers.
    pub missing: Vec<String>,
}

/// Findings that no row answers, or more than one.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct TableFault {
    /// Positions of the rows that answer: none at a gap, two or more at an overlap.
    pub rows: Vec<usize>,
    /// One concrete case, measure by measure.
    pub example: Vec<ExampleValue>,
}

/// One measure of a concrete case.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ExampleValue {
    /// Name of the measure.
    pub measure: String,
    /// A value at which the fault shows; none when any value shows it.
    pub value: Option<Found>,
    /// Unit of a number.
    pub unit: String,
}

/// More faults than these are not told: mending the first ones changes the rest.
const MAX_FAULTS: usize = 20;
/// As many rows as fit into a set of bits.
const MAX_ROWS: usize = 64;
/// Combinations looked at before the search gives up, some hundred milliseconds.
const MAX_STATES: usize = 200_000;

impl Comparison {
    fn holds(self, found: f64, value: f64) -> bool {
        match self {
            Self::AtLeast => found >= value,
            Self::MoreThan => found > value,
            Self::AtMost => found <= value,
            Self::LessThan => found < value,
        }
    }
}

impl RowCondition {
    fn holds(&self, found: &Found) -> bool {
        match found {
            Found::Number(found) => {
                self.comparison.zip(self.value).is_some_and(|(comparison, value)| comparison.holds(*found, value))
            }
            Found::Choice(found) => self.choices.contains(found),
        }
    }
}

/// Values of a measure that all rows treat alike.
struct Cell {
    found: Found,
    rows: u64,
}

impl Interpretation {
    /// Rows that answer what was found.
    ///
    /// # Errors
    /// A value that its measure cannot take, each named `values.<measure>`.
    pub fn read(&self, values: &BTreeMap<String, Found>) -> Result<Reading, Vec<FieldError>> {
        let mut errors = Vec::new();
        for (name, found) in values {
            let fault = match self.measures.iter().find(|measure| measure.name == *name) {
                None => Some("The table declares no measure of this name.".to_owned()),
                Some(measure) => measure.refuses(found),
            };
            if let Some(message) = fault {
                let shown = match found {
                    Found::Number(number) => number.to_string(),
                    Found::Choice(word) => word.clone(),
                };
                let remedy = "Correct the value, or the measure.";
                errors.push(FieldError::new(format!("values.{name}"), FieldErrorCode::Invalid, shown, message, remedy));
            }
        }
        if !errors.is_empty() {
            return Err(errors);
        }
        let holds = |row: &ReadingRow| {
            row.conditions.iter().all(|condition| values.get(&condition.measure).is_some_and(|f| condition.holds(f)))
        };
        let rows = (0..self.rows.len()).filter(|index| holds(&self.rows[*index])).collect();
        let missing = self.measures.iter().filter(|measure| !values.contains_key(&measure.name));
        Ok(Reading { rows, missing: missing.map(|measure| measure.name.clone()).collect() })
    }

    /// Conditions that name what is not declared, or compare with nothing: row and condition of each.
    #[must_use]
    pub fn unreadable(&self) -> Vec<(usize, usize)> {
        let readable = |condition: &RowCondition| {
            self.measures.iter().any(|measure| {
                measure.name == condition.measure
                    && if measure.choices.is_empty() {
                        condition.comparison.is_some() && condition.value.is_some()
                    } else {
                        !condition.choices.is_empty()
                            && condition.choices.iter().all(|choice| measure.choices.contains(choice))
                    }
            })
        };
        let conditions = self.rows.iter().enumerate().flat_map(|(r, row)| {
            row.conditions.iter().enumerate().filter(|(_, it)| !readable(it)).map(move |(c, _)| (r, c))
        });
        conditions.collect()
    }

    /// Gaps and overlaps with a concrete example of each, twenty at most; `None` when the table is too large to look at every
    /// combination. A table without rows has no fault: it is not used.
    ///
    /// Every measure falls into finitely many cells that all rows treat alike (each boundary, and what lies between two of
    /// them). The search goes through their combinations measure by measure with the set of rows that still hold, joins cells
    /// with the same set, and remembers sets below which nothing was wrong.
    #[must_use]
    pub fn faults(&self) -> Option<Vec<TableFault>> {
        if self.rows.is_empty() {
            return Some(Vec::new());
        }
        if self.rows.len() > MAX_ROWS {
            return None;
        }
        let columns: Vec<Vec<Cell>> = self.measures.iter().map(|measure| self.cells(measure)).collect();
        let all = u64::MAX >> (MAX_ROWS - self.rows.len());
        let mut search =
            Search { table: self, columns: &columns, clean: HashSet::new(), states: 0, faults: Vec::new() };
        search.descend(all, &mut Vec::new());
        (search.states < MAX_STATES).then_some(search.faults)
    }

    /// Of each measure, by name, values that the rows tell apart: every boundary, and one between each two; or its words.
    pub(crate) fn samples(&self) -> Vec<(String, Vec<Found>)> {
        self.measures.iter().map(|measure| (measure.name.clone(), self.samples_of(measure))).collect()
    }

    fn samples_of(&self, measure: &Measure) -> Vec<Found> {
        if measure.choices.is_empty() {
            let asked = self.rows.iter().flat_map(|row| &row.conditions).filter(|it| it.measure == measure.name);
            measure.samples(asked.filter_map(|condition| condition.value).collect())
        } else {
            measure.choices.iter().cloned().map(Found::Choice).collect()
        }
    }

    fn cells(&self, measure: &Measure) -> Vec<Cell> {
        let found = self.samples_of(measure);
        let rows = |found: &Found| {
            let holds = |row: &ReadingRow| {
                row.conditions.iter().filter(|it| it.measure == measure.name).all(|condition| condition.holds(found))
            };
            (0..self.rows.len()).filter(|index| holds(&self.rows[*index])).fold(0, |set, index| set | 1 << index)
        };
        found.into_iter().map(|found| Cell { rows: rows(&found), found }).collect()
    }
}

struct Search<'a> {
    table: &'a Interpretation,
    columns: &'a [Vec<Cell>],
    clean: HashSet<(usize, u64)>,
    states: usize,
    faults: Vec<TableFault>,
}

impl Search<'_> {
    /// Looks below one set of rows; `path` holds the cell of each measure so far. Answers whether nothing was wrong.
    fn descend(&mut self, rows: u64, path: &mut Vec<usize>) -> bool {
        self.states += 1;
        let level = path.len();
        if self.states >= MAX_STATES || self.faults.len() >= MAX_FAULTS {
            return false;
        }
        if rows == 0 || level == self.columns.len() {
            if rows.count_ones() != 1 {
                self.faults.push(self.fault(rows, path));
            }
            return rows.count_ones() == 1;
        }
        if self.clean.contains(&(level, rows)) {
            return true;
        }
        let columns = self.columns;
        let mut seen = Vec::new();
        let mut clean = true;
        for (index, cell) in columns[level].iter().enumerate() {
            let left = rows & cell.rows;
            if seen.contains(&left) {
                continue;
            }
            seen.push(left);
            path.push(index);
            clean &= self.descend(left, path);
            path.pop();
        }
        if clean {
            self.clean.insert((level, rows));
        }
        clean
    }

    fn fault(&self, rows: u64, path: &[usize]) -> TableFault {
        let value = |level: usize| path.get(level).map(|index| self.columns[level][*index].found.clone());
        let example = self.table.measures.iter().enumerate().map(|(level, measure)| ExampleValue {
            measure: measure.name.clone(),
            value: value(level),
            unit: measure.unit.clone(),
        });
        TableFault { rows: (0..MAX_ROWS).filter(|index| rows >> index & 1 == 1).collect(), example: example.collect() }
    }
}

impl Measure {
    /// One value of every stretch that no boundary divides, those that cannot be read off left out.
    fn samples(&self, mut cuts: Vec<f64>) -> Vec<Found> {
        let (low, high) = (self.low.unwrap_or(f64::NEG_INFINITY), self.high.unwrap_or(f64::INFINITY));
        cuts.retain(|cut| (low..=high).contains(cut));
        cuts.extend([self.low, self.high].into_iter().flatten());
        cuts.sort_by(f64::total_cmp);
        cuts.dedup();
        let (Some(first), Some(last)) = (cuts.first().copied(), cuts.last().copied()) else {
            return vec![Found::Number(0.0)];
        };
        let step = self.resolution.filter(|step| *step > 0.0);
        let readable = |value: f64| {
            step.is_none_or(|step| {
                let steps = value / step;
                (steps - steps.round()).abs() < 1e-9 * steps.abs().max(1.0)
            })
        };
        // The readable value next to the middle of an open stretch, if it has one.
        let between = |from: f64, to: f64| match step {
            None => Some(f64::midpoint(from, to)),
            Some(step) => {
                let middle = f64::midpoint(from, to) / step;
                [middle.floor() * step, middle.ceil() * step].into_iter().find(|value| {
                    let slack = 1e-9 * step;
                    *value > from + slack && *value < to - slack
                })
            }
        };
        let beyond = step.unwrap_or(1.0);
        let mut samples: Vec<f64> = Vec::new();
        if self.low.is_none() {
            samples.extend(between(first - 2.0 * beyond, first));
        }
        for (index, cut) in cuts.iter().enumerate() {
            samples.extend(Some(*cut).filter(|cut| readable(*cut)));
            if let Some(next) = cuts.get(index + 1) {
                samples.extend(between(*cut, *next));
            }
        }
        if self.high.is_none() {
            samples.extend(between(last, last + 2.0 * beyond));
        }
        // Whatever the steps, a measure takes some value.
        if samples.is_empty() {
            samples.push(first);
        }
        samples.into_iter().map(Found::Number).collect()
    }

    fn refuses(&self, found: &Found) -> Option<String> {
        match found {
            Found::Choice(word) if self.choices.is_empty() => Some(format!("“{word}” is not a number.")),
            Found::Choice(word) if !self.choices.contains(word) => {
                Some(format!("“{word}” is none of: {}.", self.choices.join(", ")))
            }
            Found::Number(_) if !self.choices.is_empty() => {
                Some(format!("Choose one of: {}.", self.choices.join(", ")))
            }
            Found::Number(number) if !number.is_finite() => Some("This is not a number.".to_owned()),
            Found::Number(number) if self.low.is_some_and(|low| *number < low) => {
                Some(format!("This is below the smallest possible value, {}.", self.low.unwrap_or_default()))
            }
            Found::Number(number) if self.high.is_some_and(|high| *number > high) => {
                Some(format!("This is above the largest possible value, {}.", self.high.unwrap_or_default()))
            }
            _ => None,
        }
    }
}

impl TableFault {
    /// The example in words, such as `Rotation at 30 deg: 12 deg; Rotation at 90 deg: any`.
    #[must_use]
    pub fn words(&self) -> String {
        let one = |it: &ExampleValue| match &it.value {
            None => format!("{}: any", it.measure),
            Some(Found::Choice(word)) => format!("{}: {word}", it.measure),
            Some(Found::Number(number)) => format!("{}: {number} {}", it.measure, it.unit).trim_end().to_owned(),
        };
        self.example.iter().map(one).collect::<Vec<_>>().join("; ")
    }
}

impl Part for Interpretation {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let measures: Vec<Measure> = parts(c, &format!("{at}.measures"), &self.measures, 12);
        c.unique(&format!("{at}.measures"), measures.iter().map(|measure| measure.name.as_str()));
        Self { measures, rows: parts(c, &format!("{at}.rows"), &self.rows, MAX_ROWS) }
    }

    fn is_blank(&self) -> bool {
        *self == Self::default()
    }
}

impl Part for Measure {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let field = |name: &str| format!("{at}.{name}");
        let low = c.number(&field("low"), self.low, (-1e6, 1e6), "");
        let high = c.number(&field("high"), self.high, (-1e6, 1e6), "");
        if low.zip(high).is_some_and(|(low, high)| low >= high) {
            c.invalid(
                &field("high"),
                high.unwrap_or_default(),
                "The range has no extent.",
                "Put the smaller end first.",
            );
        }
        let choices = c.texts(&field("choices"), &self.choices, MAX_ITEMS, MAX_NAME);
        c.unique(&field("choices"), choices.iter().map(String::as_str));
        Self {
            name: c.required(&field("name"), &self.name, MAX_NAME, "Name what is measured or found."),
            choices,
            unit: c.text(&field("unit"), &self.unit, 30),
            low,
            high,
            resolution: c.number(&field("resolution"), self.resolution, (1e-6, 1e6), ""),
        }
    }

    fn is_blank(&self) -> bool {
        *self == Self::default()
    }
}

impl Part for ReadingRow {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let field = |name: &str| format!("{at}.{name}");
        Self {
            conditions: parts(c, &field("conditions"), &self.conditions, MAX_ITEMS),
            reading: c.required(&field("reading"), &self.reading, MAX_TEXT, "Say what these findings mean."),
            grade: c.text(&field("grade"), &self.grade, MAX_NAME),
            condition: c.text(&field("condition"), &self.condition, MAX_NAME),
            next_step: c.text(&field("next_step"), &self.next_step, MAX_TEXT),
            urgent: self.urgent,
            within_hours: hours(c, &field("within_hours"), self.within_hours),
        }
    }

    fn is_blank(&self) -> bool {
        *self == Self::default()
    }
}

impl Part for RowCondition {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let field = |name: &str| format!("{at}.{name}");
        Self {
            measure: c.required(&field("measure"), &self.measure, MAX_NAME, "Choose a measure of the table."),
            comparison: self.comparison,
            value: c.number(&field("value"), self.value, (-1e6, 1e6), ""),
            choices: c.texts(&field("choices"), &self.choices, MAX_ITEMS, MAX_NAME),
        }
    }

    fn is_blank(&self) -> bool {
        self.measure.trim().is_empty() && self.value.is_none() && self.choices.is_empty()
    }
}
