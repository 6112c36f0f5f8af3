//! Names are compared as they look: the compared forms of those that hold more than ASCII are made anew.

use pruvex_core::catalogue::name_key;
use sea_orm_migration::prelude::*;
use sea_orm_migration::sea_orm::{ConnectionTrait, DbBackend, DbErr, Statement};

#[derive(DeriveMigrationName)]
pub struct Migration;

/// Where names stand: the table, the column of the name, that of its compared form, and what the form is single within.
const TABLES: [(&str, &str, &str, Option<&str>); 3] = [
    ("test_name", "label", "key", None),
    ("structure_name", "label", "key", Some("region")),
    ("condition", "name", "name_key", Some("region")),
];

/// What a search looks through, as it is when a sheet is saved.
const SEARCH_NAMES: &str = "UPDATE test SET search_names =
    coalesce((SELECT string_agg(key, ' ; ' ORDER BY position) FROM test_name WHERE test_id = test.id), '')";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        let db = manager.get_connection();
        for (table, name, key, within) in TABLES {
            let found = format!("SELECT DISTINCT {name} FROM {table} WHERE {name} ~ '[^ -~]'");
            for row in db.query_all_raw(Statement::from_string(DbBackend::Postgres, found)).await? {
                let text: String = row.try_get_by_index(0)?;
                // One whose new form another one has keeps its old form until somebody tells the two apart.
                let same = within.map_or_else(String::new, |within| format!("AND other.{within} = {table}.{within}"));
                let update = format!(
                    "UPDATE {table} SET {key} = $1 WHERE {name} = $2 AND {key} <> $1
                        AND NOT EXISTS (SELECT 1 FROM {table} other WHERE other.{key} = $1 {same})"
                );
                let values = [name_key(&text).into(), text.into()];
                db.execute_raw(Statement::from_sql_and_values(DbBackend::Postgres, update, values)).await?;
            }
        }
        db.execute_unprepared(SEARCH_NAMES).await.map(|_| ())
    }

    async fn down(&self, _: &SchemaManager) -> Result<(), DbErr> {
        Ok(())
    }
}
