//! One report of how far examiners, or occasions, agree on a test: who rated whom, and the ratings or what was printed of them.

use serde::{Deserialize, Serialize};

use super::grid::{Grid, count, measurement};
use crate::agreement::{
    AgreementNote, BlandAltman, Icc, IccForm, Measurements, NamedSize, Precision, RatingTable, Repeatability, Reported,
    ReportedKind, SeveralRaterAgreement, Tabulated, TwoRaterAgreement, Weights, bland_altman, intraclass_correlations,
    repeatability, several_rater_agreement, size_word, tabulate, two_rater_agreement,
};
use crate::field::Checker;
use crate::{Estimate, FieldError, FieldErrorCode, Level};

/// Whose ratings are compared.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Between {
    /// Several examiners of the same people.
    #[default]
    Examiners,
    /// The same examiner on several occasions.
    Occasions,
}

/// An agreement result as a person or a file wrote it.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct AgreementInput {
    /// Whose ratings are compared.
    pub between: Between,
    /// What was rated: which finding, by which criterion.
    pub finding: String,
    /// Who examined, and how experienced they are.
    pub examiners: String,
    /// Time between the examinations.
    pub interval: String,
    /// Where the report prints it: page, table.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub page: String,
    /// Notes of who extracted it.
    pub note: String,
    /// What the report gives.
    pub figures: FiguresInput,
}

/// What a report gives, as it was written.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum FiguresInput {
    /// A square table of two raters: rows are the first one's categories, columns the second's, with or without names.
    Table {
        /// Cells by row.
        rows: Vec<Vec<String>>,
        /// How near misses count, for graded categories.
        #[serde(default)]
        weights: Weights,
    },
    /// A row per person, a column per rater: the category each chose.
    Ratings {
        /// Cells by row.
        rows: Vec<Vec<String>>,
        /// How near misses count, for graded categories of two raters.
        #[serde(default)]
        weights: Weights,
    },
    /// A row per person, a column per rater: what each measured.
    Measurements {
        /// Cells by row.
        rows: Vec<Vec<String>>,
        /// Unit of the measurements.
        #[serde(default)]
        unit: String,
    },
    /// Only a coefficient, with its standard error or its 95 % interval.
    Reported {
        /// Which coefficient.
        coefficient: ReportedKind,
        /// Its value.
        value: Option<f64>,
        /// Its standard error.
        #[serde(default)]
        se: Option<f64>,
        /// Lower bound of its 95 % interval.
        #[serde(default)]
        lower: Option<f64>,
        /// Upper bound of its 95 % interval.
        #[serde(default)]
        upper: Option<f64>,
        /// People rated.
        #[serde(default)]
        subjects: Option<f64>,
        /// Raters, or occasions.
        #[serde(default)]
        raters: Option<f64>,
    },
}

impl Default for FiguresInput {
    fn default() -> Self {
        Self::Table { rows: Vec::new(), weights: Weights::None }
    }
}

/// A checked agreement result. As JSON it is what was written, tidied.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[serde(transparent)]
pub struct Agreement {
    written: AgreementInput,
    #[serde(skip)]
    figures: Figures,
}

#[derive(Debug, Clone, PartialEq)]
enum Figures {
    Categories { names: Vec<String>, counted: Tabulated, weights: Weights },
    Measured(Measurements),
    Reported { kind: ReportedKind, reported: Reported },
}

/// Which coefficient is read first.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum AgreementMeasure {
    /// Cohen's kappa.
    Kappa,
    /// Kappa with linear weights.
    KappaLinear,
    /// Kappa with quadratic weights.
    KappaQuadratic,
    /// Fleiss' kappa of three raters or more.
    FleissKappa,
    /// Intraclass correlation (2,1): absolute agreement of single measurements.
    IccAgreement,
    /// A kappa that a report prints.
    ReportedKappa,
    /// An intraclass correlation that a report prints.
    ReportedIcc,
}

/// The coefficient that is read first.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct AgreementHeadline {
    /// Which it is.
    pub measure: AgreementMeasure,
    /// Its value and interval.
    pub estimate: Estimate<f64>,
    /// A word for its size.
    pub size: NamedSize,
}

/// Everything that the ratings give.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum AgreementDetail {
    /// Two raters, categories.
    TwoRaters(Box<TwoRaterAgreement>),
    /// Three raters or more, categories.
    SeveralRaters(SeveralRaterAgreement),
    /// Measurements.
    Measured {
        /// All six intraclass correlations.
        icc: Vec<Icc>,
        /// Error of measurement, in the unit of the measurements.
        repeatability: Repeatability,
        /// Of two raters.
        bland_altman: Option<BlandAltman>,
    },
    /// Only what was printed.
    Reported,
}

