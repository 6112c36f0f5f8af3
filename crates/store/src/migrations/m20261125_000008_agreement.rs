//! Agreement results: how far examiners, or occasions, agree on a test.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
CREATE TABLE agreement (
    id uuid PRIMARY KEY,
    test_id uuid NOT NULL REFERENCES test (id),
    reference_id uuid REFERENCES reference (id),
    content jsonb NOT NULL,
    sample boolean NOT NULL,
    version integer NOT NULL CHECK (version > 0),
    created_at timestamptz NOT NULL,
    updated_at timestamptz NOT NULL,
    deleted_at timestamptz
);
CREATE INDEX agreement_test ON agreement (test_id, created_at, id);
CREATE INDEX agreement_reference ON agreement (reference_id);
ALTER TABLE revision DROP CONSTRAINT revision_kind_check;
ALTER TABLE revision ADD CONSTRAINT revision_kind_check
    CHECK (kind IN ('test', 'study', 'structure', 'condition', 'reference', 'agreement'));
";

const DOWN: &str = r"
DELETE FROM revision WHERE kind = 'agreement';
ALTER TABLE revision DROP CONSTRAINT revision_kind_check;
ALTER TABLE revision ADD CONSTRAINT revision_kind_check
    CHECK (kind IN ('test', 'study', 'structure', 'condition', 'reference'));
DROP TABLE agreement;
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
