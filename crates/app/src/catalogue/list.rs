//! The list of tests, filtered and ordered.

use std::cmp::Ordering;
use std::collections::HashMap;

use pruvex_core::catalogue::{Position, Purpose, Region, Status, name_key};
use pruvex_core::likelihood::supported_ratio;
use pruvex_core::people::{Right, Role};
use pruvex_core::pooling::Summary;
use pruvex_core::{Estimate, Ratio, TestId};
use pruvex_store::catalogue::find_tests;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{Catalogue, Found, TestRow};
use crate::fields::asked_text;
use crate::people::Reader;
use crate::pooling::Evidence;
use crate::{App, AppError};

/// A region and how many tests it has.
#[derive(Debug, Serialize, ToSchema)]
pub struct RegionView {
    region: Region,
    tests: u64,
}

/// What the list is sorted by.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Sort {
    /// Largest LR+ first.
    LrPositive,
    /// Smallest LR- first.
    LrNegative,
    /// Most studies first.
    Evidence,
    /// A to Z.
    Name,
}

impl Sort {
    /// Their codes.
    pub const CODES: [&'static str; 4] = ["lr_positive", "lr_negative", "evidence", "name"];

    /// The one with this code.
    #[must_use]
    pub fn from_code(code: &str) -> Option<Self> {
        let all = [Self::LrPositive, Self::LrNegative, Self::Evidence, Self::Name];
        Self::CODES.iter().position(|known| *known == code).map(|index| all[index])
    }

    /// Rows that have no value come last whichever way the list is sorted; equal ones stay in the order of names.
    fn compare(self, a: &TestRow, b: &TestRow, reverse: bool) -> Ordering {
        let turn = |ordering: Ordering| if reverse { ordering.reverse() } else { ordering };
        let points = |pick: fn(&Summary) -> Option<Estimate<Ratio>>| {
            // One small study must not lead the list for an empty cell.
            let value = |row: &TestRow| row.summary.as_ref().and_then(pick).map(|lr| supported_ratio(lr).get());
            (value(a), value(b))
        };
        let by_ratio = |(a, b): (Option<f64>, Option<f64>), largest_first: bool| match (a, b) {
            (Some(a), Some(b)) if largest_first => turn(b.total_cmp(&a)),
            (Some(a), Some(b)) => turn(a.total_cmp(&b)),
            (a, b) => b.is_some().cmp(&a.is_some()),
        };
        match self {
            Self::LrPositive => by_ratio(points(|s| s.lr_positive), true),
            Self::LrNegative => by_ratio(points(|s| s.lr_negative), false),
            Self::Evidence => turn((b.studies, b.patients).cmp(&(a.studies, a.patients))),
            Self::Name => turn(a.name.to_lowercase().cmp(&b.name.to_lowercase())),
        }
    }
}

/// All regions, head to foot.
///
/// # Errors
/// Database errors.
pub async fn list_regions(app: &App, by: &Reader) -> Result<Vec<RegionView>, AppError> {
    let mut counts: HashMap<Region, u64> = HashMap::new();
    for row in app.catalogue().await?.rows(by.role()) {
        *counts.entry(row.region).or_default() += 1;
    }
    let view = |region| RegionView { region, tests: counts.get(&region).copied().unwrap_or_default() };
    Ok(Region::ALL.into_iter().map(view).collect())
}

/// Which tests the list shows, and in which order. What is `None` does not matter.
#[derive(Debug, Default)]
pub struct ListFilter {
    /// In this region.
    pub region: Option<Region>,
    /// For this target condition, by name.
    pub condition: Option<String>,
    /// Whose sheet names this.
    pub search: Option<String>,
    /// For this purpose.
    pub purpose: Option<Purpose>,
    /// Of the basic examination, or special tests.
    pub basis: Option<bool>,
    /// With the patient in this position.
    pub position: Option<Position>,
    /// That need equipment, or none.
    pub equipment: Option<bool>,
    /// That irritate at most so much, 0 to 3.
    pub irritation: Option<u8>,
    /// With so much behind them.
    pub evidence: Option<Evidence>,
    /// Whose sheets stand there.
    pub status: Option<Status>,
    /// In which the checks found something, or nothing.
    pub findings: Option<bool>,
    /// By default the best match first where something is searched for, and the largest LR+ otherwise.
    pub sort: Option<Sort>,
    /// Each test with its figures for this condition, if it shows it, instead of those for its leading one.
    pub asked: Option<String>,
    /// Each test once under each of its conditions, instead of once under the leading one.
    pub each_condition: bool,
    /// The other way round.
    pub reverse: bool,
}

/// What the list shows.
#[derive(Debug)]
pub struct ListedTests {
    /// A JSON array of [`TestRow`]s.
    pub json: String,
    /// How many there are without a limit.
    pub total: usize,
    /// It is as it was before a change of many tests, which is being read.
    pub behind: bool,
    /// How many pooled answers of an earlier version of the program have been computed again, and of how many; none when none are left.
    pub computing: Option<[usize; 2]>,
}

/// The rows that a filter leaves, in its order.
pub(crate) async fn rows_of<'a>(
    app: &App,
    catalogue: &'a Catalogue,
    role: Role,
    filter: &ListFilter,
) -> Result<Vec<&'a TestRow>, AppError> {
    let condition = asked_text("condition", filter.condition.as_deref())?.map(|name| name_key(&name));
    let asked = asked_text("asked", filter.asked.as_deref())?.map(|name| name_key(&name));
    let search = asked_text("search", filter.search.as_deref())?.filter(|text| !name_key(text).is_empty());
    let found: Option<HashMap<TestId, usize>> = match search {
        Some(text) => {
            let ids = find_tests(&app.db, &text, filter.region, role.may(Right::ReadDrafts)).await?;
            let mut found: HashMap<TestId, usize> = ids.into_iter().enumerate().map(|(rank, id)| (id, rank)).collect();
            for id in catalogue.loading(&text, role) {
                let rank = found.len();
                found.entry(id).or_insert(rank);
            }
            Some(found)
        }
        None => None,
    };
    let gentle = filter.irritation.map(f64::from);
    // Asked about one condition, a test is found with the figures for it, whether it is its leading one or not.
    let about = |row: &&TestRow| match (&condition, &asked) {
        (Some(wanted), _) => row.condition_key == *wanted,
        _ if filter.each_condition => true,
        (None, Some(asked)) if row.condition_key == *asked => true,
        (None, Some(asked)) => row.leading && !row.other_conditions.iter().any(|name| name_key(name) == *asked),
        (None, None) => row.leading,
    };
    let mut rows: Vec<&TestRow> = catalogue
        .all_rows(role)
        .iter()
        .map(AsRef::as_ref)
        .filter(about)
        .filter(|row: &&TestRow| filter.region.is_none_or(|region| row.region == region))
        .filter(|row| filter.purpose.is_none_or(|purpose| row.purpose == purpose))
        .filter(|row| filter.basis.is_none_or(|basis| row.basis.is_some() == basis))
        .filter(|row| filter.position.is_none_or(|position| row.position == Some(position)))
        .filter(|row| filter.status.is_none_or(|status| row.status == status))
        .filter(|row| filter.evidence.is_none_or(|evidence| row.evidence == evidence))
        .filter(|row| filter.equipment.is_none_or(|some| row.equipment.is_empty() != some))
        .filter(|row| gentle.is_none_or(|most| row.irritation.is_some_and(|irritation| irritation <= most)))
        .filter(|row| filter.findings.is_none_or(|some| (row.findings > 0) == some))
        .filter(|row| found.as_ref().is_none_or(|found| found.contains_key(&row.id)))
        .collect();
    match (filter.sort, &found) {
        // Whoever searches without an order asks for the best match first.
        (None, Some(found)) => rows.sort_by_key(|row| found.get(&row.id)),
        (sort, _) => {
            let sort = sort.unwrap_or(Sort::LrPositive);
            rows.sort_by(|a, b| sort.compare(a, b, filter.reverse));
        }
    }
    Ok(rows)
}

/// The catalogue's list with the pooled likelihood ratios of each test, at most `limit` rows of it.
///
/// # Errors
/// A text that is too long.
pub async fn list_tests(
    app: &App,
    by: &Reader,
    filter: &ListFilter,
    limit: Option<usize>,
) -> Result<ListedTests, AppError> {
    let Found { catalogue, behind } = app.find_catalogue().await?;
    let rows = rows_of(app, &catalogue, by.role(), filter).await?;
    let shown: Vec<&str> = rows.iter().take(limit.unwrap_or(rows.len())).map(|row| row.json.as_str()).collect();
    Ok(ListedTests {
        json: format!("[{}]", shown.join(",")),
        total: rows.len(),
        behind,
        computing: app.pools.progress(),
    })
}
