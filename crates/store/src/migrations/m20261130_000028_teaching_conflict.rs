//! The register of conflicting teaching.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
CREATE TABLE teaching_conflict (
    id uuid PRIMARY KEY,
    region text NOT NULL,
    content jsonb NOT NULL,
    sample boolean NOT NULL,
    version integer NOT NULL,
    created_at timestamptz NOT NULL,
    updated_at timestamptz NOT NULL,
    deleted_at timestamptz
);
ALTER TABLE revision DROP CONSTRAINT revision_kind_check;
ALTER TABLE revision ADD CONSTRAINT revision_kind_check CHECK (kind IN ('test', 'study', 'result', 'structure', 'condition',
    'reference', 'agreement', 'appraisal', 'teaching_conflict', 'settings'));
";

const DOWN: &str = r"
DELETE FROM revision WHERE kind = 'teaching_conflict';
ALTER TABLE revision DROP CONSTRAINT revision_kind_check;
ALTER TABLE revision ADD CONSTRAINT revision_kind_check
    CHECK (kind IN ('test', 'study', 'result', 'structure', 'condition', 'reference', 'agreement', 'appraisal', 'settings'));
DROP TABLE teaching_conflict;
";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }

    async fn down(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(DOWN).await.map(|_| ())
    }
}
