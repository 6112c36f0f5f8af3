//! What somebody took the columns of their tables to hold.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
CREATE TABLE column_choice (
    account_id uuid NOT NULL REFERENCES account (id),
    header text NOT NULL,
    field text,
    at timestamptz NOT NULL,
    PRIMARY KEY (account_id, header)
);
";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }

    async fn down(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared("DROP TABLE column_choice").await.map(|_| ())
    }
}
