//! The board of double extractions: every result on record and everything that is to be read, as far as it has come.

use std::collections::HashMap;

use chrono::{DateTime, Utc};
use pruvex_core::catalogue::Region;
use pruvex_core::{ResultId, TestId};
use sea_orm::{ConnectionTrait, EntityTrait, FromQueryResult, QueryFilter, QueryOrder, QuerySelect};
use uuid::Uuid;

use super::extractions::names;
use crate::StoreError;
use crate::among::among;
use crate::entities::extraction;
use crate::history::{Entered, Kind, entered};
use crate::sql::with_values;

/// How far the reading of a result has come.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Progress {
    /// Nobody has read it.
    Unread,
    /// One person has.
    Once,
    /// Two have; it is to be settled.
    Twice,
    /// Settled.
    Settled,
}

impl Progress {
    /// In the order of the work.
    pub const ALL: [Self; 4] = [Self::Unread, Self::Once, Self::Twice, Self::Settled];

    /// As it is written in addresses.
    #[must_use]
    pub fn code(self) -> &'static str {
        match self {
            Self::Unread => "unread",
            Self::Once => "once",
            Self::Twice => "twice",
            Self::Settled => "settled",
        }
    }
}

/// Which rows of the board.
#[derive(Debug, Clone, Default)]
pub struct BoardQuery {
    /// So far only.
    pub progress: Option<Progress>,
    /// Appraised or not.
    pub appraised: Option<bool>,
    /// Tests of this region.
    pub region: Option<Region>,
    /// Part of the reference's text or the test's name.
    pub search: Option<String>,
    /// What this account can do something about.
    pub next_for: Option<Uuid>,
    /// Where they begin, and how many.
    pub offset: u64,
    /// How many.
    pub limit: u64,
}

/// A row of the board: a result on record or one that is to be read.
#[derive(Debug, Clone, PartialEq)]
pub struct BoardRow {
    /// The double extraction, if there is one.
    pub id: Option<Uuid>,
    /// The result, if there is one.
    pub result_id: Option<ResultId>,
    /// The test it is about.
    pub test_id: TestId,
    /// The reference on record.
    pub reference_id: Option<Uuid>,
    /// Text of the reference.
    pub reference: String,
    /// Which of the report's results; for one on record who was examined.
    pub about: String,
    /// How far it has come.
    pub progress: Progress,
    /// Its study is appraised.
    pub appraised: bool,
    /// Made up.
    pub sample: bool,
    /// Who began to read it, and who has handed in.
    pub readers: Vec<BoardReader>,
}

/// A reader on the board.
#[derive(Debug, Clone, PartialEq)]
pub struct BoardReader {
    /// The account; none for what came with a file.
    pub account: Option<Uuid>,
    /// Name.
    pub name: Option<String>,
    /// It is submitted.
    pub done: bool,
}

/// A page of the board.
#[derive(Debug, Clone, PartialEq)]
pub struct Board {
    /// Its rows.
    pub rows: Vec<BoardRow>,
    /// How many there are with these filters but for progress and appraisal, in the order of [`Progress::ALL`].
    pub counts: [u64; 4],
    /// How many of those are appraised.
    pub appraised: u64,
    /// How many rows there are with all filters.
    pub found: u64,
}

/// Every result on record, and everything on the list that is no result yet, as far as it has come; without their texts, which only a page
/// of them needs.
const BOARD: &str = "
    SELECT d.id, r.id AS result_id, r.test_id, r.study_id, r.sample, r.created_at AS added,
        CASE WHEN d.settled_at IS NOT NULL THEN 3 WHEN coalesce(x.done, 1) >= 2 THEN 2 ELSE 1 END AS progress,
        a.study_id IS NOT NULL AS appraised
    FROM accuracy_result r
    LEFT JOIN double_extraction d ON d.result_id = r.id AND d.deleted_at IS NULL
    LEFT JOIN done x ON x.double_extraction_id = d.id
    LEFT JOIN appraisal a ON a.study_id = r.study_id AND a.aspect = 'accuracy'
    WHERE r.deleted_at IS NULL
    UNION ALL
    SELECT d.id, NULL, d.test_id, NULL, d.sample, d.created_at, least(coalesce(x.done, 0), 2), false
    FROM double_extraction d
    LEFT JOIN done x ON x.double_extraction_id = d.id
    WHERE d.result_id IS NULL AND d.deleted_at IS NULL";

