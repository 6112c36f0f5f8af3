//! What holds for everybody.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r#"
CREATE TABLE settings (
    id uuid PRIMARY KEY CHECK (id = '00000000-0000-0000-0000-000000000000'),
    content jsonb NOT NULL,
    version integer NOT NULL
);
INSERT INTO settings VALUES ('00000000-0000-0000-0000-000000000000', '{"learners_see":"all_results"}', 1);
ALTER TABLE revision DROP CONSTRAINT revision_kind_check;
ALTER TABLE revision ADD CONSTRAINT revision_kind_check
    CHECK (kind IN ('test', 'study', 'result', 'structure', 'condition', 'reference', 'agreement', 'appraisal', 'settings'));
"#;

const DOWN: &str = r"
DELETE FROM revision WHERE kind = 'settings';
ALTER TABLE revision DROP CONSTRAINT revision_kind_check;
ALTER TABLE revision ADD CONSTRAINT revision_kind_check
    CHECK (kind IN ('test', 'study', 'result', 'structure', 'condition', 'reference', 'agreement', 'appraisal'));
DROP TABLE settings;
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
