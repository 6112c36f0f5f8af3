//! Results that a second person has looked at.

use sea_orm::sea_query::{Expr, SimpleExpr};

use crate::history::Kind;

/// Which results are listed.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Seen {
    /// All.
    All,
    /// Those that are settled from two extractions, those that are on record as they stand when somebody else signed their sheet off, and
    /// those that nobody here entered.
    SignedOff,
}

impl Seen {
    /// Whether a row of this table, whose history is of this kind, is among them.
    pub(super) fn condition(self, table: &str, kind: Kind) -> SimpleExpr {
        if self == Self::All {
            return Expr::value(true);
        }
        let kind = kind.code();
        Expr::cust(format!(
            r#"EXISTS (
                SELECT 1 FROM revision AS written
                LEFT JOIN test ON test.id = "{table}".test_id
                LEFT JOIN revision AS signed
                    ON signed.kind = 'test' AND signed.record_id = test.id AND signed.version = test.published_version
                WHERE written.kind = '{kind}' AND written.record_id = "{table}".id AND written.version = "{table}".version
                    AND (written.action = 'settled' OR written.account_id IS NULL
                        OR (signed.seq > written.seq AND signed.account_id IS DISTINCT FROM written.account_id))
            )"#
        ))
    }
}