/// What somebody can do something about: what two have read, their own drafts, and what fewer than two others have begun.
const NEXT: &str = "(b.progress = 2 OR b.progress < 2 AND CASE WHEN b.id IS NULL THEN true ELSE
    (SELECT count(*) FILTER (WHERE e.account_id = $3::uuid AND e.handed_in_at IS NOT NULL) = 0
        AND count(*) FILTER (WHERE e.account_id IS DISTINCT FROM $3::uuid) < 2
     FROM extraction e WHERE e.double_extraction_id = b.id) END)";

#[derive(FromQueryResult)]
struct Row {
    id: Option<Uuid>,
    result_id: Option<Uuid>,
    test_id: Uuid,
    reference_id: Option<Uuid>,
    reference: String,
    about: String,
    sample: bool,
    progress: i32,
    appraised: bool,
}

/// A page of the board: what was read twice first, then once, then not at all, settled ones last; within that the newest first.
///
/// # Errors
/// Database errors.
pub async fn list_board(db: &impl ConnectionTrait, query: &BoardQuery) -> Result<Board, StoreError> {
    let search = query
        .search
        .as_ref()
        .map(|text| format!("%{}%", text.to_lowercase().replace('\\', "\\\\").replace('%', "\\%").replace('_', "\\_")));
    let position = |progress| Progress::ALL.iter().position(|it| *it == progress).and_then(|it| i32::try_from(it).ok());
    let progress = query.progress.and_then(position);
    // Only what is asked for is asked of the database: one statement for every case would be planned for none of them.
    let mut wanted = vec!["true"];
    if query.region.is_some() {
        wanted.push("b.test_id = ANY (ARRAY(SELECT id FROM test WHERE region = $1::text))");
    }
    if search.is_some() {
        wanted.push(
            "(b.test_id IN (SELECT id FROM test WHERE search_names LIKE $2)
                OR b.study_id IN (SELECT id FROM study WHERE lower(reference) LIKE $2)
                OR b.id IN (SELECT id FROM double_extraction WHERE lower(reference) LIKE $2))",
        );
    }
    if query.next_for.is_some() {
        wanted.push(NEXT);
    }
    let within = format!(
        "WITH done AS (SELECT double_extraction_id, count(handed_in_at) AS done FROM extraction GROUP BY 1),
        board AS ({BOARD}), b AS (SELECT b.* FROM board b WHERE {})",
        wanted.join(" AND ")
    );
    let own: [sea_orm::Value; 3] = [query.region.map(Region::code).into(), search.into(), query.next_for.into()];
    let counting = format!("{within} SELECT progress::int, appraised, count(*) FROM b GROUP BY 1, 2");
    let counting = with_values(counting, own.clone());
    // Ordered twice rather than numbered once: the inner order only has to keep the rows of one page, a number needs all of them sorted.
    let order = "CASE b.progress WHEN 2 THEN 0 WHEN 1 THEN 1 WHEN 0 THEN 2 ELSE 3 END, b.added DESC, coalesce(b.id, b.result_id)";
    let listing = format!(
        "{within}, page AS (
            SELECT b.* FROM b WHERE ($4::int IS NULL OR progress = $4) AND ($5::bool IS NULL OR appraised = $5)
            ORDER BY {order} LIMIT $6 OFFSET $7)
        SELECT b.id, b.result_id, b.test_id, coalesce(s.reference_id, d.reference_id) AS reference_id,
            coalesce(s.reference, d.reference) AS reference, coalesce(s.population, d.asked) AS about, b.sample,
            b.progress::int, b.appraised
        FROM page b LEFT JOIN study s ON s.id = b.study_id LEFT JOIN double_extraction d ON d.id = b.id
        ORDER BY {order}"
    );
    let page = [
        progress.into(),
        query.appraised.into(),
        i64::try_from(query.limit).unwrap_or(i64::MAX).into(),
        i64::try_from(query.offset).unwrap_or(i64::MAX).into(),
    ];
    let values: Vec<sea_orm::Value> = own.into_iter().chain(page).collect();
    let listing = with_values(listing, values);
    let (tally, rows) = tokio::try_join!(db.query_all_raw(counting), Row::find_by_statement(listing).all(db))?;
    let (mut counts, mut appraised, mut found) = ([0_u64; 4], 0, 0);
    for row in tally {
        let (at, judged, n): (i32, bool, i64) =
            (row.try_get_by_index(0)?, row.try_get_by_index(1)?, row.try_get_by_index(2)?);
        let n = u64::try_from(n).unwrap_or_default();
        if let Some(count) = usize::try_from(at).ok().and_then(|at| counts.get_mut(at)) {
            *count += n;
        }
        appraised += if judged { n } else { 0 };
        let wanted = progress.is_none_or(|it| it == at) && query.appraised.is_none_or(|it| it == judged);
        found += if wanted { n } else { 0 };
    }
    let mut readers = board_readers(db, &rows).await?;
    let rows = rows
        .into_iter()
        .map(|row| BoardRow {
            readers: row.id.or(row.result_id).and_then(|id| readers.remove(&id)).unwrap_or_default(),
            progress: usize::try_from(row.progress)
                .ok()
                .and_then(|at| Progress::ALL.get(at).copied())
                .unwrap_or(Progress::Unread),
            id: row.id,
            result_id: row.result_id.map(ResultId),
            test_id: row.test_id.into(),
            reference_id: row.reference_id,
            reference: row.reference,
            about: row.about,
            appraised: row.appraised,
            sample: row.sample,
        })
        .collect();
    Ok(Board { rows, counts, appraised, found })
}

