//! Plans of examinations.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
CREATE TABLE examination_plan (
    id uuid PRIMARY KEY,
    region text NOT NULL,
    title_key text NOT NULL,
    content jsonb NOT NULL,
    published jsonb,
    sheets jsonb NOT NULL,
    sample boolean NOT NULL,
    status text NOT NULL CHECK (status IN ('draft', 'in_review', 'published', 'retired')),
    published_version integer,
    version integer NOT NULL,
    created_at timestamptz NOT NULL,
    updated_at timestamptz NOT NULL,
    UNIQUE (region, title_key)
);
ALTER TABLE revision DROP CONSTRAINT revision_kind_check;
ALTER TABLE revision ADD CONSTRAINT revision_kind_check CHECK (kind IN ('test', 'study', 'result', 'structure', 'condition',
    'reference', 'agreement', 'appraisal', 'teaching_conflict', 'plan', 'settings'));
ALTER TABLE unsaved DROP CONSTRAINT unsaved_what_check;
ALTER TABLE unsaved ADD CONSTRAINT unsaved_what_check CHECK (what IN ('sheet', 'result', 'agreement', 'accuracy-appraisal',
    'agreement-appraisal', 'reference', 'plan'));
";

const DOWN: &str = r"
DELETE FROM unsaved WHERE what = 'plan';
ALTER TABLE unsaved DROP CONSTRAINT unsaved_what_check;
ALTER TABLE unsaved ADD CONSTRAINT unsaved_what_check CHECK (what IN ('sheet', 'result', 'agreement', 'accuracy-appraisal',
    'agreement-appraisal', 'reference'));
DELETE FROM revision WHERE kind = 'plan';
ALTER TABLE revision DROP CONSTRAINT revision_kind_check;
ALTER TABLE revision ADD CONSTRAINT revision_kind_check CHECK (kind IN ('test', 'study', 'result', 'structure', 'condition',
    'reference', 'agreement', 'appraisal', 'teaching_conflict', 'settings'));
DROP TABLE examination_plan;
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