/// What the figures of an agreement result say.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct AgreementAnswer {
    /// People rated, where it is known.
    pub subjects: Option<u64>,
    /// Raters or occasions, where it is known.
    pub raters: Option<u32>,
    /// Names of the categories in the order of the table; empty when nobody named them.
    pub categories: Vec<String>,
    /// The coefficient that is read first; `None` when it cannot be estimated, which the notes explain.
    pub headline: Option<AgreementHeadline>,
    /// What must be said beside it.
    pub notes: Vec<AgreementNote>,
    /// Everything else.
    pub detail: AgreementDetail,
}

const MOST_SUBJECTS: f64 = 1_000_000.0;

impl Agreement {
    /// Checks an agreement result by itself.
    ///
    /// # Errors
    /// Every fault found; those of a table name the cell, such as `figures.rows[3][1]`.
    pub fn check(input: &AgreementInput) -> Result<Self, Vec<FieldError>> {
        let mut c = Checker::default();
        let finding = c.text("finding", &input.finding, 1_000);
        let examiners = c.text("examiners", &input.examiners, 1_000);
        let interval = c.text("interval", &input.interval, 200);
        let page = c.text("page", &input.page, 200);
        let note = c.text("note", &input.note, 10_000);
        let checked = figures(&mut c, &input.figures);
        c.finish(checked.map(|(written, figures)| Self {
            written: AgreementInput {
                between: input.between,
                finding,
                examiners,
                interval,
                page,
                note,
                figures: written,
            },
            figures,
        }))
    }

    /// What was written, tidied.
    #[must_use]
    pub fn written(&self) -> &AgreementInput {
        &self.written
    }

    /// What the figures say.
    #[must_use]
    pub fn answer(&self, level: Level) -> AgreementAnswer {
        self.figures.answer(&self.written.figures, level)
    }
}

/// What figures say that are still being entered.
///
/// # Errors
/// As [`Agreement::check`].
pub fn agreement_answer(input: &FiguresInput, level: Level) -> Result<AgreementAnswer, Vec<FieldError>> {
    let mut c = Checker::default();
    let checked = figures(&mut c, input);
    c.finish(checked.map(|(written, figures)| figures.answer(&written, level)))
}

impl Figures {
    fn answer(&self, written: &FiguresInput, level: Level) -> AgreementAnswer {
        let sized = |kind, measure, estimate: Estimate<f64>| AgreementHeadline {
            measure,
            estimate,
            size: size_word(kind, estimate.estimate),
        };
        match self {
            Self::Categories { names, counted: Tabulated::Two(table), weights } => {
                let found = two_rater_agreement(table, level);
                let (measure, first) = match weights {
                    Weights::Linear if found.kappa_linear.is_some() => {
                        (AgreementMeasure::KappaLinear, found.kappa_linear)
                    }
                    Weights::Quadratic if found.kappa_quadratic.is_some() => {
                        (AgreementMeasure::KappaQuadratic, found.kappa_quadratic)
                    }
                    _ => (AgreementMeasure::Kappa, found.kappa),
                };
                AgreementAnswer {
                    subjects: Some(found.n),
                    raters: Some(2),
                    categories: names.clone(),
                    headline: first.map(|first| sized(ReportedKind::Kappa, measure, first.value)),
                    notes: found.notes.clone(),
                    detail: AgreementDetail::TwoRaters(Box::new(found)),
                }
            }
            Self::Categories { names, counted: Tabulated::Several(counts), .. } => {
                let found = several_rater_agreement(counts, level);
                let first = found.kappa.map(|it| sized(ReportedKind::Kappa, AgreementMeasure::FleissKappa, it.value));
                AgreementAnswer {
                    subjects: Some(found.subjects as u64),
                    raters: Some(found.raters),
                    categories: names.clone(),
                    headline: first,
                    notes: if first.is_none() { vec![AgreementNote::NoVariation] } else { Vec::new() },
                    detail: AgreementDetail::SeveralRaters(found),
                }
            }
            Self::Measured(measurements) => {
                let icc = intraclass_correlations(measurements, level).to_vec();
                let first = icc.iter().find(|it| it.form == IccForm::AgreementSingle).and_then(|it| it.value);
                let first = first.map(|value| sized(ReportedKind::Icc, AgreementMeasure::IccAgreement, value));
                AgreementAnswer {
                    subjects: Some(measurements.subjects() as u64),
                    raters: Some(measurements.raters() as u32),
                    categories: Vec::new(),
                    headline: first,
                    notes: if first.is_none() { vec![AgreementNote::NoVariation] } else { Vec::new() },
                    detail: AgreementDetail::Measured {
                        icc,
                        repeatability: repeatability(measurements, level),
                        bland_altman: bland_altman(measurements, level),
                    },
                }
            }
            Self::Reported { kind, reported } => {
                let measure = match kind {
                    ReportedKind::Kappa => AgreementMeasure::ReportedKappa,
                    ReportedKind::Icc => AgreementMeasure::ReportedIcc,
                };
                let (subjects, raters, bounds) = match written {
                    FiguresInput::Reported { subjects, raters, se, lower, upper, .. } => {
                        (*subjects, *raters, lower.zip(*upper).filter(|_| se.is_none() && level == Level::default()))
                    }
                    _ => (None, None, None),
                };
                // What is printed is shown as it is printed; only another level is made anew.
                let estimate = reported.estimate(level);
                let estimate =
                    bounds.map_or(estimate, |(lower, upper)| Estimate::around(estimate.estimate, lower, upper));
                AgreementAnswer {
                    subjects: subjects.map(|n| n as u64),
                    raters: raters.map(|n| n as u32),
                    categories: Vec::new(),
                    headline: Some(sized(*kind, measure, estimate)),
                    notes: Vec::new(),
                    detail: AgreementDetail::Reported,
                }
            }
        }
    }
}

