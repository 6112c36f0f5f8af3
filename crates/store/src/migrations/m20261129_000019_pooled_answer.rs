//! Pooled answers at hand, so that a start does not compute them anew. Nothing is lost with them.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
CREATE TABLE pooled_answer (
    asked bytea PRIMARY KEY CHECK (length(asked) = 32),
    engine text NOT NULL,
    answer text NOT NULL,
    made_at timestamptz NOT NULL
);
";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }

    async fn down(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared("DROP TABLE pooled_answer;").await.map(|_| ())
    }
}
