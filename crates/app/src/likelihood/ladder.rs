//! The likelihood ladder for print.

use std::collections::{BTreeMap, HashSet};

use pruvex_core::catalogue::Region;
use pruvex_core::{FieldError, FieldErrorCode};
use pruvex_formats::{FigureFormat, LadderFigure, LadderTest, ladder_figure, region_name};

use crate::blocking::blocking;
use crate::catalogue::{ListFilter, TestRow, rows_of};
use crate::people::Reader;
use crate::pooling::Evidence;
use crate::{App, AppError, FileContent, today};

/// A figure of more tests than this is read by nobody.
const MOST_PRINTED: usize = 200;

/// How the rows of a ladder stand together.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub enum Grouping {
    /// By target condition.
    #[default]
    Condition,
    /// By region.
    Region,
    /// All together.
    None,
}

impl Grouping {
    /// Their codes.
    pub const CODES: [&'static str; 3] = ["condition", "region", "none"];

    /// The one with this code.
    #[must_use]
    pub fn from_code(code: &str) -> Option<Self> {
        let all = [Self::Condition, Self::Region, Self::None];
        Self::CODES.iter().position(|known| *known == code).map(|index| all[index])
    }

    /// What groups are ordered by, head to foot, and the title of one.
    fn of(self, row: &TestRow) -> (Region, String) {
        match self {
            Self::Condition => (row.region, row.condition.clone()),
            Self::Region => (row.region, region_name(row.region)),
            Self::None => (Region::ALL[0], String::new()),
        }
    }
}

/// The ladder for print, of the tests that the list would show with the same filter; with `ahead` where the next study is expected.
///
/// # Errors
/// More tests than one figure holds, a text that is too long.
pub async fn print_ladder(
    app: &App,
    by: &Reader,
    format: FigureFormat,
    grouping: Grouping,
    ahead: bool,
    filter: &ListFilter,
) -> Result<FileContent, AppError> {
    let catalogue = app.catalogue().await?;
    let rows = rows_of(app, &catalogue, by.role(), filter).await?;
    if rows.len() > MOST_PRINTED {
        let message = format!("{} tests are more than one figure holds; at most {MOST_PRINTED} do.", rows.len());
        let given = filter.region.map_or("", Region::code);
        let remedy = "Filter them by region or condition.";
        return Err(AppError::Asked(vec![FieldError::new("region", FieldErrorCode::TooLong, given, message, remedy)]));
    }
    let mut groups: BTreeMap<(Region, String), Vec<LadderTest>> = BTreeMap::new();
    for row in &rows {
        let group = groups.entry(grouping.of(row)).or_default();
        group.push(LadderTest {
            name: row.name.clone(),
            studies: row.studies,
            looked_for: row.evidence == Evidence::NothingUsable,
            sample: row.sample,
            ratios: row.summary.map_or([None; 2], |summary| [summary.lr_positive, summary.lr_negative]),
            ahead: if ahead { [row.ahead_positive, row.ahead_negative] } else { [None; 2] },
        });
        group.extend(row.levels.iter().map(|level| LadderTest {
            name: format!("– {}", level.name),
            studies: row.level_studies,
            looked_for: false,
            sample: row.sample,
            // In the lane of the side to which it moves the probability.
            ratios: match level.ratio {
                Some(ratio) if ratio.estimate.get() < 1.0 => [None, Some(ratio)],
                ratio => [ratio, None],
            },
            ahead: [None; 2],
        }));
    }
    let regions: HashSet<Region> = rows.iter().map(|row| row.region).collect();
    let of = match regions.iter().next() {
        Some(only) if regions.len() == 1 => region_name(*only),
        _ => "several regions".to_owned(),
    };
    let figure = LadderFigure {
        title: format!("Likelihood ladder: {of}"),
        groups: groups.into_iter().map(|((_, title), tests)| (title, tests)).collect(),
        printed: today(),
    };
    let bytes = blocking(move || ladder_figure(&figure, format)).await?.map_err(AppError::internal)?;
    Ok(FileContent::new(bytes, format!("ladder.{}", format.ending()), format.media_type()))
}
