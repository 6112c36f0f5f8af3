//! Where a table's columns are named.

use std::collections::HashSet;

use super::cells::{Cell, Row, TableFile};
use super::fields::named;

/// Rows at the top among which the columns' names are looked for.
const LOOKED_AT: usize = 20;

/// Place of the row with the columns' names: the one that names most fields, else the first with two cells.
fn header_place(rows: &[Row]) -> usize {
    let known = |row: &Row| row.cells.iter().filter_map(|cell| named(&cell.text())).collect::<HashSet<_>>().len();
    let best = (0..rows.len().min(LOOKED_AT)).map(|at| (known(&rows[at]), at)).rev().max_by_key(|(known, _)| *known);
    match best {
        Some((known, at)) if known > 1 => at,
        _ => rows.iter().position(|row| row.cells.iter().filter(|cell| **cell != Cell::Empty).count() > 1).unwrap_or(0),
    }
}

/// How many of a file's columns say by their name what they hold.
pub(super) fn known_columns(file: &TableFile) -> usize {
    let header = file.rows.get(header_place(&file.rows));
    header.map_or(0, |row| row.cells.iter().filter(|cell| named(&cell.text()).is_some()).count())
}

/// The row of the columns' names and those below.
pub(super) fn split(file: &TableFile, header_row: Option<u32>) -> (&Row, &[Row]) {
    let asked = header_row.and_then(|number| file.rows.iter().position(|row| row.number == number));
    let place = asked.unwrap_or_else(|| header_place(&file.rows));
    (&file.rows[place], &file.rows[place + 1..])
}
