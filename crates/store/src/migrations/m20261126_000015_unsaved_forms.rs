//! Every form of the evidence is kept as it is typed; the board of double extractions is searched by index.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
ALTER TABLE unsaved DROP CONSTRAINT unsaved_what_check;
ALTER TABLE unsaved ADD CONSTRAINT unsaved_what_check CHECK (what IN
    ('sheet', 'result', 'agreement', 'accuracy-appraisal', 'agreement-appraisal', 'reference'));
CREATE INDEX study_reference_search ON study USING gin (lower(reference) gin_trgm_ops);
CREATE INDEX double_extraction_reference_search ON double_extraction USING gin (lower(reference) gin_trgm_ops);
";

const DOWN: &str = r"
DROP INDEX double_extraction_reference_search;
DROP INDEX study_reference_search;
DELETE FROM unsaved WHERE what NOT IN ('sheet', 'result');
ALTER TABLE unsaved DROP CONSTRAINT unsaved_what_check;
ALTER TABLE unsaved ADD CONSTRAINT unsaved_what_check CHECK (what IN ('sheet', 'result'));
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
