//! Records by many ids.

use sea_orm::ColumnTrait;
use sea_orm::sea_query::extension::postgres::PgFunc;
use sea_orm::sea_query::{Expr, ExprTrait, SimpleExpr};
use uuid::Uuid;

/// Whether a column holds one of these ids, however many: they go as one array, since a statement takes no more than 65 535 values.
pub(crate) fn among<C: ColumnTrait>(column: C, ids: impl IntoIterator<Item = Uuid>) -> SimpleExpr {
    Expr::col(column.as_column_ref()).eq(PgFunc::any(ids.into_iter().collect::<Vec<Uuid>>()))
}
