//! How far a study can be trusted: one appraisal of its accuracy and one of its agreement.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
CREATE TABLE appraisal (
    id uuid PRIMARY KEY,
    study_id uuid NOT NULL REFERENCES study (id),
    aspect text NOT NULL CHECK (aspect IN ('accuracy', 'agreement')),
    content jsonb NOT NULL,
    sample boolean NOT NULL,
    version integer NOT NULL CHECK (version > 0),
    created_at timestamptz NOT NULL,
    updated_at timestamptz NOT NULL,
    UNIQUE (study_id, aspect)
);
ALTER TABLE revision DROP CONSTRAINT revision_kind_check;
ALTER TABLE revision ADD CONSTRAINT revision_kind_check
    CHECK (kind IN ('test', 'study', 'result', 'structure', 'condition', 'reference', 'agreement', 'appraisal'));
";

const DOWN: &str = r"
DELETE FROM revision WHERE kind = 'appraisal';
ALTER TABLE revision DROP CONSTRAINT revision_kind_check;
ALTER TABLE revision ADD CONSTRAINT revision_kind_check
    CHECK (kind IN ('test', 'study', 'result', 'structure', 'condition', 'reference', 'agreement'));
DROP TABLE appraisal;
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
