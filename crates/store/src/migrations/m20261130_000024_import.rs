//! Imports that landed: who, when, what, and which changes they made, so that one can be taken back.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
CREATE TABLE import (
    id uuid PRIMARY KEY,
    kind text NOT NULL CHECK (kind IN ('bundle', 'table', 'references')),
    name text NOT NULL,
    account_id uuid REFERENCES account (id),
    at timestamptz NOT NULL,
    -- Its changes: nobody else makes any while it lasts.
    first_seq bigint NOT NULL,
    last_seq bigint NOT NULL,
    brought jsonb NOT NULL,
    -- Double extractions have no history of their own.
    extractions jsonb NOT NULL,
    taken_back_at timestamptz,
    taken_back_by uuid REFERENCES account (id)
);
CREATE INDEX import_at ON import (at);
";

const DOWN: &str = "DROP TABLE import;";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }

    async fn down(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(DOWN).await.map(|_| ())
    }
}