/// A double extraction, one of its readers by account or name, and when they handed in.
type Begun = (Uuid, Option<Uuid>, String, Option<DateTime<Utc>>);

/// By double extraction; for a result that was read once, by result: whoever entered it.
async fn board_readers(db: &impl ConnectionTrait, rows: &[Row]) -> Result<HashMap<Uuid, Vec<BoardReader>>, StoreError> {
    let readings = extraction::Entity::find()
        .select_only()
        .columns([
            extraction::Column::DoubleExtractionId,
            extraction::Column::AccountId,
            extraction::Column::Reader,
            extraction::Column::HandedInAt,
        ])
        .filter(among(extraction::Column::DoubleExtractionId, rows.iter().filter_map(|row| row.id)))
        .order_by_asc(extraction::Column::CreatedAt)
        .order_by_asc(extraction::Column::Id);
    let found: Vec<Begun> = readings.into_tuple().all(db).await?;
    let names = names(db, found.iter().filter_map(|(_, account, ..)| *account)).await?;
    let mut readers: HashMap<Uuid, Vec<BoardReader>> = HashMap::new();
    for (of, account, written, handed_in) in found {
        let name = account.and_then(|id| names.get(&id).cloned());
        let name = name.or_else(|| Some(written).filter(|name| !name.is_empty()));
        readers.entry(of).or_default().push(BoardReader { account, name, done: handed_in.is_some() });
    }
    let once: Vec<Uuid> = rows.iter().filter(|row| row.id.is_none()).filter_map(|row| row.result_id).collect();
    for (of, Entered { account, by: name, .. }) in entered(db, Kind::Result, &once).await? {
        readers.insert(of, vec![BoardReader { account, name, done: true }]);
    }
    Ok(readers)
}
