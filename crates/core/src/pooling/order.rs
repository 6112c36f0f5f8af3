//! Studies in an order that does not depend on how they came.

use crate::accuracy::Counts;

/// Studies by their cells. Sums depend on their order by a rounding, and at the edge of what data identify that rounding decides.
pub(super) fn in_order(studies: &[Counts]) -> Vec<Counts> {
    let mut sorted = studies.to_vec();
    sorted.sort_by_key(Counts::cells);
    sorted
}