const ROWS: &str = "figures.rows";

fn figures(c: &mut Checker, input: &FiguresInput) -> Option<(FiguresInput, Figures)> {
    match input {
        FiguresInput::Table { rows, weights } => {
            let grid = Grid::of_numbers(c, ROWS, rows)?;
            let names = category_names(c, &grid);
            let cells = grid.parse(c, ROWS, count)?;
            let table = RatingTable::new(cells).map_err(|error| grid.fault(c, ROWS, error)).ok()?;
            let (counted, weights) = (Tabulated::Two(table), *weights);
            let written = FiguresInput::Table { rows: grid.rows, weights };
            names.map(|names| (written, Figures::Categories { names, counted, weights }))
        }
        FiguresInput::Ratings { rows, weights } => {
            let grid = Grid::of_words(c, ROWS, rows)?;
            let (names, counted) = tabulate(&grid.rows).map_err(|error| grid.fault(c, ROWS, error)).ok()?;
            let weights = *weights;
            let written = FiguresInput::Ratings { rows: grid.rows, weights };
            Some((written, Figures::Categories { names, counted, weights }))
        }
        FiguresInput::Measurements { rows, unit } => {
            let grid = Grid::of_numbers(c, ROWS, rows)?;
            let unit = c.text("figures.unit", unit, 40);
            let values = grid.parse(c, ROWS, measurement)?;
            let measured = Measurements::new(values).map_err(|error| grid.fault(c, ROWS, error)).ok()?;
            Some((FiguresInput::Measurements { rows: grid.rows, unit }, Figures::Measured(measured)))
        }
        FiguresInput::Reported { coefficient, value, se, lower, upper, subjects, raters } => {
            for (name, given) in [("subjects", subjects), ("raters", raters)] {
                let field = format!("figures.{name}");
                if given.is_some_and(|n| n.fract() != 0.0) {
                    let message = "This is not a whole number.";
                    c.invalid(&field, given.unwrap_or_default(), message, "Give a count, or leave it empty.");
                }
                c.number(&field, *given, (if name == "raters" { 2.0 } else { 1.0 }, MOST_SUBJECTS), "");
            }
            let kind = *coefficient;
            let value = c.present("figures.value", *value, "Give the coefficient that the report prints.")?;
            let precision = match (*se, *lower, *upper) {
                (Some(se), _, _) => Precision::StandardError(se),
                (None, Some(lower), Some(upper)) => Precision::Interval { lower, upper, level: Level::default() },
                (None, lower, _) => {
                    let field = if lower.is_none() { "figures.lower" } else { "figures.upper" };
                    let remedy =
                        "Give both bounds of the 95 % interval, or the standard error; one of the two is needed.";
                    let message = "A coefficient without an interval or standard error cannot be weighed.";
                    c.push(FieldError::new(field, FieldErrorCode::Missing, "", message, remedy));
                    return None;
                }
            };
            match Reported::new(kind, value, precision) {
                Ok(reported) => Some((input.clone(), Figures::Reported { kind, reported })),
                Err(error) => {
                    let remedy = "Compare it with the report: coefficient, bounds and their order.";
                    c.invalid("figures.value", value, format!("{error}."), remedy);
                    None
                }
            }
        }
    }
}

/// Names from the head or the first column; where both are given they must agree, else rows or columns were swapped.
fn category_names(c: &mut Checker, grid: &Grid) -> Option<Vec<String>> {
    match (&grid.head, &grid.labels) {
        (Some(head), Some(labels)) if head != labels => {
            let message = format!("Columns are named {}, rows {}.", head.join(", "), labels.join(", "));
            let remedy = "Put both in the same order, so that agreement is on the diagonal.";
            c.invalid(ROWS, head.join(", "), message, remedy);
            None
        }
        (Some(names), _) | (None, Some(names)) => Some(names.clone()),
        (None, None) => Some(Vec::new()),
    }
}
